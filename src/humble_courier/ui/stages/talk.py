"""Talk: does it answer? Five acts, one page each."""

from enum import StrEnum

from humble_courier.ui.stages.base import ActsStage
from humble_courier.ui.talk.find_page import FindPage
from humble_courier.ui.talk.listen_page import ListenPage
from humble_courier.ui.talk.play_page import PlayPage
from humble_courier.ui.talk.prove_page import ProvePage
from humble_courier.ui.talk.visa_page import VisaPage


class Act(StrEnum):
    """What can be done about the words."""

    LISTEN = "listen"
    FIND = "find"
    PROVE = "prove"
    PLAY = "play"
    VISA = "visa"


class TalkStage(ActsStage[Act]):
    """The acts in the order in which they are met."""

    def __init__(self) -> None:
        super().__init__()
        self.listening, self.finding, self.prove = ListenPage(), FindPage(), ProvePage()
        self.play, self.visa = PlayPage(), VisaPage()
        self.lay_out(
            {
                Act.LISTEN: (self.tr("Listen and say"), self.listening),
                Act.FIND: (self.tr("Find a silent device"), self.finding),
                Act.PROVE: (self.tr("Prove the port"), self.prove),
                Act.PLAY: (self.tr("Play the talker"), self.play),
                Act.VISA: (self.tr("Other buses"), self.visa),
            }
        )
