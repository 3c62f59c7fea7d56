"""Settings: do both ends agree, and if not, why? Six pages."""

from humble_courier.app.link.stages import SettingsPage
from humble_courier.ui.stage_widget import PagesStage
from humble_courier.ui.stages.settings.address_page import AddressPage
from humble_courier.ui.stages.settings.both_ends_page import BothEndsPage
from humble_courier.ui.stages.settings.capture_page import CapturePage
from humble_courier.ui.stages.settings.ends_page import EndsPage
from humble_courier.ui.stages.settings.figures_page import FiguresPage
from humble_courier.ui.stages.settings.switches_page import SwitchesPage


class SettingsStage(PagesStage[SettingsPage]):
    """The pages and the row above them."""

    def __init__(self) -> None:
        super().__init__()
        self.ends, self.match, self.switches = EndsPage(), BothEndsPage(), SwitchesPage()
        self.capture, self.figures, self.address = CapturePage(), FiguresPage(), AddressPage()
        self.lay_out(
            {
                SettingsPage.SEE: ("See a character", self.ends),
                SettingsPage.COMPARE: ("Side by side", self.match),
                SettingsPage.SWITCHES: ("Switches", self.switches),
                SettingsPage.READ: ("Read a recording", self.capture),
                SettingsPage.TIME: ("Timing and flow", self.figures),
                SettingsPage.ADDRESS: ("Addresses", self.address),
            }
        )
