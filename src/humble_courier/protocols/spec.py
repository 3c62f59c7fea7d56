"""What a protocol declares of itself: one `SPEC` in each module, found by the registry.

Everything that needs to know protocols takes it from here: `decode`, what an utterance means, what a search may say, what a
simulated talker puts around its data, the table in the documentation.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, Protocol

from humble_courier.protocols.framer import Cut, Event, Framer
from humble_courier.protocols.places import Places

NO_NEWS = ("noise", "idle", "done")  # kinds of events that say nothing about the protocol


class Facts(Protocol):
    """What protocols look up of the trade; the catalog gives it."""

    def names(self, id_: str) -> Mapping[int, str]:
        """What the numbers of a protocol are called, by the id of the list."""

    def carries(self) -> Mapping[str, Sequence[str]]:
        """What a listener can take from a sentence, by its formatter."""


class Decoder(Protocol):
    """Feed bytes with the time of the piece; get what is complete. `end`: no more will come."""

    def feed(self, data: bytes, t: float = 0.0) -> list[Event]:
        """Messages that are complete."""

    def end(self) -> list[Event]:
        """What is left over."""


class Check(StrEnum):
    """How sure it is that a sound message is one."""

    SURE = "sure"  # sixteen bits of check, or a structure that no accident makes
    WEAK = "weak"  # eight bits, or a frame alone: one message may be an accident
    NONE = "none"  # any text is a line of text


@dataclass(frozen=True)
class Addressed:
    """First words for each address of a bus: `request(unit)` changes nothing there.

    `answered` names the unit that a whole answer comes from, or None where it is none. `frames` with how often they are met;
    `wait_s`: what a unit takes for its answer at most. `alike(unit)`: a request all of whose bytes have as many ones as the
    unit's address, odd or even, so that its parity bits are all one, like stop bits: it is read at two frames at once.
    `behind(data)`: whether an answer comes from a gateway, and the unit itself has not answered. `rates`: how often each is
    met with this protocol, in parts; every other counts one.
    """

    says: str
    request: Callable[[int], bytes]
    answered: Callable[[bytes], int | None]
    frames: Mapping[str, float]
    wait_s: float
    alike: Callable[[int], bytes] | None = None
    behind: Callable[[bytes], bool] = lambda _: False
    rates: Mapping[int, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Line:
    """First words as a line: `end` its terminator, None where all are to be tried."""

    text: bytes
    end: bytes | None = None


@dataclass(frozen=True)
class Probe:
    """Safe first words of a protocol: lines (for addresses from one to another), or a request for each address."""

    lines: Callable[[int, int], tuple[Line, ...]] | None = None
    addressed: Addressed | None = None


def of_cut(
    cut: Cut, reach: int | None = None, places: Callable[[bytes], Places] | None = None
) -> Callable[[Facts], Decoder]:
    """The decoder of a protocol that remembers nothing and looks nothing up; see `Framer`."""
    return lambda _: Framer(cut, reach, places)


def plainly(event: Event) -> str:
    """A message in a few words, where a protocol has no words of its own for it."""
    told = " ".join(f"{name} {value}" for name, value in event.fields.items() if name != "hex")
    return event.why or told or event.kind


def nobody(_event: Event) -> str:
    """Most messages do not tell who speaks."""
    return ""


def no_summary(_decoder: Decoder, _events: Sequence[Event], _facts: Facts) -> list[str]:
    """Most protocols have nothing to say of all messages together."""
    return []


@dataclass(frozen=True)
class ProtocolSpec:
    """A protocol. `guess`: its place in the order in which protocols are guessed, None where it is never.

    `text`: all of it is printable. `proves`: what a clean exchange proves, as a sentence. `aside`: kinds of events that are
    no evidence for it. `timed`: a decoder that cuts by silence, for logs. `speaker`: who says a message, by the name in it.
    `framed`: what goes over the line for some data.
    """

    id: str
    name: str
    check: Check
    decoder: Callable[[Facts], Decoder]
    proves: str
    guess: int | None = None
    text: bool = False
    aside: frozenset[str] = frozenset(NO_NEWS)
    sentence: Callable[[Event], str] = plainly
    speaker: Callable[[Event], str] = nobody
    summed_up: Callable[[Any, Sequence[Event], Facts], list[str]] = no_summary
    timed: Callable[[Facts], Decoder] | None = None
    framed: Callable[[bytes], bytes] | None = None
    probe: Probe | None = None

    def told(self, event: Event) -> str:
        """One message in a few words; of a damaged one, what is wrong with it."""
        return self.sentence(event) if event.ok else event.why or event.kind
