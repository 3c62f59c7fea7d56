"""The desk of the Talk stage: hands values to its pages, carries out what they ask for; long work runs beside the window."""

import re
import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog

from humble_courier.app.files import write_whole
from humble_courier.app.link.headlines import talk_headline
from humble_courier.app.link.workbench import Workbench
from humble_courier.app.port.opening import address_of
from humble_courier.app.talk import instruments, search_space
from humble_courier.app.talk.device_search import Search, finder, runner, search
from humble_courier.documents.link_changes import with_settings
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput, CourierError
from humble_courier.port.log import as_text, read_log
from humble_courier.procedures.device_search.search import DeviceSearch
from humble_courier.procedures.runner import Runner
from humble_courier.protocols.spelled import numbers, spelled
from humble_courier.protocols.talker import FORMATTERS, Talker, Track
from humble_courier.ui.stages.talk.prove_desk import Proofs
from humble_courier.ui.stages.talk.stage import TalkAct, TalkStage
from humble_courier.ui.theme import Theme

Do = Callable[[Callable[[], object]], None]


class TalkDesk(QObject):
    """Everything of the Talk stage that is not drawing."""

    _told = pyqtSignal()
    _ended = pyqtSignal(object)
    _answered = pyqtSignal(str)

    def __init__(self, stage: TalkStage, do: Do, complain: Callable[[CourierError], None]) -> None:
        super().__init__(stage)
        self.stage, self._do, self._complain = stage, do, complain
        self.bench: Workbench | None = None
        self.theme = Theme()
        self.machine: DeviceSearch | None = None
        self._wanted: Search | None = None
        self._runner: Runner | None = None
        self._workers = ThreadPoolExecutor(max_workers=1, thread_name_prefix="talking")
        self._libraries: list[instruments.Library] | None = []
        self._talker: Talker | None = None
        self._searched = ""
        self.proofs = Proofs(stage.prove, self._workers, complain)
        self.proofs.changed.connect(lambda: self._do(self._again))
        self._connect()

    def _connect(self) -> None:
        """All connections of the stage, in one place."""
        page, find, play, visa = self.stage.listening, self.stage.finding, self.stage.play, self.stage.visa
        self.stage.act_chosen.connect(self._again)
        page.listen.connect(lambda: self._do(self._bench().listen))
        page.stop.connect(lambda: self._do(self._bench().stop))
        page.say_words.connect(lambda text, end: self._do(lambda: self._bench().say(text, Terminator(end))))
        page.typed.connect(lambda *typed: self._do(partial(self._typed, *typed)))
        page.stop_repeat.connect(lambda: self._do(self._bench().live.stop_repeating))
        page.send_break.connect(lambda: self._do(self._bench().live.send_break))
        page.lamps.moved.connect(self._move)
        page.searched.connect(self._search_log)
        page.save_text.connect(self._save_text)
        find.changed.connect(self._changed)
        find.started.connect(lambda: self._do(self._start))
        find.cancelled.connect(self._cancel)
        find.adopted.connect(lambda: self._do(self._adopt))
        play.changed.connect(self._again)
        play.started.connect(lambda: self._do(self._play))
        play.stopped.connect(self._hush)
        visa.looked.connect(self._look)
        visa.asked.connect(self._ask)
        self._told.connect(self._again)
        self._ended.connect(self._take)
        self._answered.connect(visa.answer.setText)

    @property
    def sending(self) -> str:
        """What a search or a proof may send at this moment; empty while none does."""
        if self._runner is not None and self._wanted is not None and self._wanted.known.armed:
            return self.tr("the first words of this search")
        return self.proofs.sending

    def rest(self) -> None:
        """The window goes: stop what runs."""
        self.cancel()
        self._workers.shutdown(wait=True)

    def _bench(self) -> Workbench:
        assert self.bench is not None, "only called where a link is on the line"
        return self.bench

    def show(self, bench: Workbench, theme: Theme) -> None:
        """Hand the current values to the open page."""
        if self.bench is not bench:
            self._cancel()
            self.machine = self._wanted = None
            self._hush()
            if bench.link.address:
                self.stage.finding.ports.setText(bench.link.address)
        self.bench, self.theme = bench, theme
        pages = {
            TalkAct.LISTEN: self._show_listening, TalkAct.FIND: self._show_find, TalkAct.PROVE: self._show_proofs,
            TalkAct.PLAY: self._show_play, TalkAct.VISA: self._show_visa,
        }  # fmt: skip
        pages[self.stage.act](bench)

    def poll(self) -> None:
        """Twenty times a second: what the talker has to say is said."""
        if self._talker is not None and self.bench is not None:
            if not self.bench.armed:
                self._hush()  # arming again later must not begin to talk by itself
                return
            data = self._talker.due(time.time())
            if data:
                self.bench.live.say_bytes(data, self.tr("played"))

    def _again(self) -> None:
        if self.bench is not None:
            self.show(self.bench, self.theme)

    # Listen and say

    def _show_listening(self, bench: Workbench) -> None:
        page, sheet, session = self.stage.listening, bench.link.sheet, bench.session
        self.stage.say(*talk_headline(bench))
        page.show_words(sheet.first_words if sheet else [], sheet.end if sheet else "cr", bench.armed)
        page.show_state(bench.listening, bench.armed, bench.live.repeating, bench.live.log_problem or bench.live.waiting)
        self.show_lines(bench)
        device = sheet.name if sheet else self.tr("the device")
        said = bench.utterances() if not self._searched else bench.live.search(self._searched)
        count = (session.bytes_heard + len(session.utterances)) if session and not self._searched else len(said)
        page.show_said(said, count, device, self.theme)

    def show_lines(self, bench: Workbench) -> None:
        """The lamps and the activity: they move even while nothing is heard."""
        page, session = self.stage.listening, bench.session
        page.lamps.show_lines(bench.lines(), bench.listening and bench.armed, self.theme)
        page.activity.show_levels(session.activity.levels(time.time()) if session else [], self.theme)

    def _typed(self, words: str, written: str, end: str, every: str, pattern: str) -> None:
        bench = self._bench()
        if pattern:
            bench.live.wait_for(pattern)
        ended = Terminator(end).octets
        data = {"hex": lambda: numbers(words), "escapes": lambda: spelled(words) + ended}.get(written)
        if data is not None:
            bench.live.say_bytes(data(), self.tr("in hex") if written == "hex" else "")
        elif every:
            bench.live.say_bytes(words.encode("latin-1", "replace") + ended)
        else:
            bench.say(words, Terminator(end))
        if every:
            again = data() if data is not None else words.encode("latin-1", "replace") + ended
            bench.live.repeat(again, float(every))

    def _move(self, name: str, on: bool) -> None:
        lines = self._bench().lines()
        dtr, rts = (on, bool(lines.rts)) if name == "DTR" else (bool(lines.dtr), on)
        self._do(lambda: self._bench().set_lines(dtr, rts))

    def _search_log(self, words: str) -> None:
        self._searched = words.strip()
        self._again()

    def _save_text(self) -> None:
        path = self._bench().live.log_path
        if path is None:
            self._complain(BadInput("nothing was opened yet, so there is no log"))
            return
        chosen, _ = QFileDialog.getSaveFileName(self.stage, self.tr("Save"), f"{path.stem}.txt", "Text (*.txt)")
        if chosen:
            self.save_text_to(Path(chosen), path)

    def save_text_to(self, chosen: Path, log: Path) -> None:
        """Write a log as text."""

        def act() -> None:
            text = "\n".join(as_text(read_log(log.read_bytes(), str(log))))
            write_whole(chosen, (text + "\n").encode())

        self._do(act)

    # Find

    def _search(self) -> Search:
        bench, page = self._bench(), self.stage.finding
        own = address_of(bench.link) if bench.link.address else ""
        addresses = [own if a == bench.link.address else a for a in page.ports.text().split()]
        sheet = bench.link.sheet if page.sheet.isChecked() else None
        worked = [proof.computer_settings for proof in bench.store.proofs(bench.link_id)]
        return search(addresses, bench.catalog, sheet, page.armed.isChecked(), worked=_settings(worked))

    def _changed(self) -> None:
        self.machine = None
        self._again()

    def _show_find(self, bench: Workbench) -> None:
        page, running = self.stage.finding, self._runner is not None
        try:
            self._wanted = self._wanted if self.machine is not None and self._wanted else self._search()
        except BadInput as error:
            self.stage.say(self.tr("Name a port to search"), error.text)
            page.show_search("", (), [], self.theme)
            return
        wanted, machine = self._wanted, self.machine
        if machine is None:
            times = self.tr("Listens first, then asks, if you allow it: at most {t}; in order it would be {m}.")
            at_most, in_order = search_space.spoken(wanted.longest_s), search_space.spoken(wanted.in_order_s)
            self.stage.say(self.tr("Find a device that does not answer"), times.format(t=at_most, m=in_order))
        else:
            self.stage.say(*search_space.told(machine, running))
        page.show_search(
            wanted.says, search_space.cells(wanted.spaces, machine), machine.tried if machine else [], self.theme
        )
        may_go_on = machine is not None and machine.found is None and not machine.ends
        page.show_running(running, may_go_on, machine is not None and machine.found is not None)

    def _start(self) -> None:
        bench = self._bench()
        if self._runner is not None:
            return
        bench.stop()
        if self.machine is None or self.machine.found is not None or self.machine.ends:
            self._wanted = self._search()
            self.machine = finder(self._wanted)
        assert self._wanted is not None
        self._runner = runner(self._wanted.known.addresses, self._wanted.sheet)
        run = partial(self._runner.run, self.machine, lambda _, __: self._told.emit())
        self._workers.submit(run).add_done_callback(self._ended.emit)

    def cancel(self) -> None:
        """Stop a search and a proof."""
        self._cancel()
        self.proofs.cancel()

    def _cancel(self) -> None:
        if self._runner is not None:
            self._runner.cancelled = True

    def _take(self, done: "Future[None]") -> None:
        self._runner = None
        error = done.exception()
        if isinstance(error, CourierError):
            self._complain(error)
        elif error is not None:
            raise error
        machine = self.machine
        if machine is not None and machine.found is not None and self.bench is not None:
            found = machine.found
            text = self.tr("Found at {at}: {who}").format(at=found.settings.spoken, who=found.identity)
            self.bench.measured("found", text, by=self.tr("answer on the line"))
        self._do(self._again)

    def _adopt(self) -> None:
        bench, machine = self._bench(), self.machine
        if machine is not None and machine.found is not None:
            at = machine.found.settings
            bench.change(with_settings(bench.model, computer=at))
            self.stage.choose(TalkAct.LISTEN)
            bench.listen()

    # Prove, play, other buses

    def _show_proofs(self, bench: Workbench) -> None:
        self.proofs.show(bench, self.theme)
        self.stage.say(*self.proofs.headline())

    def _track(self) -> Track:
        values = {}
        for key, field in self.stage.play.fields.items():
            try:
                values[key] = float(field.text())
            except ValueError:
                raise BadInput(f"“{field.text()}” is no number") from None
        if not 0.05 <= values["every_s"] <= 3600:
            raise BadInput("expected 0.05 to 3600 seconds between sentences")
        return Track(speed_kn=values["speed_kn"], course=values["course"], turn=values["turn"])

    def _show_play(self, bench: Workbench) -> None:
        page = self.stage.play
        carries = {id_: ", ".join(entry.carries) for id_, entry in bench.catalog.sentences.items()}
        page.offer([(one, carries.get(one, "")) for one in FORMATTERS])
        chosen = [one for one, box in page.sentences.items() if box.isChecked()]
        try:
            talker = Talker(self._track(), chosen, float(page.fields["every_s"].text()))
        except (BadInput, ValueError) as error:
            self.stage.say(self.tr("The talker cannot begin yet"), str(error))
            return
        if self._talker is not None:
            self._talker.formatters, self._talker.track, self._talker.every_s = chosen, talker.track, talker.every_s
        settings = bench.link.computer_settings
        share = talker.load(settings) if settings else 0.0
        example = talker.due(time.time()).decode("ascii")
        at = settings.spoken if settings else ""
        text = self.tr("{p} of the line at {at}.").format(p=f"{share:.0%}", at=at)
        if share > 1:
            text += self.tr(" Too much: sentences are late and cut off; a higher rate, or fewer of them.")
        headline = self.tr("Talking") if self._talker else self.tr("The computer plays an instrument")
        self.stage.say(headline, self.tr("Sends these sentences again and again; listen (F4) and arm (F12) first."))
        page.show_load(share, text, example, self._talker is not None, bench.armed and bool(chosen))

    def _play(self) -> None:
        page = self.stage.play
        chosen = [one for one, box in page.sentences.items() if box.isChecked()]
        self._talker = Talker(self._track(), chosen, float(page.fields["every_s"].text()))

    def _hush(self) -> None:
        self._talker = None
        self._again()

    def _show_visa(self, bench: Workbench) -> None:
        self.stage.say(self.tr("Which library answers for which instrument?"), self.tr("Only looks, until you ask one."))
        self.stage.visa.show_advice([(one.do, one.why) for one in bench.catalog.visa_side_by_side.values()])
        self.stage.visa.show_libraries(self._libraries, self.theme)

    def _look(self) -> None:
        self._libraries = None
        self._again()
        self._workers.submit(instruments.libraries).add_done_callback(self._seen)

    def _seen(self, done: "Future[list[instruments.Library]]") -> None:
        self._libraries = done.result()
        self._told.emit()

    def _ask(self, resource: str, query: str) -> None:
        self.stage.visa.answer.setText(self.tr("asking…"))

        def answered(done: "Future[str]") -> None:
            error = done.exception()
            self._answered.emit(done.result() if error is None else str(error))

        self._workers.submit(instruments.ask, resource, query).add_done_callback(answered)


def _settings(texts: list[str]) -> list[Settings]:
    return [Settings.parse(text) for text in texts if re.match(r"\d+,", text)]
