"""What several exchanges are worth as a proof: an order, and ways back.

Theory of operation. Nothing < sounds < heard < both ways < told < told again < checked. A refusal, an acknowledgement or an
unknown reply shows that both conductors carry and that settings and ending are right; it never shows who is there. What
names itself, or a person called right, is told; told again when the same words bring the same answer once more; where it
names nothing, another question must be answered otherwise. A check that our own words carry too is worth most. The newer of
two equal ones holds. Taken back: what was only called right, once other words bring the same reply; what told a name, once
the same words bring another; everything, once it garbles.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import IntEnum

from humble_courier.domain.proven import Grade
from humble_courier.domain.text import printable
from humble_courier.exchange.verdict import ExchangeState, ExchangeVerdict

FEW_CHECKED = 2  # exchanges with a check of one byte may fit by accident: from two on nothing does
WHO = ("serial number", "model")


class ProofLevel(IntEnum):
    """How far it goes."""

    SOUNDS = 1
    BOTH_WAYS = 3
    TOLD = 4
    TOLD_AGAIN = 5
    CHECKED = 6


@dataclass(frozen=True)
class ProofWorth:
    """`level` and grade with the reason for it, and what was taken back."""

    level: ProofLevel
    grade: Grade
    reason: str
    withdrawn: str = ""


BOTH_WAYS = (ExchangeState.REFUSED, ExchangeState.ACKNOWLEDGED, ExchangeState.REPLIED)
SOUNDS = (ExchangeState.ECHO, ExchangeState.PROMPT, ExchangeState.MORE, ExchangeState.GARBLED, ExchangeState.LATE)


def worth_of(
    exchanges: Sequence[tuple[bytes, ExchangeVerdict]], marked: frozenset[bytes] = frozenset()
) -> ProofWorth | None:
    """What they show together, in their order; `marked`: words whose answer a person called right. None for nothing."""
    held, withdrawn = _standing(exchanges)
    best: tuple[ProofLevel, str] | None = None
    for sent, verdict in held:
        found = _of_one(sent, verdict, held, marked)
        if found is not None and (best is None or found[0] >= best[0]):
            best = found
    if best is None:
        return None
    level, reason = best
    grade = {ProofLevel.SOUNDS: Grade.WEAK, ProofLevel.BOTH_WAYS: Grade.FAIR, ProofLevel.TOLD: Grade.FAIR}.get(
        level, Grade.STRONG
    )
    return ProofWorth(level, grade, reason, withdrawn)


def _standing(
    exchanges: Sequence[tuple[bytes, ExchangeVerdict]],
) -> tuple[list[tuple[bytes, ExchangeVerdict]], str]:
    """What is left after what speaks against it."""
    held: list[tuple[bytes, ExchangeVerdict]] = []
    withdrawn = ""
    for sent, verdict in exchanges:
        if verdict.state is ExchangeState.GARBLED and held:
            held, withdrawn = [], "it garbles now"
        elif contradicted := _contradicted(sent, verdict, held):
            held = [one for one in held if one[0] != sent]
            withdrawn = contradicted
        held.append((sent, verdict))
    return held, withdrawn


def _contradicted(sent: bytes, verdict: ExchangeVerdict, held: Sequence[tuple[bytes, ExchangeVerdict]]) -> str:
    """The same words name another device than before."""
    now = {part.name: part.value for part in verdict.parts if part.name in WHO}
    for before, earlier in held:
        for part in earlier.parts if before == sent else ():
            if part.name in now and now[part.name] != part.value:
                return f"“{printable(sent)}” named {part.name} {part.value} before, and {now[part.name]} now"
    return ""


def _of_one(
    sent: bytes, verdict: ExchangeVerdict, held: Sequence[tuple[bytes, ExchangeVerdict]], marked: frozenset[bytes]
) -> tuple[ProofLevel, str] | None:
    words = printable(sent) or sent.hex(" ").upper()
    if verdict.checked:
        return ProofLevel.CHECKED, f"“{words}” brought an answer with a check that our words carry too"
    if verdict.state is ExchangeState.ANSWERED or (sent in marked and verdict.state is ExchangeState.REPLIED):
        return _told(sent, words, verdict, held, sent in marked)
    if verdict.state in BOTH_WAYS:
        return ProofLevel.BOTH_WAYS, f"“{words}” brought a reply: both conductors carry, at these settings"
    return (ProofLevel.SOUNDS, f"after “{words}” something sounds") if verdict.state in SOUNDS else None


def _told(
    sent: bytes, words: str, verdict: ExchangeVerdict, held: Sequence[tuple[bytes, ExchangeVerdict]], marked: bool
) -> tuple[ProofLevel, str]:
    names = ", ".join(f"{part.name} {part.value}" for part in verdict.parts)
    same = sum(other == sent and one.answer == verdict.answer for other, one in held)
    others = [one for other, one in held if other != sent and one.answer]
    if not verdict.parts and any(one.answer == verdict.answer for one in others):
        return ProofLevel.BOTH_WAYS, f"“{words}” brought what other words bring too: it says nothing of them"
    how = f"“{words}” was answered with {names}" if names else f"“{words}” was answered “{verdict.answer}”"
    how += ", called right by you" if marked and not names else ""
    otherwise = any(one.answer != verdict.answer for one in others)
    if same > 1 and (names or otherwise):
        return ProofLevel.TOLD_AGAIN, f"{how}, {same} times alike" + (
            ", and another question otherwise" if otherwise else ""
        )
    return ProofLevel.TOLD, how
