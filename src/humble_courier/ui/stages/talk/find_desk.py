"""What the Find page does: lays a search out, runs it beside the window, and tells what it found.

A search belongs to what was typed when it began: whatever is typed over it, another link and every key that stops end it.
What it is allowed to send ends with it.
"""

from concurrent.futures import Future, ThreadPoolExecutor
from functools import partial

from PyQt6.QtCore import QObject, QSignalBlocker, pyqtSignal

from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.stages import Stage, TalkPage
from humble_courier.app.port.listing import openable
from humble_courier.app.talk import search_space
from humble_courier.app.talk.device_search import Search, SearchRun, wanted_here
from humble_courier.errors import BadInput, CourierError
from humble_courier.ui.stages.talk.find_page import FindPage
from humble_courier.ui.workplace import Workplace

FIND = "Find a device that does not answer"


class FindDesk(QObject):
    """The search that runs or ran last: `run`; `wanted`: what is typed, laid out or soon to be."""

    told = pyqtSignal(str, str)  # headline and reason, for the stage
    _stepped = pyqtSignal()
    _planned = pyqtSignal(object)
    _ended = pyqtSignal(object)

    def __init__(self, page: FindPage, work: Workplace, workers: ThreadPoolExecutor) -> None:
        super().__init__(page)
        self.page, self.work, self._workers = page, work, workers
        self._planner = ThreadPoolExecutor(max_workers=1, thread_name_prefix="planning")  # not behind a search that runs
        self.run: SearchRun | None = None
        self.wanted: Search | None = None
        self._asked_for: tuple[object, ...] = ()
        self._offered = ""  # what stands in the field of ports though nobody typed it
        page.changed.connect(self._changed)
        page.all_wanted.connect(self._everywhere)
        page.started.connect(lambda: work.do(self._start))
        page.cancelled.connect(self.halt)
        self._stepped.connect(self._show_if_open)
        self._planned.connect(self._take_plan)
        self._ended.connect(self._take)

    def halt(self) -> None:
        """Stop the search that runs."""
        if self.run is not None:
            self.run.stop()

    def rest(self) -> None:
        """The window goes."""
        self.halt()
        self._planner.shutdown(wait=True, cancel_futures=True)

    def another_link(self) -> None:
        """Port, tick and what was found belong to the link before."""
        self._forget()
        self._offer(self._here(), armed=False)

    def opened_anew(self) -> None:
        """The page is opened: a list that nobody typed is filled anew."""
        if self.run is None or not self.run.running:
            self._follow_port()

    def at_once(self) -> None:
        """From words that brought nothing: who has armed has allowed first words, and sees what the search says first."""
        link = self.work.link
        if link is None:
            return
        self.work.go(Stage.TALK, TalkPage.FIND)
        self._forget()
        self._offer(self._here(), armed=link.live.armed)
        self.work.do(self._start)

    def _here(self) -> str:
        """The port of the link on the line, which stands in its document and nowhere else."""
        return (self.work.link.document.link.address or "") if self.work.link is not None else ""

    def _offer(self, ports: str, armed: bool) -> None:
        with QSignalBlocker(self.page):
            self.page.ports.setText(ports)
            self.page.armed.setChecked(armed)
        self._offered = ports

    def _follow_port(self) -> None:
        """The link may have another port by now; what a person typed stays."""
        if self.page.ports.text() == self._offered != self._here():
            self._forget()
            self._offer(self._here(), armed=False)

    def _forget(self) -> None:
        self.halt()
        self.run = self.wanted = None

    def _everywhere(self) -> None:
        """All ports that can be opened; of the demo those of its links."""
        records, machine = self.work.records, self.work.machine
        addresses = records.simulated() if machine is not None and records is not None else openable()
        self.page.ports.setText(" ".join(addresses))
        self._changed()

    def _changed(self) -> None:
        """Something else is asked for: a search that runs ends, and what it found and excluded does not hold any more."""
        if self.wanted is not None and self._asked_for == self._typed():
            return  # a field was only left
        self._forget()
        self._show_if_open()

    def _typed(self) -> tuple[str, str, bool, bool]:
        page = self.page
        return page.ports.text(), page.words.text().strip(), page.sheet.isChecked(), page.armed.isChecked()

    def _plan(self, link: OpenLink) -> None:
        """Lay the search out beside the window: that takes a moment, and is done once for what is asked."""
        page, self._asked_for = self.page, self._typed()
        asked = link.document.link, page.ports.text(), self.work.catalog, page.sheet.isChecked(), page.armed.isChecked()
        try:
            self.wanted = wanted = wanted_here(*asked, link.proofs(), page.words.text().strip())
        except BadInput as error:
            self.told.emit("Nothing to search for yet", error.text)
            page.show_search("", (), [], self.work.theme)
            return
        self._planner.submit(wanted.lay_out).add_done_callback(self._planned.emit)

    def _take_plan(self, done: "Future[Search]") -> None:
        if done.result() is self.wanted:
            self._show_if_open()

    def _show_if_open(self) -> None:
        if self.page.isVisible() and self.work.link is not None:
            self.show(self.work.link)

    def show(self, link: OpenLink) -> None:
        """The page is open: show what is typed, or how far the search is."""
        page, run = self.page, self.run
        self._follow_port()
        if self.wanted is None:
            self._plan(link)
        wanted = self.wanted
        if wanted is None:
            return
        self.told.emit(*(search_space.told(run.search, run.running) if run is not None else self._promise(wanted)))
        cells = search_space.cells(wanted.spaces, run.search if run else None) if wanted.laid_out else ()
        page.show_search(wanted.says, cells, run.tried if run else [], self.work.theme)
        running = run is not None and run.running
        page.show_running(running, run is not None and not run.ended, run is not None and run.found is not None)

    def _promise(self, wanted: Search) -> tuple[str, str]:
        """What a search that has not begun would take."""
        if not wanted.laid_out:
            return FIND, "Laying out what there is to try."
        at_most, in_order = search_space.spoken(wanted.longest_s), search_space.spoken(wanted.in_order_s)
        if not self.page.armed.isChecked():
            return FIND, f"Only listens, for {at_most} at most; nothing is asked."
        most = f"nine in ten devices within {search_space.spoken(wanted.most_s)}, at most {at_most}"
        return FIND, f"Listens first, then asks, if you allow it: {most}; in order it would be {in_order}."

    def _start(self) -> None:
        """Begin a search, or go on with the one that was stopped."""
        link, run = self.work.link, self.run
        if link is None or (run is not None and run.running):
            return
        if self.wanted is None:
            self._plan(link)
        if self.wanted is None:
            return
        link.search_begun()
        if run is None or run.ended:
            run = self.run = SearchRun(
                self.wanted, link.new_log(), self.work.authority, link.live.lends("the device search")
            )
        run.begun()
        self._workers.submit(partial(run.run, self._stepped.emit)).add_done_callback(partial(self._over, run, link))

    def _over(self, run: SearchRun, link: OpenLink, done: "Future[None]") -> None:
        """In whatever thread: of the search that ended, for the link for which it was begun."""
        self._ended.emit((run, link, done.exception()))

    def _take(self, ended: tuple[SearchRun, OpenLink, BaseException | None]) -> None:
        run, link, error = ended
        over = error is None and run.ended
        link.search_over(in_vain=over and run.found is None)
        if over and run is self.run:  # what was allowed for this search ends with it
            with QSignalBlocker(self.page):
                self.page.armed.setChecked(False)
            self._asked_for = self._typed()
        if isinstance(error, CourierError):
            self.work.complain(error)
        elif error is not None:
            raise error
        if run.found is not None and run is self.run and link is self.work.link:
            found = run.found
            self.work.do(lambda: link.found(found))
        self.work.changed.emit()
