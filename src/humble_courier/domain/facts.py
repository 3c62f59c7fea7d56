"""Facts with provenance: nothing the program holds is without a source."""

from dataclasses import dataclass
from enum import StrEnum


class Provenance(StrEnum):
    """Where a fact comes from, strongest first."""

    MEASURED = "measured"
    OBSERVED = "observed"
    DOCUMENTED = "documented"
    ASSUMED = "assumed"
    COMPUTED = "computed"


class State(StrEnum):
    """State of a place on the line; drawn as a shape with a word, colour only supports it."""

    PROVEN = "proven"
    ASSUMED = "assumed"
    EARLIER = "earlier"  # shown on an earlier day; today nothing was seen of it yet
    UNKNOWN = "unknown"
    CONTRADICTED = "contradicted"


@dataclass(frozen=True)
class Fact:
    """One thing known about a link.

    `subject` names the place (`port`, `device settings`), `at` is seconds since the epoch, `source` says by what
    it is known (an edition, a meter, the operating system); `holds` is false for what stands against the link.
    """

    subject: str
    text: str
    provenance: Provenance
    source: str
    at: float
    holds: bool = True

    @property
    def state(self) -> State:
        """How far the fact can be leaned on; what is computed is no stronger than the facts behind it."""
        if not self.holds:
            return State.CONTRADICTED
        if self.provenance in (Provenance.MEASURED, Provenance.OBSERVED):
            return State.PROVEN
        return State.ASSUMED


@dataclass(frozen=True)
class EarlierFact(Fact):
    """A fact that was seen on an earlier day, and not today."""

    @property
    def state(self) -> State:
        """What was proven then is that of its day."""
        return State.EARLIER if super().state is State.PROVEN else super().state
