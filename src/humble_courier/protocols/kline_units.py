"""All control units of a K-line, one after the other: each is woken, asked who it is and what troubles it keeps, and let go.

Theory of operation. A K-line has no list of who is there: a unit answers only after its own wake-up at its own address. So
the round goes through the addresses; a unit that wakes is asked two questions that change nothing (its identification, its
troubles by state), and its session is ended, so that the next one has the line for itself. `UnitRound` is a generator of
`StartStep`s in the shape of `FastStart`, and is driven by the same `procedures.wake`.

Sources: ISO 14230-2, 4.3 (times: P3 min 55 ms between an answer and the next request, P3 max 5 s to keep a session, W5
300 ms of idle line before a wake-up); ISO 14230-3, 6.1 (identification, 1A), 7.2 (troubles by state, 18), 6.4 (tester
present, 3E), 9 (negative answer; 78 asks to wait); ISO 15031-6 for the letters of codes; from memory.
"""

from collections.abc import Generator, Iterable, Sequence
from dataclasses import dataclass

from humble_courier.domain.text import printable
from humble_courier.protocols.iso14230 import (
    ADAPTER_S,
    ANSWER_WITHIN_S,
    REFUSED,
    START,
    START_ANSWER,
    TESTER,
    WAKE_HIGH_S,
    WAKE_LOW_S,
    StartStep,
    bare,
    message,
)

IDLE_S, BETWEEN_S = 0.3, 0.06  # W5; P3 min, and a little
IDENTITY, TROUBLES, STOP, PRESENT = b"\x1a\x80", b"\x18\x00\xff\x00", b"\x82", b"\x3e\x01"
ANSWERED = 0x40  # is added to the number of a service in its answer
PENDING, PENDING_MOST = 0x78, 10  # "received, answer pending"; how often that is believed
KEEP_EVERY_S = 2.0  # well under P3 max
ADDRESSES = range(0x10, 0x60)  # engine to restraints, SAE J2178-1 (from memory)
FEWEST = 4  # printable characters that make an identification text


@dataclass(frozen=True)
class StoredTrouble:
    """A stored trouble: its code as it is printed in manuals, and the byte that tells its state."""

    code: str
    state: int

    @property
    def text(self) -> str:
        """The code with its state."""
        return f"{self.code} (state {self.state:02X})"


@dataclass(frozen=True)
class ControlUnit:
    """A unit that woke. `troubles` is None where it did not tell; `refused` says why, in words."""

    address: int
    keys: tuple[int, int]
    identity: str = ""
    troubles: tuple[StoredTrouble, ...] | None = None
    refused: tuple[str, ...] = ()
    kept_alive: int = 0  # times it answered "tester present"


Steps = Generator[StartStep, None, bytes | None]


class UnitRound:
    """Yields steps; is fed what is heard; `units` grows. `hold_s`: for how long each session is kept alive."""

    def __init__(self, addresses: Sequence[int] = ADDRESSES, hold_s: float = 0.0) -> None:
        self.addresses, self.units, self.asked = tuple(addresses), list[ControlUnit](), 0
        self._hold_s, self._said, self._heard = hold_s, b"", bytearray()
        self._answer: bytes | None = None
        self._steps = self._round()

    def next(self) -> StartStep | None:
        """The next step; None when it is over."""
        return next(self._steps, None)

    @property
    def settled(self) -> bool:
        """Whether what is waited for has come."""
        return self._answer is not None

    def feed(self, data: bytes) -> None:
        """Bytes heard; on one wire our own words come back first and are left out."""
        self._heard += data
        heard = bytes(self._heard)
        at = heard.find(self._said)
        rest = heard[at + len(self._said) :] if at >= 0 else heard
        for begin in range(len(rest)):
            size, made = bare(rest, begin)
            if size and made is not None and made.fields.get("to", TESTER) == TESTER:
                self._answer = bytes.fromhex(str(made.fields["hex"]))
                return

    def _round(self) -> Generator[StartStep]:
        for address in self.addresses:
            yield from self._one(address)
            self.asked += 1

    def _one(self, address: int) -> Generator[StartStep]:
        yield StartStep("high", IDLE_S)
        yield StartStep("low", WAKE_LOW_S)
        yield StartStep("high", WAKE_HIGH_S)
        answer = yield from self._ask(address, bytes((START,)))
        if answer is None or answer[0] != START_ANSWER or len(answer) < 3:
            return
        refused: list[str] = []
        who = yield from self._ask(address, IDENTITY)
        troubles = yield from self._ask(address, TROUBLES)
        kept = yield from self._keep(address)
        yield from self._ask(address, STOP)
        for what, told, service in (("its identification", who, IDENTITY), ("its troubles", troubles, TROUBLES)):
            if told is not None and told[0] == REFUSED:
                refused.append(f"it keeps {what} to itself (code {told[-1]:02X})")
            elif told is None or told[0] != service[0] | ANSWERED:
                refused.append(f"{what} did not come")
        self.units.append(
            ControlUnit(address, (answer[1], answer[2]), _identity(who), _troubles(troubles), tuple(refused), kept)
        )

    def _ask(self, address: int, data: bytes) -> Steps:
        """Ask, and wait for as long as the unit asks for patience."""
        yield StartStep("high", BETWEEN_S if data[0] != START else 0.0)
        self._said, self._answer = message(data, address), None
        self._heard.clear()
        yield StartStep("send", 0.0, self._said)
        for _ in range(PENDING_MOST):
            patience = KEEP_EVERY_S if self._pending else ANSWER_WITHIN_S + ADAPTER_S
            self._answer = None
            yield StartStep("wait", patience)
            if not self._pending:
                break
            self._heard.clear()
        return self._answer

    @property
    def _pending(self) -> bool:
        return self._answer is not None and self._answer[0] == REFUSED and self._answer[-1] == PENDING

    def _keep(self, address: int) -> Generator[StartStep, None, int]:
        kept, left = 0, self._hold_s
        while left > 0:
            yield StartStep("high", min(KEEP_EVERY_S, left))
            left -= KEEP_EVERY_S
            answer = yield from self._ask(address, PRESENT)
            kept += answer is not None and answer[0] == PRESENT[0] | ANSWERED
        return kept


def _identity(told: bytes | None) -> str:
    """What it says of itself: its text, or its bytes where they are none."""
    if told is None or len(told) < 3 or told[0] != IDENTITY[0] | ANSWERED:
        return ""
    body = told[2:]
    text = "".join(chr(b) if 32 <= b < 127 else " " for b in body).split()
    whole = " ".join(text)
    return printable(whole.encode()) if sum(map(len, text)) >= FEWEST else body.hex(" ").upper()


def _troubles(told: bytes | None) -> tuple[StoredTrouble, ...] | None:
    """Two bytes of code and one of state each, behind their number."""
    if told is None or len(told) < 2 or told[0] != TROUBLES[0] | ANSWERED:
        return None
    listed = told[2:]
    return tuple(StoredTrouble(code_of(listed[i], listed[i + 1]), listed[i + 2]) for i in range(0, len(listed) - 2, 3))


def code_of(high: int, low: int) -> str:
    """A code as manuals print it: a letter of two bits, a digit of two bits, three hexadecimal digits (ISO 15031-6)."""
    return f"{'PCBU'[high >> 6]}{high >> 4 & 3}{high & 15:X}{low:02X}"


def changed(before: Iterable[ControlUnit], after: Iterable[ControlUnit]) -> tuple[list[str], list[str]]:
    """Troubles that came and that went between two rounds, each with its unit's address."""

    def listed(units: Iterable[ControlUnit]) -> set[str]:
        return {f"{unit.address:02X} {trouble.code}" for unit in units for trouble in unit.troubles or ()}

    first, second = listed(before), listed(after)
    return sorted(second - first), sorted(first - second)
