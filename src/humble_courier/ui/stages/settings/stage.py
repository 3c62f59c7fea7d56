"""Settings: do both ends agree, and if not, why? Six acts, one page each."""

from enum import StrEnum

from humble_courier.ui.stage import ActsStage
from humble_courier.ui.stages.settings.address_page import AddressPage
from humble_courier.ui.stages.settings.capture_page import CapturePage
from humble_courier.ui.stages.settings.ends_page import EndsPage
from humble_courier.ui.stages.settings.figures_page import FiguresPage
from humble_courier.ui.stages.settings.match_page import MatchPage
from humble_courier.ui.stages.settings.switches_page import SwitchesPage


class SettingsAct(StrEnum):
    """What one does about the settings."""

    SEE = "see"
    COMPARE = "compare"
    SWITCHES = "switches"
    READ = "read"
    TIME = "time"
    ADDRESS = "address"


class SettingsStage(ActsStage[SettingsAct]):
    """The pages and the row of acts."""

    def __init__(self) -> None:
        super().__init__()
        self.ends, self.match, self.switches = EndsPage(), MatchPage(), SwitchesPage()
        self.capture, self.figures, self.address = CapturePage(), FiguresPage(), AddressPage()
        self.lay_out(
            {
                SettingsAct.SEE: (self.tr("See a character"), self.ends),
                SettingsAct.COMPARE: (self.tr("Side by side"), self.match),
                SettingsAct.SWITCHES: (self.tr("Switches"), self.switches),
                SettingsAct.READ: (self.tr("Read a recording"), self.capture),
                SettingsAct.TIME: (self.tr("Timing and flow"), self.figures),
                SettingsAct.ADDRESS: (self.tr("Addresses"), self.address),
            }
        )
