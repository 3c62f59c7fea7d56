"""Talk: does it answer? Six pages."""

from humble_courier.app.link.stages import TalkPage
from humble_courier.ui.stage_widget import PagesStage
from humble_courier.ui.stages.talk.find_page import FindPage
from humble_courier.ui.stages.talk.keep_page import KeepPage
from humble_courier.ui.stages.talk.listen_page import ListenPage
from humble_courier.ui.stages.talk.play_page import PlayPage
from humble_courier.ui.stages.talk.prove_page import ProvePage
from humble_courier.ui.stages.talk.visa_page import VisaPage


class TalkStage(PagesStage[TalkPage]):
    """The pages in the order in which they are met."""

    def __init__(self) -> None:
        super().__init__()
        self.listening, self.finding, self.prove = ListenPage(), FindPage(), ProvePage()
        self.play, self.visa, self.keep = PlayPage(), VisaPage(), KeepPage()
        self.lay_out(
            {
                TalkPage.LISTEN: ("Listen and say", self.listening),
                TalkPage.FIND: ("Find a silent device", self.finding),
                TalkPage.PROVE: ("Prove the port", self.prove),
                TalkPage.PLAY: ("Play the talker", self.play),
                TalkPage.VISA: ("Other buses", self.visa),
                TalkPage.KEEP: ("Keep this device", self.keep),
            }
        )
