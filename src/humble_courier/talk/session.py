"""The session of one open port, without input or output: bytes and times in, events and bytes to send out.

Listen-only is the state at start. Nothing leaves before `arm`.
"""

from dataclasses import dataclass, field
from enum import StrEnum

from humble_courier.errors import MachineRefused
from humble_courier.line.marked import Doubt, Heard, Unstuffer
from humble_courier.protocols.lines import End, octets, printable
from humble_courier.units.settings import Settings

LONGEST_UTTERANCE = 2048  # bytes; more without a line end or a pause is shown in pieces
SHORTEST_PAUSE_S = 0.2  # an adapter gathers for 16 ms, a loaded computer reads late by more (common practice)
KEPT_UTTERANCES = 5000  # the newest; enough for an hour of a talker that speaks once a second


class Who(StrEnum):
    """Who says something."""

    WE = "we"
    THEY = "they"


@dataclass
class Utterance:
    """What one side said without a pause: bytes with their doubts; times in seconds since the epoch."""

    who: Who
    start: float
    end: float
    heard: list[Heard] = field(default_factory=list)
    meaning: str = ""
    closed: bool = False

    @property
    def data(self) -> bytes:
        """The bytes, doubtful ones included."""
        return bytes(one.byte for one in self.heard)

    @property
    def text(self) -> str:
        """The bytes as text for people."""
        return printable(self.data)

    @property
    def doubtful(self) -> int:
        """How many bytes came with an error."""
        return sum(one.doubt is not Doubt.NONE for one in self.heard)


@dataclass(frozen=True)
class Lines:
    """States of the handshake lines as the port reports them; None where it cannot tell."""

    rts: bool | None = None
    dtr: bool | None = None
    cts: bool | None = None
    dsr: bool | None = None
    dcd: bool | None = None
    ri: bool | None = None


class Session:
    """Groups what is heard into utterances, keeps count of errors, and lets nothing be said unless armed."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.armed_for: str | None = None
        self.utterances: list[Utterance] = []
        self.lines = Lines()
        self.bytes_heard = 0
        self.errors = 0
        self.breaks = 0
        self._unstuff = Unstuffer()
        # A pause of three characters ends an utterance, but no shorter one than a busy computer or an adapter makes itself.
        self.pause_s = max(SHORTEST_PAUSE_S, 3 * settings.character_s)

    @property
    def armed(self) -> bool:
        """Whether something may be sent."""
        return self.armed_for is not None

    def arm(self, what: str) -> None:
        """Allow sending; `what` is the sentence that was shown to the person."""
        self.armed_for = what

    def disarm(self) -> None:
        """Back to listening only."""
        self.armed_for = None

    def hear(self, t: float, data: bytes, marked: bool = True) -> list[Heard]:
        """Take received bytes at `t`; returns them without their marks."""
        heard = self._unstuff.feed(data) if marked else [Heard(byte) for byte in data]
        for one in heard:
            self._hear_one(t, one)
        return heard

    def _hear_one(self, t: float, one: Heard) -> None:
        self.bytes_heard += 1
        self.breaks += one.doubt is Doubt.BREAK
        self.errors += one.doubt is Doubt.ERROR
        current = self.utterances[-1] if self.utterances else None
        line_is_over = current is not None and current.data.endswith(b"\n")
        if (
            current is None or current.who is Who.WE or current.closed or line_is_over
            or t - current.end > self.pause_s or len(current.heard) >= LONGEST_UTTERANCE
        ):  # fmt: skip
            current = self._begin(Who.THEY, t)
        current.heard.append(one)
        current.end = t

    def _begin(self, who: Who, t: float) -> Utterance:
        utterance = Utterance(who, t, t)
        self.utterances.append(utterance)
        del self.utterances[:-KEPT_UTTERANCES]
        return utterance

    def say(self, t: float, text: str, end: End, meaning: str = "") -> bytes:
        """The bytes to send for a line of text; raises MachineRefused while listening only."""
        if not self.armed:
            raise MachineRefused("listening only: nothing is sent", "Arm first")
        data = octets(text) + end.octets
        utterance = self._begin(Who.WE, t)
        utterance.heard = [Heard(byte) for byte in data]
        utterance.end, utterance.meaning, utterance.closed = t + len(data) * self.settings.character_s, meaning, True
        return data

    def complete(self, utterance: Utterance, now: float) -> bool:
        """Whether nothing more will be added to an utterance: its line has ended, or the pause after it."""
        ended = utterance.data.endswith(b"\n") or utterance.closed or utterance is not self.utterances[-1]
        return ended or now - utterance.end > self.pause_s

    @property
    def summary(self) -> str:
        """What arrived so far, in a few words."""
        if not self.bytes_heard:
            return "nothing heard yet"
        words = f"{self.bytes_heard} bytes"
        if self.errors:
            words += f", {self.errors} with errors"
        if self.breaks:
            words += f", {self.breaks} break" + ("s" if self.breaks > 1 else "")
        return words
