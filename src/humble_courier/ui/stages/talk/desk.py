"""The desk of the Talk stage: hands values to its pages, carries out what they ask for; long work runs beside the window."""

from concurrent.futures import Future, ThreadPoolExecutor
from functools import partial
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog

from humble_courier.app.link.headlines import talk_headline
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.stages import Stage, TalkPage
from humble_courier.app.link.step import Action
from humble_courier.app.port.listing import openable
from humble_courier.app.talk import instruments, playing, search_space
from humble_courier.app.talk.device_search import Search, SearchRun, wanted_here
from humble_courier.app.talk.log_text import write_log_text
from humble_courier.app.talk.reading import reading_of
from humble_courier.app.talk.typed_words import Typed
from humble_courier.domain.proven import ProofKind
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput, CourierError
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.talk.keep_desk import KeepDesk
from humble_courier.ui.stages.talk.prove_desk import ProveDesk
from humble_courier.ui.stages.talk.stage import TalkStage
from humble_courier.ui.workplace import Workplace

FIRST_OFFERED = Terminator.CR  # where no sheet says otherwise


class TalkDesk(StageDesk):
    """Everything of the Talk stage that is not drawing."""

    _told = pyqtSignal()
    _planned = pyqtSignal(object)
    _ended = pyqtSignal(object)
    _answered = pyqtSignal(str)

    def __init__(self, work: Workplace) -> None:
        self.stage = TalkStage()
        super().__init__(self.stage, work)
        self.run: SearchRun | None = None
        self._wanted: Search | None = None
        self._workers = ThreadPoolExecutor(max_workers=1, thread_name_prefix="talking")
        self._libraries: list[instruments.Library] | None = []
        self._searched = ""
        self._asking: instruments.Permit | None = None
        self._drawn: object = None
        self._picture: playing.Picture | None = None
        self.proofs = ProveDesk(self.stage.prove, work, self._workers)
        self.keeping = KeepDesk(self.stage.keep, work)
        self._connect()
        self._another_link()

    def _connect(self) -> None:
        """All connections of the stage, in one place."""
        page, find, play, visa = self.stage.listening, self.stage.finding, self.stage.play, self.stage.visa
        self.stage.page_chosen.connect(self.show)
        self.work.opened.connect(self._another_link)
        self.work.wanted.connect(lambda action: page.card.words.setFocus() if action is Action.TYPE else None)
        self.work.wanted.connect(lambda action: self.proofs.read_units() if action is Action.UNITS else None)
        self.work.search_wanted.connect(self._search_at_once)
        self.proofs.told.connect(self.stage.say)
        self.keeping.told.connect(self.stage.say)
        page.listen.connect(lambda: self.work.do(self.link().listen))
        page.stop.connect(lambda: self.work.do(self.link().stop))
        page.say_words.connect(lambda text, end: self.work.do(lambda: self.link().say(text, Terminator(end))))
        page.card.typed.connect(self._say_typed)
        page.card.stop_repeat.connect(lambda: self.work.do(self.link().live.stop_repeating))
        page.again.connect(lambda end: self.work.do(lambda: self.link().say_again(Terminator(end))))
        page.search_wanted.connect(self._search_at_once)
        page.card.pressed.connect(lambda data: self.work.do(lambda: self.link().press(data)))
        page.card.waited.connect(lambda text: self.work.do(lambda: self.link().live.wait_for(text)))
        page.card.when.connect(lambda text, typed: self.work.do(lambda: self.link().when(text, typed)))
        page.read_unit.connect(lambda: self.work.do(self.link().read_registers))
        page.unit_chosen.connect(lambda unit: self.work.do(lambda: self.link().choose_unit(unit)))
        page.right.connect(lambda: self.work.do(self.link().mark_right))
        page.card.send_break.connect(lambda: self.work.do(self.link().send_break))
        page.lamps.moved.connect(lambda name, on: self.work.do(lambda: self.link().set_line(name, on)))
        page.searched.connect(self._search_log)
        page.save_text.connect(self._save_text)
        find.changed.connect(self._changed)
        find.all_wanted.connect(self._everywhere)
        find.started.connect(lambda: self.work.do(self._start))
        find.cancelled.connect(self._stop_search)
        find.adopted.connect(lambda: self.work.do(self._adopt))
        play.changed.connect(lambda: self.work.do(self._change_play))
        play.started.connect(lambda: self.work.do(self._play))
        play.seen.connect(lambda: self.work.do(self.link().mark_seen))
        play.stopped.connect(lambda: self.work.do(self.link().live.stop_playing))
        visa.looked.connect(self._look)
        visa.asked.connect(self._ask)
        self._told.connect(self.show)
        self._planned.connect(self._take_plan)
        self._ended.connect(self._take)
        self._answered.connect(visa.show_answer)

    @property
    def sending(self) -> str:
        """What a search or a proof may send at this moment; empty while none does."""
        asking = self._asking.scope if self._asking is not None and self._asking.holds else ""
        return (self.run.sending if self.run is not None else "") or self.proofs.sending or asking

    def halt(self) -> None:
        """Stop a search, a proof and a question."""
        if self._asking is not None:
            self._asking.withdraw()
        self._stop_search()
        self.proofs.halt()

    def rest(self) -> None:
        """The window goes: stop what runs, and wait for it."""
        self.halt()
        self._workers.shutdown(wait=True)

    def _another_link(self) -> None:
        """Searches and proofs belong to the link for which they were begun."""
        self._stop_search()
        self.run = self._wanted = None
        link = self.work.link
        if link is not None and link.document.link.address:
            self.stage.finding.ports.setText(link.document.link.address)

    def show(self) -> None:
        """Hand the current values to the open page."""
        link = self.work.link
        if link is None:
            return
        pages = {
            TalkPage.LISTEN: self._show_listening, TalkPage.FIND: self._show_find, TalkPage.PROVE: self._show_proofs,
            TalkPage.PLAY: self._show_play, TalkPage.VISA: self._show_visa, TalkPage.KEEP: self.keeping.show,
        }  # fmt: skip
        pages[self.stage.page](link)

    def poll(self) -> None:
        """The lamps and the activity move even while nothing is heard; so does what is waited for."""
        link = self.work.link
        if link is not None and self.stage.page is TalkPage.LISTEN:
            self._show_state(link)
            self._show_lines(link)

    # Listen and say

    def _show_listening(self, link: OpenLink) -> None:
        page, sheet, live = self.stage.listening, link.document.link.sheet, link.live
        self.stage.say(*talk_headline(link))
        page.show_words(sheet.first_words if sheet else [], link.document.link.end or FIRST_OFFERED, live.armed)
        self._show_unit(link)
        silence = link.evidence.silence if live.armed else None
        page.show_silence(silence.end if silence is not None else None, silence.words if silence is not None else "")
        self._show_state(link)
        self._show_lines(link)
        shown = live.search(self._searched) if self._searched else live.utterances()
        heard, utterances, _ = live.count
        count = len(shown) if self._searched else heard + utterances
        page.show_said(shown, count, sheet.name if sheet else "the device", self.work.theme)

    def _show_unit(self, link: OpenLink) -> None:
        sheet, reply, armed = link.document.link.sheet, link.evidence.reply, link.live.armed
        waits = reply is not None and (link.evidence.shown is None or link.evidence.shown.kind is ProofKind.MARKED)
        told = f"“{reply.words}” was answered “{reply.answer}”" if reply is not None and waits else ""
        reading = reading_of(link.document.link)
        if reading is None:
            self.stage.listening.show_unit(None, (1, 1), "", armed, told)
            return
        bus = sheet.addresses if sheet is not None else None
        limits = (bus.lowest, bus.highest) if bus is not None else (1, 247)
        self.stage.listening.show_unit(reading.unit, limits, reading.says, armed, told)

    def _show_state(self, link: OpenLink) -> None:
        live = link.live
        self.stage.listening.show_state(live.listening, live.armed, live.repeating, live.log_problem or live.waiting)

    def _show_lines(self, link: OpenLink) -> None:
        page, live, theme = self.stage.listening, link.live, self.work.theme
        page.lamps.show_lines(live.lines(), live.listening and live.armed, theme)
        page.activity.show_levels(live.activity(), theme)

    def _say_typed(self, typed: Typed) -> None:
        self.work.do(lambda: self.link().say_typed(typed))

    def _search_log(self, words: str) -> None:
        self._searched = words.strip()
        self.show()

    def _save_text(self) -> None:
        path = self.link().live.log_path
        if path is None:
            self.work.complain(BadInput("nothing was opened yet, so there is no log"))
            return
        chosen, _ = QFileDialog.getSaveFileName(self.stage, "Save", f"{path.stem}.txt", "Text (*.txt)")
        if chosen:
            self.save_text_to(Path(chosen), path)

    def save_text_to(self, chosen: Path, log: Path) -> None:
        """Write a log as text."""
        self.work.do(lambda: write_log_text(log, chosen))

    # Find

    def _search_at_once(self) -> None:
        """From words that brought nothing: who has armed has allowed first words, and sees what the search says first."""
        link, page = self.link(), self.stage.finding
        self.work.go(Stage.TALK, TalkPage.FIND)
        page.ports.setText(link.document.link.address or "")
        page.armed.setChecked(link.live.armed)
        self.run = self._wanted = None
        self.work.do(self._start)

    def _everywhere(self) -> None:
        """All ports that can be opened; of the demo those of its links."""
        records, machine = self.work.records, self.work.machine
        addresses = records.simulated() if machine is not None and records is not None else openable()
        self.stage.finding.ports.setText(" ".join(addresses))
        self._changed()

    def _changed(self) -> None:
        """Something else is asked for: what was found and excluded does not hold for it."""
        self.run = self._wanted = None
        self.show()

    def _plan(self, link: OpenLink) -> None:
        """Lay the search out beside the window: that takes a moment, and is done once for what is asked."""
        page = self.stage.finding
        asked = link.document.link, page.ports.text(), self.work.catalog, page.sheet.isChecked(), page.armed.isChecked()
        try:
            self._wanted = wanted = wanted_here(*asked, link.proofs(), page.words.text().strip())
        except BadInput as error:
            self.stage.say("Nothing to search for yet", error.text)
            page.show_search("", (), [], self.work.theme)
            return
        self._workers.submit(wanted.lay_out).add_done_callback(self._planned.emit)

    def _take_plan(self, done: "Future[Search]") -> None:
        if done.result() is self._wanted:
            self.show()

    def _show_find(self, link: OpenLink) -> None:
        page, run = self.stage.finding, self.run
        if self._wanted is None:
            self._plan(link)
        wanted = self._wanted
        if wanted is None:
            return
        if run is not None:
            self.stage.say(*search_space.told(run.search, run.running))
        elif wanted.laid_out:
            at_most, in_order = search_space.spoken(wanted.longest_s), search_space.spoken(wanted.in_order_s)
            most = f"nine in ten devices within {search_space.spoken(wanted.most_s)}, at most {at_most}"
            times = f"Listens first, then asks, if you allow it: {most}; in order it would be {in_order}."
            if not page.armed.isChecked():
                times = f"Only listens, for {at_most} at most; nothing is asked."
            self.stage.say("Find a device that does not answer", times)
        else:
            self.stage.say("Find a device that does not answer", "Laying out what there is to try.")
        cells = search_space.cells(wanted.spaces, run.search if run else None) if wanted.laid_out else ()
        page.show_search(wanted.says, cells, run.tried if run else [], self.work.theme)
        running = run is not None and run.running
        page.show_running(running, run is not None and not run.ended, run is not None and run.found is not None)

    def _start(self) -> None:
        """Begin a search, or go on with the one that was stopped."""
        link, run = self.link(), self.run
        if run is not None and run.running:
            return
        if self._wanted is None:
            self._plan(link)
        if self._wanted is None:
            return
        link.search_begun()
        if run is None or run.ended:
            run = self.run = SearchRun(self._wanted, link.new_log(), self.work.clock)
        run.begun()
        self._workers.submit(partial(run.run, self._told.emit)).add_done_callback(self._ended.emit)

    def _stop_search(self) -> None:
        if self.run is not None:
            self.run.stop()

    def _take(self, done: "Future[None]") -> None:
        error = done.exception()
        found, link = self.run.found if self.run is not None else None, self.work.link
        if link is not None:
            ended = error is None and self.run is not None and self.run.ended
            link.search_over(in_vain=ended and found is None)
        if isinstance(error, CourierError):
            self.work.complain(error)
        elif error is not None:
            raise error
        if found is not None and link is not None:
            self.work.do(lambda: link.found(found))
        self.work.changed.emit()

    def _adopt(self) -> None:
        self.link().adopt()
        self.stage.choose(TalkPage.LISTEN)

    # Prove, play, other buses

    def _show_proofs(self, link: OpenLink) -> None:
        self.proofs.show()

    def _show_play(self, link: OpenLink) -> None:
        page, live = self.stage.play, link.live
        page.offer(playing.offered(self.work.catalog))
        asked = (page.typed(), page.chosen(), link.document.link.computer_settings)
        try:
            load, headline = playing.load(*asked), playing.headline(*asked)
            if self._drawn != asked:  # a way is summed second by second: once for what is typed
                self._drawn, self._picture = asked, playing.picture(*asked)
        except BadInput as error:
            self.stage.say("The talker cannot begin yet", str(error))
            return
        talking = live.playing is not None
        how = "Talking." if talking else "Sends these sentences again and again; listen (F4) and arm (F12) first."
        self.stage.say(headline, how)
        if self._picture is not None:
            page.show_picture(self._picture, self.work.theme)
        page.show_load(load.text, load.example, talking, live.armed and bool(page.chosen()))

    def _play(self) -> None:
        page = self.stage.play
        self.link().play(playing.Playing(page.typed(), page.chosen(), self.work.clock))

    def _change_play(self) -> None:
        page, link = self.stage.play, self.work.link
        if link is not None and link.live.playing is not None:
            link.live.playing.change(page.typed(), page.chosen())

    def _show_visa(self, link: OpenLink) -> None:
        self.stage.say(instruments.headline(self._libraries), "No instrument is written to until you ask it.")
        self.stage.visa.show_advice([(one.do, one.why) for one in self.work.catalog.visa_side_by_side.values()])
        self.stage.visa.show_libraries(self._libraries, self.work.theme)

    def _look(self) -> None:
        self._libraries = None
        self.show()
        self._workers.submit(instruments.libraries).add_done_callback(self._seen)

    def _seen(self, done: "Future[list[instruments.Library]]") -> None:
        self._libraries = done.result()
        self._told.emit()

    def _ask(self, resource: str, query: str) -> None:
        self.stage.visa.show_answer("asking…")
        permit = self._asking = instruments.Permit(f"“{query}” to {resource}", clock=self.work.clock)
        self._told.emit()

        def answered(done: "Future[str]") -> None:
            permit.withdraw()
            error = done.exception()
            self._answered.emit(done.result() if error is None else str(error))

        log = self.link().new_log()
        self._workers.submit(instruments.ask, permit, resource, query, log=log).add_done_callback(answered)
