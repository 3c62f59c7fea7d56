"""Wire: does each conductor end where it should? Six pages."""

from humble_courier.app.link.stages import WirePage
from humble_courier.ui.stage_widget import PagesStage
from humble_courier.ui.stages.wire.build_page import BuildPage
from humble_courier.ui.stages.wire.chain_page import ChainPage
from humble_courier.ui.stages.wire.load_page import LoadPage
from humble_courier.ui.stages.wire.map_page import MapPage
from humble_courier.ui.stages.wire.meter_page import MeterPage
from humble_courier.ui.stages.wire.volts_page import VoltsPage
from humble_courier.ui.theme import Theme


class WireStage(PagesStage[WirePage]):
    """The pages and the row above them."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.map, self.meter, self.volts = MapPage(theme), MeterPage(theme), VoltsPage(theme)
        self.chains, self.load, self.build = ChainPage(theme), LoadPage(), BuildPage(theme)
        self.lay_out(
            {
                WirePage.FOLLOW: ("Follow the wires", self.map),
                WirePage.CABLE: ("Name a cable", self.meter),
                WirePage.PORT: ("Name a port", self.volts),
                WirePage.CHOOSE: ("Pick from the kit", self.chains),
                WirePage.LOAD: ("Length and load", self.load),
                WirePage.BUILD: ("Build a cable", self.build),
            }
        )
