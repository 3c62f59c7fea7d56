"""Judging what was said and heard as a proof: which kind, how strong, and what would make it stronger.

A talker has nobody to answer: what proves it is that its messages come whole, one after another, with their check. How many
are enough follows from the check: sixteen bits fit by accident once in 65 536 times, eight bits once in 256, and lines of
text have none, so that seven and eight data bits may read alike.
"""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from humble_courier.app.talk.exchanges import JudgedExchange
from humble_courier.app.talk.registers import UnitAnswer
from humble_courier.domain.proven import Grade, ProofKind, Shown
from humble_courier.domain.text import printable
from humble_courier.exchange.proof import ProofLevel, ProofWorth
from humble_courier.exchange.verdict import ExchangeState
from humble_courier.protocols.spec import Check, Decoder, ProtocolSpec

LEAST = {Check.SURE: 3, Check.WEAK: 8, Check.NONE: 5}  # sound messages of which something is said
MANY = 10  # from which on sixteen bits of check leave no doubt
CLEAN = 0.95  # share of the bytes that must lie in sound messages
HELD = 24  # bytes: a message of J1708 that is not whole yet is the longest that waits beyond its line (SAE J1708: 21)
LEAST_S = 2.0  # seconds: what came in one burst may be anything
NAMED = 4  # speakers told by name
READS = ("reading", "date")  # parts that are other the next time: they tell no device from another


@dataclass
class Tally:
    """What came by itself so far, read as one protocol. Feed pieces with their time; `t` in seconds since the epoch."""

    spec: ProtocolSpec
    decoder: Decoder
    sound: int = 0
    sound_bytes: int = 0
    all_bytes: int = 0
    begun: float = 0.0
    last: float = 0.0
    speakers: Counter[str] = field(default_factory=Counter)
    notes: tuple[str, ...] = ()  # what its messages tell together: who is awake, which troubles, how the token goes

    def feed(self, data: bytes, doubtful: int, t: float) -> None:
        """One piece; bytes in doubt belong to no sound message."""
        self.begun, self.last = self.begun or t, t
        self.all_bytes += len(data)
        for event in () if doubtful else self.decoder.feed(data, t):
            if event.ok and event.kind not in self.spec.aside and event.kind != "empty":
                self.sound += 1
                self.speakers[self.spec.speaker(event)] += 1
            if event.ok:
                self.sound_bytes += event.size

    @property
    def clean(self) -> bool:
        """Whether nearly all of it is sound; what the decoder may still hold is not held against it."""
        return self.sound_bytes >= CLEAN * self.all_bytes - HELD


def heard(tally: Tally) -> Shown | None:
    """What a talker has shown so far; None while it is too little."""
    spec, seconds = tally.spec, tally.last - tally.begun
    if tally.sound < LEAST[spec.check] or seconds < LEAST_S or not tally.clean:
        return None
    who = ", ".join(name for name, _ in tally.speakers.most_common(NAMED) if name)
    told = {subject: what for subject, _, what in (note.partition(": ") for note in tally.notes)}
    identity = {"heard": who or spec.name, "messages": str(tally.sound), **told}
    reason = f"{tally.sound} messages in {seconds:.0f} s, read as {spec.name}: {spec.proves}"
    if spec.check is Check.SURE:
        if tally.sound >= MANY:
            return Shown(ProofKind.HEARD, Grade.STRONG, reason, identity)
        return Shown(ProofKind.HEARD, Grade.FAIR, reason, identity, f"listen on until {MANY} have come")
    if spec.check is Check.WEAK:
        stronger = "" if tally.sound < MANY * LEAST[Check.WEAK] else "ask one of them"
        return Shown(ProofKind.HEARD, Grade.FAIR, reason, identity, stronger or "listen on")
    reason = f"{tally.sound} clean lines in {seconds:.0f} s; text has no check, and other data bits may read alike"
    return Shown(ProofKind.HEARD, Grade.WEAK, reason, identity, "ask it something, or compare a value with its display")


def answered(words: str, identity: Mapping[str, str]) -> Shown:
    """Known words were answered as the sheet says."""
    if not identity:
        reason = f"it answered “{words}” as its sheet says, and named nothing by which it is told from another"
        return Shown(ProofKind.ANSWERED, Grade.FAIR, reason, {"answered": words}, "ask for its serial number or firmware")
    return Shown(ProofKind.ANSWERED, Grade.STRONG, f"it answered “{words}” as its sheet says", dict(identity))


def registers(reading: UnitAnswer) -> Shown:
    """Registers came with their check, or a refusal that only the unit itself can make."""
    identity = {"unit": str(reading.unit), **reading.values}
    if reading.refused:
        stronger = "ask for a register that it has"
        return Shown(ProofKind.READ, Grade.FAIR, reading.refused, identity, stronger)
    if reading.doubts:
        return Shown(
            ProofKind.READ, Grade.FAIR, f"what it was asked for came, and {reading.doubts[0]}", identity, "compare the sheet"
        )
    return Shown(ProofKind.READ, Grade.STRONG, f"unit {reading.unit} sent what it was asked for, with its check", identity)


def seen_there(sent: int) -> Shown:
    """A device that only listens shows what it was told, and a person has seen that; `sent`: bytes that left."""
    reason = f"you saw at the device what the talker said, {sent} bytes of it"
    identity = {"seen": "what the talker said", "sent": f"{sent} bytes"}
    return Shown(ProofKind.MARKED, Grade.FAIR, reason, identity, "change the course, and see it follow")


def judged(
    worth: ProofWorth | None, exchanges: Sequence[JudgedExchange], marked: frozenset[bytes] = frozenset()
) -> Shown | None:  # fmt: skip
    """What the exchanges with a device that no sheet knows show of it; None where nothing is told.

    A refusal or an unknown reply shows conductors and settings, never who is there: it proves no link.
    """
    if worth is None or worth.level < ProofLevel.TOLD:
        return None
    told = [
        one
        for one in exchanges
        if one.verdict.checked or one.verdict.state is ExchangeState.ANSWERED or (one.sent in marked and one.verdict.answer)
    ]
    last = told[-1]
    words = printable(last.sent) or last.sent.hex(" ").upper()
    parts = {part.name: part.value for one in told for part in one.verdict.parts if part.name not in READS}
    read = {part.name: part.value for one in told for part in one.verdict.parts if part.name in READS}
    by_person = not parts and not read and last.sent in marked
    identity = parts or read or {"answer": last.verdict.answer, "asked": words}
    kind = ProofKind.READ if last.verdict.checked else ProofKind.MARKED if by_person else ProofKind.ANSWERED
    stronger = ""
    if worth.grade is not Grade.STRONG:
        stronger = f"say “{words}” once more: the same answer makes it strong"
        stronger += ", with another question that it answers otherwise" if by_person else ""
    return Shown(kind, worth.grade, worth.reason, identity, stronger)
