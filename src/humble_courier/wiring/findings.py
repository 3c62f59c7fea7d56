"""What a check of the wiring says: a code from the published list, how bad it is, a sentence, a place on the line."""

from dataclasses import dataclass
from enum import StrEnum


class Verdict(StrEnum):
    """The worst that holds, best first."""

    WORKS = "works"
    WITHOUT_HANDSHAKE = "works-without-handshake"
    WILL_NOT_WORK = "will-not-work"
    MAY_DAMAGE = "may-damage"

    @property
    def usable(self) -> bool:
        """Whether data flows both ways."""
        return self in (Verdict.WORKS, Verdict.WITHOUT_HANDSHAKE)

    @property
    def rank(self) -> int:
        """0 for the best."""
        return list(Verdict).index(self)


class Severity(StrEnum):
    """What a finding does to the verdict."""

    DAMAGE = "damage"
    ERROR = "error"
    HANDSHAKE = "handshake"
    NOTE = "note"


# The published codes, in the order in which one would look at them.
CODES = (
    "does-not-mate", "level-damage", "power-into-signal", "power-feedback", "must-stay-open", "output-meets-output",
    "input-undriven", "measure-first",
    "no-signal-ground", "level-mismatch", "pair-swapped", "pair-split", "too-long", "not-terminated", "bias-too-weak",
    "line-overloaded", "ground-difference", "handshake-open", "handshake-looped",
)  # fmt: skip
_WORST = {
    Severity.DAMAGE: Verdict.MAY_DAMAGE,
    Severity.ERROR: Verdict.WILL_NOT_WORK,
    Severity.HANDSHAKE: Verdict.WITHOUT_HANDSHAKE,
    Severity.NOTE: Verdict.WORKS,
}
_SEVERITIES = list(Severity)


@dataclass(frozen=True)
class Finding:
    """One thing found: a code from the published list, a sentence, and the place on the line."""

    code: str
    severity: Severity
    text: str
    where: str
    net: int | None = None


def ordered(findings: list[Finding]) -> list[Finding]:
    """The worst first."""
    return sorted(findings, key=lambda f: (_SEVERITIES.index(f.severity), CODES.index(f.code)))


def verdict(findings: list[Finding] | tuple[Finding, ...]) -> Verdict:
    """The worst that the findings say."""
    return max((_WORST[f.severity] for f in findings), key=lambda v: v.rank, default=Verdict.WORKS)
