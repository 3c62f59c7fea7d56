"""Talk: does it answer? Five acts, one page each."""

from enum import StrEnum

from humble_courier.ui.stage import ActsStage
from humble_courier.ui.stages.talk.find_page import FindPage
from humble_courier.ui.stages.talk.listen_page import ListenPage
from humble_courier.ui.stages.talk.play_page import PlayPage
from humble_courier.ui.stages.talk.prove_page import ProvePage
from humble_courier.ui.stages.talk.visa_page import VisaPage


class TalkAct(StrEnum):
    """What can be done about the words."""

    LISTEN = "listen"
    FIND = "find"
    PROVE = "prove"
    PLAY = "play"
    VISA = "visa"


class TalkStage(ActsStage[TalkAct]):
    """The acts in the order in which they are met."""

    def __init__(self) -> None:
        super().__init__()
        self.listening, self.finding, self.prove = ListenPage(), FindPage(), ProvePage()
        self.play, self.visa = PlayPage(), VisaPage()
        self.lay_out(
            {
                TalkAct.LISTEN: (self.tr("Listen and say"), self.listening),
                TalkAct.FIND: (self.tr("Find a silent device"), self.finding),
                TalkAct.PROVE: (self.tr("Prove the port"), self.prove),
                TalkAct.PLAY: (self.tr("Play the talker"), self.play),
                TalkAct.VISA: (self.tr("Other buses"), self.visa),
            }
        )
