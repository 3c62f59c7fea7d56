"""The desk of the Talk stage: one desk for each of its pages, and one pool for the long work of all of them."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import partial

from humble_courier.app.link.stages import TalkPage
from humble_courier.app.link.step import Action
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.talk.find_desk import FindDesk
from humble_courier.ui.stages.talk.keep_desk import KeepDesk
from humble_courier.ui.stages.talk.listen_desk import ListenDesk
from humble_courier.ui.stages.talk.play_desk import PlayDesk
from humble_courier.ui.stages.talk.prove_desk import ProveDesk
from humble_courier.ui.stages.talk.stage import TalkStage
from humble_courier.ui.stages.talk.visa_desk import VisaDesk
from humble_courier.ui.workplace import Workplace


class TalkDesk(StageDesk):
    """Opens the desk of the page that is open."""

    def __init__(self, work: Workplace) -> None:
        self.stage = stage = TalkStage()
        super().__init__(stage, work)
        self._workers = workers = ThreadPoolExecutor(max_workers=1, thread_name_prefix="talking")
        self.listening = ListenDesk(stage.listening, work)
        self.finding = FindDesk(stage.finding, work, workers)
        self.proofs = ProveDesk(stage.prove, work, workers)
        self.playing = PlayDesk(stage.play, work)
        self.visa = VisaDesk(stage.visa, work, workers)
        self.keeping = KeepDesk(stage.keep, work)
        for one in (self.listening, self.finding, self.proofs, self.playing, self.visa, self.keeping):
            one.told.connect(stage.say)
        self._connect()
        self.finding.another_link()
        self.listening.another_link()

    def _connect(self) -> None:
        """What comes from elsewhere to a page."""
        page, work = self.stage.listening, self.work
        self.stage.page_chosen.connect(self._chosen)
        work.opened.connect(self.finding.another_link)
        work.opened.connect(self.proofs.another_link)
        work.opened.connect(self.listening.another_link)
        work.wanted.connect(lambda step: self.listening.put(step.words) if step.action is Action.TYPE else None)
        work.wanted.connect(lambda step: self.proofs.read_units() if step.action is Action.UNITS else None)
        work.search_wanted.connect(self.finding.at_once)
        page.search_wanted.connect(self.finding.at_once)
        self.stage.finding.adopted.connect(lambda: work.do(self._adopt))

    def rest(self) -> None:
        """The window goes: stop what runs, and wait for it."""
        self.finding.rest()
        self.proofs.halt()
        self._workers.shutdown(wait=True)

    def _chosen(self) -> None:
        if self.stage.page is TalkPage.FIND:
            self.finding.opened_anew()
        self.show()

    def show(self) -> None:
        """Hand the current values to the open page."""
        link = self.work.link
        if link is None:
            return
        pages: dict[TalkPage, Callable[[], None]] = {
            TalkPage.LISTEN: partial(self.listening.show, link), TalkPage.FIND: partial(self.finding.show, link),
            TalkPage.PROVE: self.proofs.show, TalkPage.PLAY: partial(self.playing.show, link),
            TalkPage.VISA: self.visa.show, TalkPage.KEEP: partial(self.keeping.show, link),
        }  # fmt: skip
        pages[self.stage.page]()

    def poll(self) -> None:
        """The lamps and the activity move even while nothing is heard; so does what is waited for, and what is played."""
        link = self.work.link
        if link is not None and self.stage.page is TalkPage.LISTEN:
            self.listening.show_moving(link)
        elif link is not None and self.stage.page is TalkPage.PLAY:
            self.playing.show(link)

    def _adopt(self) -> None:
        self.link().adopt()
        self.stage.choose(TalkPage.LISTEN)
