"""One proof of a port for the window: loop-back, round trip or long transfer, with its numbers and what they mean."""

from collections.abc import Callable
from enum import StrEnum

from humble_courier.app.port.opening import address_of, is_simulated
from humble_courier.app.talk.device_search import runner
from humble_courier.app.talk.proving import WORDS
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.domain.facts import State
from humble_courier.errors import BadInput
from humble_courier.port.authority import Authority
from humble_courier.port.log import LineLog
from humble_courier.procedures.endurance import Endurance, Transfer
from humble_courier.procedures.latency import Latency, WaitFit
from humble_courier.procedures.loopback import LoopBack, LoopVerdict
from humble_courier.procedures.runner import Opens

LONG, LONG_SLOWLY, SLOW = 32_768, 2048, 4800  # bytes; at that rate (bit/s) and below the long transfer would take minutes
STEPS_OF_PLUG = 6  # two rates and four states of the lines
PLUG = "sim://bench/loop-back?latency=16"  # the demo's adapter gathers for 16 ms, as many do
FITS = {WaitFit.GOOD: "good", WaitFit.MARGINAL: "marginal", WaitFit.FAILS: "will fail"}
PAIRS = {"rts_cts": "RTS, CTS", "dtr_dsr": "DTR, DSR", "dtr_dcd": "DTR, DCD"}
JOINED = {None: "this port cannot tell", True: "joined", False: "not joined here"}
SENDING = "the patterns of this proof"
SAYS = (
    "These send: patterns of all byte values, and RTS and DTR up and down. Take the device off first, and put a "
    "loop-back plug or a jumper from transmit to receive in its place."
)
NOBODY_YET = "no device has answered at this port yet; a plug, or a device known to work, proves it"
UNPROVEN = "Prove the port before the device is blamed", "Three proofs; each says what it sends."

Row = tuple[State, str, str]  # how it stands, what, the numbers


class PortProofKind(StrEnum):
    """What is proven."""

    LOOP_BACK = "loop-back"
    LATENCY = "latency"
    LONG = "long"
    UNITS = "units"  # of a K-line: see `unit_round`


class PortProof:
    """`run` blocks: call it beside the window; `told` is called from there after each step. `cancel` ends it soon."""

    def __init__(
        self, kind: PortProofKind, link: Link, catalog: Catalog, plugged: bool, log: LineLog | None = None,
        authority: Authority | None = None, opens: Opens | None = None,
    ) -> None:  # fmt: skip
        """`plugged`: on the simulated bench, whether the plug is on. Raises BadInput where nothing is chosen to prove."""
        settings = link.computer_settings
        if not link.address or settings is None:
            raise BadInput("choose a port and the settings of the computer's end first")
        address = PLUG if plugged and is_simulated(link.address) else address_of(link)
        authority = authority or Authority()
        self._permit = authority.permit(SENDING)
        self._waits = [(entry.name, entry.waits_ms) for entry in catalog.waits.values()]
        self._runner = runner([address], link.sheet, self._permit, log, authority, "a proof of the port", opens)
        self._steps, self._stopped = 0, False
        self.running = True  # from now on: it waits for its turn only
        self.proof: LoopBack | Latency | Endurance
        if kind is PortProofKind.LOOP_BACK:
            self.proof = LoopBack(address)
        elif kind is PortProofKind.LATENCY:
            self.proof = Latency(address, settings)
        else:
            self.proof = Endurance(address, settings, LONG if settings.rate > SLOW else LONG_SLOWLY)

    def run(self, told: Callable[[], None]) -> None:
        """Until it is over, or cancelled."""

        def step(*_: object) -> None:
            self._steps += 1
            told()

        try:
            self._runner.run(self.proof, step)
        finally:
            self.running = False
            self._permit.withdraw()

    def cancel(self) -> None:
        """Stop soon."""
        self._stopped = True
        self._runner.stop()

    @property
    def share(self) -> float:
        """How far it is, from 0 to 1."""
        proof = self.proof
        if isinstance(proof, Latency):
            return (len(proof.ms) + proof.missed) / proof.times
        if isinstance(proof, Endurance):
            return proof.sent / proof.size
        return min(1.0, self._steps / STEPS_OF_PLUG)

    @property
    def good(self) -> bool:
        """Whether it proves the port."""
        proof = self.proof
        if proof.refused:
            return False
        if isinstance(proof, LoopBack):
            return proof.verdict in (LoopVerdict.PROVEN, LoopVerdict.DATA_ONLY)
        if isinstance(proof, Endurance):
            return proof.verdict[0] is Transfer.WHOLE
        return proof.figures() is not None

    @property
    def evidence(self) -> tuple[str, str] | None:
        """The check of the diagnosis that this was, with its outcome; None where it was refused, stopped, or is none."""
        proof = self.proof
        if proof.refused or self._stopped or isinstance(proof, Latency):
            return None
        if isinstance(proof, LoopBack):
            outcomes = {LoopVerdict.ERRORS: "part", LoopVerdict.NOTHING: "silent"}
            return "loop-cable", outcomes.get(proof.verdict, "echoes")
        return "long-transfer", "whole" if self.good else "breaks"

    def headline(self) -> tuple[str, str]:
        """What it says, and why."""
        proof = self.proof
        if proof.refused:
            reason = proof.verdict[1] if isinstance(proof, Endurance) else str(proof.refused)
            return WORDS[LoopVerdict.REFUSED], reason[0].upper() + reason[1:]
        if isinstance(proof, LoopBack):
            words, _, why = WORDS[proof.verdict].partition(": ")
            return words + ("" if words.endswith(".") else "."), why
        if isinstance(proof, Endurance):
            code, text = proof.verdict
            return "The long transfer is whole" if code is Transfer.WHOLE else "The long transfer breaks", text
        figures = proof.figures()
        if figures is None:
            return "Nothing came back", "No plug at the far end, or a conductor is open."
        return f"A round trip takes {figures['p50']:.1f} ms", "Half of them are faster."

    def rows(self) -> list[Row]:
        """The numbers behind it, each with how it stands."""
        proof = self.proof
        if isinstance(proof, LoopBack):
            return _of_plug(proof)
        if isinstance(proof, Latency):
            return self._of_times(proof)
        damaged = _state(not proof.wrong), "Damaged pieces", str(len(proof.wrong))
        return [(State.PROVEN, "Sent", f"{proof.sent} bytes"), damaged] if proof.sent else []

    def _of_times(self, proof: Latency) -> list[Row]:
        figures = proof.figures()
        if figures is None:
            return []
        text = (
            f"{figures['p50']:.1f} ms half of them, {figures['p95']:.1f} ms 19 of 20, {figures['max']:.1f} ms the slowest; "
            f"{proof.line_ms:.1f} ms is the line"
        )
        states = {WaitFit.GOOD: State.PROVEN, WaitFit.MARGINAL: State.ASSUMED, WaitFit.FAILS: State.CONTRADICTED}
        fits = [(states[g.verdict], g.protocol, f"{FITS[g.verdict]}: {g.why}") for g in proof.good_for(self._waits)]
        return [(State.PROVEN, "Round trip", text), *fits]


def _of_plug(proof: LoopBack) -> list[Row]:
    told = [
        (_state(not r.errors), r.settings.spoken, f"{r.sent - r.errors} of {r.sent} bytes came back") for r in proof.results
    ]
    if proof.verdict is LoopVerdict.REFUSED or not proof.results:
        return told
    states = {None: State.UNKNOWN, True: State.PROVEN, False: State.UNKNOWN}
    return told + [(states[on], PAIRS[key], JOINED[on]) for key, on in proof.pairs.items()]


def of_known_devices(answered: list[str]) -> list[Row]:
    """A device that is known to work proves the port as well: the last three that have answered here."""
    rows = [(State.PROVEN, "Answered here", text) for text in answered[-3:]]
    return rows or [(State.UNKNOWN, "Answered here", NOBODY_YET)]


def _state(good: bool) -> State:
    return State.PROVEN if good else State.CONTRADICTED
