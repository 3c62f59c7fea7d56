"""Settings: do both ends agree, and if not, why? Six acts, one page each."""

from enum import StrEnum

from humble_courier.ui.settings.address_page import AddressPage
from humble_courier.ui.settings.capture_page import CapturePage
from humble_courier.ui.settings.ends_page import EndsPage
from humble_courier.ui.settings.figures_page import FiguresPage
from humble_courier.ui.settings.match_page import MatchPage
from humble_courier.ui.settings.switches_page import SwitchesPage
from humble_courier.ui.stages.base import ActsStage


class Act(StrEnum):
    """What one does about the settings."""

    SEE = "see"
    COMPARE = "compare"
    SWITCHES = "switches"
    READ = "read"
    TIME = "time"
    ADDRESS = "address"


class SettingsStage(ActsStage[Act]):
    """The pages and the row of acts."""

    def __init__(self) -> None:
        super().__init__()
        self.ends, self.match, self.switches = EndsPage(), MatchPage(), SwitchesPage()
        self.capture, self.figures, self.address = CapturePage(), FiguresPage(), AddressPage()
        self.lay_out(
            {
                Act.SEE: (self.tr("See a character"), self.ends),
                Act.COMPARE: (self.tr("Side by side"), self.match),
                Act.SWITCHES: (self.tr("Switches"), self.switches),
                Act.READ: (self.tr("Read a recording"), self.capture),
                Act.TIME: (self.tr("Timing and flow"), self.figures),
                Act.ADDRESS: (self.tr("Addresses"), self.address),
            }
        )
