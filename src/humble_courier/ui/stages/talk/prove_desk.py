"""What the Prove page does: runs loop-back, latency and long transfers beside the window, and tells their numbers."""

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor

from PyQt6.QtCore import QObject, pyqtSignal

from humble_courier.app.link.workbench import Workbench
from humble_courier.app.port.opening import address_of
from humble_courier.app.talk.device_search import runner
from humble_courier.app.talk.proving import WORDS, answered_here
from humble_courier.domain.facts import State
from humble_courier.errors import BadInput, CourierError
from humble_courier.procedures.endurance import Endurance
from humble_courier.procedures.latency import Latency, WaitFit
from humble_courier.procedures.loopback import LoopBack, LoopVerdict
from humble_courier.procedures.runner import Runner
from humble_courier.ui.stages.talk.prove_page import ProvePage, Row
from humble_courier.ui.theme import Theme

LONG = 32_768
PLUG = "sim://bench/loop-back?latency=16"  # the demo's adapter gathers for 16 ms, as many do
FITS = {WaitFit.GOOD: "good", WaitFit.MARGINAL: "marginal", WaitFit.FAILS: "will fail"}
Proof = LoopBack | Latency | Endurance


class Proofs(QObject):
    """The proof that runs or ran last."""

    _told = pyqtSignal()
    _ended = pyqtSignal(object)
    changed = pyqtSignal()

    def __init__(self, page: ProvePage, workers: ThreadPoolExecutor, complain: Callable[[CourierError], None]) -> None:
        super().__init__(page)
        self.page, self._workers, self._complain = page, workers, complain
        self.bench: Workbench | None = None
        self.theme = Theme()
        self.proof: Proof | None = None
        self._runner: Runner | None = None
        self._steps = 0
        page.asked.connect(self._start)
        page.cancelled.connect(self.cancel)
        self._told.connect(self._step)
        self._ended.connect(self._take)

    def show(self, bench: Workbench, theme: Theme) -> None:
        """Show the page."""
        self.bench, self.theme = bench, theme
        says = self.tr(
            "These send: patterns of all byte values, and RTS and DTR up and down. Take the device off first, and put a "
            "loop-back plug or a jumper from transmit to receive in its place."
        )
        self.page.plugged.setVisible(bench.simulated)
        self.page.show_rows(says, self.rows(), theme)
        self.page.show_running(self._share() if self._runner is not None else None)

    def _share(self) -> float:
        proof = self.proof
        if isinstance(proof, Latency):
            return (len(proof.ms) + proof.missed) / proof.times
        if isinstance(proof, Endurance):
            return proof.sent / proof.size
        return min(1.0, self._steps / 6)

    def _start(self, what: str) -> None:
        bench = self.bench
        try:
            if bench is None or not bench.link.address or bench.link.computer_settings is None:
                raise BadInput("choose a port and the settings of the computer's end first")
            bench.stop()
            address, settings = self._address(bench), bench.link.computer_settings
        except CourierError as error:
            self._complain(error)
            return
        made: dict[str, Callable[[], Proof]] = {
            "loop-back": lambda: LoopBack(address),
            "latency": lambda: Latency(address, settings),
            "long": lambda: Endurance(address, settings, LONG if settings.rate > 4800 else 2048),
        }
        self.proof, self._steps = made[what](), 0
        self._runner = runner([address], bench.link.sheet)
        run, proof = self._runner.run, self.proof
        self._workers.submit(run, proof, lambda _, __: self._told.emit()).add_done_callback(self._ended.emit)
        self._step()

    def _address(self, bench: Workbench) -> str:
        """Where to prove; on the simulated bench the plug can be put on with a touch."""
        if bench.simulated and self.page.plugged.isChecked():
            return PLUG
        return address_of(bench.link)

    def cancel(self) -> None:
        """Stop what runs."""
        if self._runner is not None:
            self._runner.cancelled = True

    def _step(self) -> None:
        self._steps += 1
        if self.bench is not None:
            self.show(self.bench, self.theme)

    def _take(self, done: "Future[None]") -> None:
        self._runner = None
        error = done.exception()
        if isinstance(error, CourierError):
            self._complain(error)
        elif error is not None:
            raise error
        if self.bench is not None and self.proof is not None:
            headline, _ = self.headline()
            self.bench.measured("port proof", headline, self.good, self.tr("a plug at the far end"))
        self._step()
        self.changed.emit()

    @property
    def good(self) -> bool:
        """Whether what ran last proves the port."""
        proof = self.proof
        if isinstance(proof, LoopBack):
            return proof.verdict in (LoopVerdict.PROVEN, LoopVerdict.DATA_ONLY)
        if isinstance(proof, Endurance):
            return proof.verdict[0] == "whole"
        return proof is not None and proof.figures() is not None

    @property
    def sending(self) -> str:
        """What may be sent at this moment; empty while nothing runs."""
        return self.tr("the patterns of this proof") if self._runner is not None else ""

    def headline(self) -> tuple[str, str]:
        """What the proof says."""
        proof = self.proof
        if proof is None or self._runner is not None:
            return self.tr("Prove the port before the device is blamed"), self.tr("Three proofs; each says what it sends.")
        if isinstance(proof, LoopBack):
            words, _, why = WORDS[proof.verdict].partition(": ")
            return words + ("" if words.endswith(".") else "."), proof.refusal or why
        if isinstance(proof, Endurance):
            code, text = proof.verdict
            return self.tr("The long transfer is whole") if code == "whole" else self.tr("The long transfer breaks"), text
        figures = proof.figures()
        if figures is None:
            return self.tr("Nothing came back"), proof.refusal or self.tr("No plug at the far end, or a conductor is open.")
        return self.tr("A round trip takes {ms} ms").format(ms=f"{figures['p50']:.1f}"), self.tr("Half of them are faster.")

    def rows(self) -> list[Row]:
        """The numbers behind it, each with how it stands."""
        proof = self.proof
        if proof is None:
            return self._answered_here()
        if isinstance(proof, LoopBack):
            return self._of_plug(proof)
        if isinstance(proof, Latency):
            return self._of_times(proof)
        if isinstance(proof, Endurance) and proof.sent:
            damaged = _state(not proof.wrong), self.tr("Damaged pieces"), str(len(proof.wrong))
            return [(State.PROVEN, self.tr("Sent"), f"{proof.sent} bytes"), damaged]
        return []

    def _answered_here(self) -> list[Row]:
        """A device that is known to work proves the port as well: those that have answered here."""
        bench = self.bench
        known = answered_here(bench.store, bench.link.address or "") if bench is not None else []
        told = self.tr("no device has answered at this port yet; a plug, or a device known to work, proves it")
        rows = [(State.PROVEN, self.tr("Answered here"), text) for text in known[-3:]]
        return rows or [(State.UNKNOWN, self.tr("Answered here"), told)]

    def _of_plug(self, proof: LoopBack) -> list[Row]:
        came = self.tr("{n} of {m} bytes came back")
        told = [(_state(not r.errors), r.settings.spoken, came.format(n=r.sent - r.errors, m=r.sent)) for r in proof.results]
        if proof.verdict is LoopVerdict.REFUSED or not proof.results:
            return told
        names = {"rts_cts": "RTS, CTS", "dtr_dsr": "DTR, DSR", "dtr_dcd": "DTR, DCD"}
        words = {None: self.tr("this port cannot tell"), True: self.tr("joined"), False: self.tr("not joined here")}
        states = {None: State.UNKNOWN, True: State.PROVEN, False: State.UNKNOWN}
        return told + [(states[on], names[key], words[on]) for key, on in proof.pairs.items()]

    def _of_times(self, proof: Latency) -> list[Row]:
        figures = proof.figures()
        if figures is None or self.bench is None:
            return []
        text = self.tr(
            "{p50:.1f} ms half of them, {p95:.1f} ms 19 of 20, {max:.1f} ms the slowest; {line:.1f} ms is the line"
        )
        first = State.PROVEN, self.tr("Round trip"), text.format(**figures, line=proof.line_ms)
        waits = [(entry.name, entry.waits_ms) for entry in self.bench.catalog.waits.values()]
        states = {WaitFit.GOOD: State.PROVEN, WaitFit.MARGINAL: State.ASSUMED, WaitFit.FAILS: State.CONTRADICTED}
        return [first, *((states[g.verdict], g.protocol, f"{FITS[g.verdict]}: {g.why}") for g in proof.good_for(waits))]


def _state(good: bool) -> State:
    return State.PROVEN if good else State.CONTRADICTED
