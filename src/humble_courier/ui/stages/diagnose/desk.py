"""The desk of the Diagnose stage: asks the link's diagnosis what is worth most, runs checks, keeps what people saw."""

from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog

from humble_courier.app.diagnose.advice import ActTold, Advice
from humble_courier.app.diagnose.diagnosis import Diagnosis
from humble_courier.app.diagnose.evidence_sheet import evidence_sheet
from humble_courier.app.diagnose.own_check import Found, OwnCheckRun
from humble_courier.app.diagnose.symptoms import pictured, symptoms
from humble_courier.app.link.diagnosing import BY_LISTENING, WHERE
from humble_courier.app.port.machine_evidence import CHECKS as MACHINE_CHECKS
from humble_courier.app.port.machine_evidence import machine_evidence
from humble_courier.errors import CourierError
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.diagnose.stage import DiagnoseStage
from humble_courier.ui.workplace import Workplace

PLACES = {"port": "the port", "wire": "the wiring", "settings": "the settings", "talk": "the talk", "prepare": "Prepare"}


class DiagnoseDesk(StageDesk):
    """Shows the best act, or the one after it where a person has passed that by."""

    _simulated = pyqtSignal(object, object)
    _ended = pyqtSignal(object)
    _reckoned = pyqtSignal(object, object)
    _machine_seen = pyqtSignal(object, object)

    def __init__(self, work: Workplace) -> None:
        self.stage = DiagnoseStage()
        super().__init__(self.stage, work)
        self._workers = ThreadPoolExecutor(1, "diagnose")  # checks at the port
        self._reckoner = ThreadPoolExecutor(1, "reckon")  # what is only computed: a press never waits for it
        self._over = False
        self._passed = 0
        self._asked: Diagnosis | None = None
        self._run_at = ""  # the link that is checked
        self._found: Found | None = None  # with what the last check was answered
        self._outlook: tuple[object, float | None] | None = None
        self._run: OwnCheckRun | None = None
        self._mended = False
        stage = self.stage
        stage.seen.connect(lambda outcome: work.do(lambda: self._seen(outcome)))
        stage.mended.connect(lambda works: work.do(lambda: self._mend(works)))
        stage.passed.connect(lambda: work.do(self._pass))
        stage.not_at_hand.connect(lambda: work.do(self._lacks))
        stage.took_back.connect(lambda code: work.do(lambda: self._take_back(code)))
        stage.ran.connect(lambda: work.do(self._start))
        stage.opened.connect(self._open_place)
        stage.named.connect(lambda cause: work.do(lambda: self._name(cause)))
        stage.report_wanted.connect(lambda: work.do(self._report))
        work.opened.connect(self.halt)
        stage.told.connect(self._match)
        stage.meant.connect(lambda check, outcome: work.do(lambda: self._mean(check, outcome)))
        self._simulated.connect(self._use)
        self._ended.connect(self._take)
        self._reckoned.connect(self._reckon)
        self._machine_seen.connect(self._machine_says)

    # What is shown

    def show(self) -> None:
        """Show the act that is worth most; the bench is asked beside the window, once for each link."""
        if self.work.link is None:
            self.stage.say("No link is on the line", "Open one, or begin a new one.")
            return
        if self._run is not None:
            check = self.work.catalog.checks[self._run.check]
            self.stage.show_running(check.ask, self._run.says)
            return
        diagnosis = self._diagnosis()
        advice = diagnosis.advice()
        if self.link().diagnosis.works or self._mended:
            found = self._found
            ended = f", lines ended with {found.end}" if found is not None and found.end else ""
            how = f"It answers “{found.identity}” at {found.settings.spoken}{ended}. " if found is not None else ""
            self.stage.show_works(advice, diagnosis.done(), self.work.theme, how)
            return
        act = self._act(advice)
        place = WHERE.get(act.code)
        where = f"Open {PLACES[place[0].value]}" if place is not None and place[0].value in PLACES else ""
        runs = act.is_check and self.link().diagnosis.can_do(act.code)
        ahead, harm = self._ahead(diagnosis), diagnosis.may_damage
        seen = pictured(self.work.catalog.symptoms, diagnosis.model.checks, [one.code for one in diagnosis.done()])
        self.stage.pictures.show_pictures(seen, self.work.theme)
        self.stage.show_advice(advice, act, diagnosis.done(), runs, where, self.work.theme, ahead, harm)

    def _diagnosis(self) -> Diagnosis:
        diagnosis = self.link().diagnosis.look()
        if self.link().diagnosis.asks_machine:
            self._ask_machine()
        if diagnosis is not self._asked:
            self._asked, self._passed, self._mended, self._found = diagnosis, 0, False, None
            if diagnosis.may_simulate and not self._over:
                future = self._reckoner.submit(diagnosis.simulate)
                future.add_done_callback(lambda done: self._simulated.emit(diagnosis, done))
        return diagnosis

    def _ask_machine(self) -> None:
        """A refused port: its list and its log say why, beside the window."""
        link = self.link()
        link.diagnosis.machine_told({})
        if not self._over:
            future = self._reckoner.submit(machine_evidence, link.document.link.address or "", self.work.catalog)
            future.add_done_callback(lambda done: self._machine_seen.emit(link, done))

    def _machine_says(self, link: object, done: "Future[dict[str, str]]") -> None:
        if link is self.work.link and not done.cancelled():
            self.link().diagnosis.machine_told(done.result())
            self.work.changed.emit()

    def _ahead(self, diagnosis: Diagnosis) -> float | None:
        """Minutes to an answer as far as they are known; reckoned beside the window, once for each belief."""
        case = diagnosis.case
        key = (diagnosis, len(diagnosis.model.causes), case.facts, case.mended, diagnosis.at_hand)
        if self._outlook is None or self._outlook[0] != key:
            self._outlook = (key, None)
            if not self._over:
                future = self._reckoner.submit(diagnosis.outlook_while, lambda: self._awaits(key), case)
                future.add_done_callback(lambda done: self._reckoned.emit(key, done))
        return self._outlook[1]

    def _awaits(self, key: object) -> bool:
        """Whether this outlook is still the one that is shown; asked from beside the window."""
        return not self._over and self._outlook is not None and self._outlook[0] is key

    def _reckon(self, key: object, done: "Future[float | None]") -> None:
        if self._outlook is not None and self._outlook[0] == key and not done.cancelled():
            self._outlook = (key, done.result())
            self.work.changed.emit()

    def _use(self, diagnosis: Diagnosis, done: "Future[object]") -> None:
        if done.cancelled():
            return
        diagnosis.use(done.result())  # type: ignore[arg-type]
        if diagnosis is self._asked:
            self.work.changed.emit()

    def _act(self, advice: Advice) -> ActTold:
        return advice.acts[self._passed % len(advice.acts)]

    def _now(self) -> ActTold:
        return self._act(self._diagnosis().advice())

    # What people do

    def _seen(self, outcome: str) -> None:
        act = self._now()
        self._passed = 0
        self.link().diagnosis.checked(act.code, outcome)
        self._mended = next(one.ends for one in act.outcomes if one.id == outcome)

    def _mend(self, works: bool) -> None:
        act = self._now()
        self._passed = 0
        if works:
            self._name(act.code)
        else:
            self._diagnosis().in_vain(act.code)

    def _match(self, words: str) -> None:
        """What may be meant by words of a person's own."""
        if self.work.link is not None:
            checks, usual = self._diagnosis().model.checks, self.work.catalog.usual_words
            self.stage.show_meanings(symptoms(words, checks, usual))

    def _mean(self, check: str, outcome: str) -> None:
        self._passed = 0
        self.stage.words.clear()
        self.link().diagnosis.checked(check, outcome)

    def _pass(self) -> None:
        self._passed += 1

    def _lacks(self) -> None:
        diagnosis, act = self._diagnosis(), self._now()
        check = diagnosis.model.checks.get(act.code)
        for need in check.needs if check is not None else ():
            diagnosis.without(need)
        self._passed = 0 if check is not None else self._passed + 1

    def _take_back(self, code: str) -> None:
        self._mended, self._found = False, None
        self._diagnosis().take_back(code)

    def _name(self, cause: str) -> None:
        if cause:
            self.link().diagnosis.over(cause)
        self._mended = False
        if self._found is not None:
            found, self._found = self._found, None
            self.link().diagnosis.go_on_with(found)
        self.work.go(*self.link().diagnosis.after())

    def _open_place(self) -> None:
        place = WHERE.get(self._now().code)
        if place is not None:
            self.work.go(*place)

    def _report(self) -> None:
        """All evidence on paper, for the maker's support."""
        from humble_courier.ui.paper.evidence_sheet import write_evidence

        diagnosis = self._diagnosis()
        chosen, _ = QFileDialog.getSaveFileName(self.stage, "Save", "it-does-not-work.pdf", "PDF (*.pdf)")
        if chosen:
            link = self.link().document.link
            write_evidence(evidence_sheet(link, diagnosis.done(), diagnosis.advice()), Path(chosen))

    # Checks of the program

    def _start(self) -> None:
        """A check by itself: the first press says what is sent."""
        link, check = self.link(), self._now().code
        if check in BY_LISTENING:
            link.listen()
            return
        if check in MACHINE_CHECKS:
            self._ask_machine()
            return
        run = link.diagnosis.own_check(check)
        if run is None or self._run is not None:
            return
        link.diagnosis.permit(run)
        self.stage.calm()
        self._run, self._run_at = run, link.id
        self._workers.submit(run.run).add_done_callback(self._ended.emit)

    def _take(self, done: "Future[None]") -> None:
        run, self._run = self._run, None
        error, link = done.exception(), self.work.link
        if link is not None and link.id != self._run_at:
            link = None  # another one is on the line by now: what came says nothing of it
        if isinstance(error, CourierError):
            self.work.complain(error)
        elif error is not None:
            raise error
        if run is not None and link is not None and run.outcome:
            outcome, found = run.outcome, run.found
            self.work.do(lambda: self._checked(run.check, outcome, found))
        self.work.changed.emit()

    def _checked(self, check: str, outcome: str, found: Found | None) -> None:
        self._passed = 0
        self.link().diagnosis.checked(check, outcome, by_itself=True)
        self._mended = outcome in self._diagnosis().model.checks[check].ends
        self._found = found if self._mended else None

    def halt(self) -> None:
        """Stop the check that runs."""
        if self._run is not None:
            self._run.cancel()

    def rest(self) -> None:
        """The window goes."""
        self._over = True
        self.halt()
        for workers in (self._workers, self._reckoner):
            workers.shutdown(wait=True, cancel_futures=True)
