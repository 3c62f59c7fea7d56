"""What shows that a link carried meaning, and how strong that is."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum


class ProofKind(StrEnum):
    """By what a link is proven."""

    ANSWERED = "answered"  # known words were answered as they should be
    READ = "read"  # a register, an identity or a fault memory came with its check
    HEARD = "heard"  # clean sentences or frames, for long enough, at exact settings
    MARKED = "marked"  # an answer to typed words that a person called right


class Grade(StrEnum):
    """How much a proof can carry."""

    STRONG = "strong"
    FAIR = "fair"
    WEAK = "weak"


_ORDER = {Grade.WEAK: 0, Grade.FAIR: 1, Grade.STRONG: 2}
_BOTH_WAYS = (ProofKind.ANSWERED, ProofKind.READ)


@dataclass(frozen=True)
class Shown:
    """What was shown: `identity` by name, `reason` for the grade as a sentence, `stronger`: what would make it so."""

    kind: ProofKind
    grade: Grade
    reason: str
    identity: Mapping[str, str] = field(default_factory=dict)
    stronger: str = ""

    @property
    def title(self) -> str:
        """What it said, in a word or two: the first of what is known of it."""
        name, value = next(iter(self.identity.items()), ("", self.kind.value))
        return f"{name} {value}" if name == "unit" else value

    def outranks(self, other: "Shown | None") -> bool:
        """Whether it carries more than another one; of two alike the first stays."""
        return other is None or self._rank > other._rank

    @property
    def _rank(self) -> tuple[int, bool]:
        return _ORDER[self.grade], self.kind in _BOTH_WAYS
