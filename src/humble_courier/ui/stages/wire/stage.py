"""Wire: does each conductor end where it should? Six acts, one page each."""

from enum import StrEnum

from humble_courier.ui.stage import ActsStage
from humble_courier.ui.stages.wire.build_page import BuildPage
from humble_courier.ui.stages.wire.chain_page import ChainPage
from humble_courier.ui.stages.wire.load_page import LoadPage
from humble_courier.ui.stages.wire.map_page import MapPage
from humble_courier.ui.stages.wire.meter_page import MeterPage
from humble_courier.ui.stages.wire.volts_page import VoltsPage
from humble_courier.ui.theme import Theme


class WireAct(StrEnum):
    """What one does about the wiring."""

    FOLLOW = "follow"
    CABLE = "cable"
    PORT = "port"
    CHOOSE = "choose"
    LOAD = "load"
    BUILD = "build"


class WireStage(ActsStage[WireAct]):
    """The pages and the row of acts."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.map, self.meter, self.volts = MapPage(theme), MeterPage(theme), VoltsPage(theme)
        self.chains, self.load, self.build = ChainPage(theme), LoadPage(), BuildPage(theme)
        self.lay_out(
            {
                WireAct.FOLLOW: (self.tr("Follow the wires"), self.map),
                WireAct.CABLE: (self.tr("Name a cable"), self.meter),
                WireAct.PORT: (self.tr("Name a port"), self.volts),
                WireAct.CHOOSE: (self.tr("Pick from the kit"), self.chains),
                WireAct.LOAD: (self.tr("Length and load"), self.load),
                WireAct.BUILD: (self.tr("Build a cable"), self.build),
            }
        )
