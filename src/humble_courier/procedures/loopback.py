"""The loop-back proof: with a plug or a jumper at the far end, everything up to it must come back unchanged.

Patterns: all byte values, both ways through, and the two that change at each bit. Then each handshake line is raised and
lowered, and who follows is noted.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from humble_courier.domain.lines import Lines
from humble_courier.domain.settings import Frame, Settings
from humble_courier.errors import CourierError
from humble_courier.procedures.steps import Outcome, Step

RATES = (9600, 115200)  # the commonest, and one that shows weak cables and adapters
# Each value after each neighbour both ways, then the fastest change of bits.
PATTERN = bytes(range(256)) + bytes(reversed(range(256))) + b"\x55\xaa" * 32
WAIT_S = 0.6  # what comes through a plug is there at once; the rest is for a loaded computer
STATES = ((False, False), (True, False), (False, True), (True, True))  # DTR, RTS


class LoopVerdict(StrEnum):
    """What the proof says."""

    PROVEN = "proven"  # data and both pairs of lines
    DATA_ONLY = "proven-data-only"  # three wires
    ERRORS = "errors"
    NOTHING = "nothing-came-back"
    REFUSED = "refused"
    STOPPED = "stopped"


@dataclass(frozen=True)
class AtRate:
    """What came back at one rate: bytes sent, how many were wrong or missing, and the first that was."""

    settings: Settings
    sent: int
    errors: int
    first_wrong: int | None


@dataclass
class LoopBack:
    """A procedure. `results` by rate; `pairs`: whether an input follows an output."""

    address: str
    rates: Sequence[int] = RATES
    handshake_lines: bool = True
    pattern: bytes = PATTERN
    results: list[AtRate] = field(default_factory=list)
    refused: CourierError | None = None
    stopped: bool = False  # by a person, before it was over
    _rate: int = 0
    _state: int = 0
    _seen: list[tuple[tuple[bool, bool], Lines]] = field(default_factory=list)

    @property
    def says(self) -> str:
        """What will be sent, before it is."""
        rates = ", ".join(map(str, self.rates))
        size = len(self.pattern)
        return f"{size} bytes of patterns at each of {rates} bit/s, and RTS and DTR up and down; a plug must be there"

    def next(self) -> Step | None:
        """Patterns at each rate, then the lines."""
        if self.refused:
            return None
        if self._rate < len(self.rates):
            settings = Settings(self.rates[self._rate], Frame())
            seconds = len(self.pattern) * settings.character_s + WAIT_S
            size = len(self.pattern)
            return Step(self.address, settings, self.pattern, seconds, enough=size, quiet_s=WAIT_S, action="send patterns")
        if self.handshake_lines and self._state < len(STATES):
            at = Settings(self.rates[0], Frame())
            return Step(self.address, at, seconds=0.05, lines=STATES[self._state], action="move the lines")
        return None

    def done(self, step: Step, outcome: Outcome) -> None:
        """Compare what came back."""
        if outcome.refusal is not None:
            self.refused = outcome.refusal
        elif step.lines is not None:
            self._seen.append((step.lines, outcome.lines))
            self._state += 1
        else:
            wrong = wrongs(self.pattern, outcome.data)
            self.results.append(AtRate(step.settings, len(self.pattern), len(wrong), wrong[0] if wrong else None))
            self._rate += 1
            if not outcome.data:
                self._rate = len(self.rates)  # nothing comes back: further rates would tell nothing

    @property
    def pairs(self) -> dict[str, bool | None]:
        """Whether CTS follows RTS, DSR and DCD follow DTR; None where the port cannot tell."""
        return {
            "rts_cts": self._follows(1, [lines.cts for _, lines in self._seen]),
            "dtr_dsr": self._follows(0, [lines.dsr for _, lines in self._seen]),
            "dtr_dcd": self._follows(0, [lines.dcd for _, lines in self._seen]),
        }

    def _follows(self, output: int, inputs: list[bool | None]) -> bool | None:
        if not inputs or any(state is None for state in inputs):
            return None
        return all(state is given[output] for (given, _), state in zip(self._seen, inputs, strict=True))

    @property
    def verdict(self) -> LoopVerdict:
        """What all of it says."""
        if self.refused:
            return LoopVerdict.REFUSED
        if self.stopped:
            return LoopVerdict.STOPPED
        if not any(one.errors < one.sent for one in self.results):
            return LoopVerdict.NOTHING
        if any(one.errors for one in self.results):
            return LoopVerdict.ERRORS
        return LoopVerdict.PROVEN if self.pairs["rts_cts"] and self.pairs["dtr_dsr"] else LoopVerdict.DATA_ONLY


def wrongs(sent: bytes, came: bytes) -> list[int]:
    """Places of `sent` that did not come back as they were; what is missing at the end counts."""
    return [i for i, byte in enumerate(sent) if i >= len(came) or came[i] != byte]
