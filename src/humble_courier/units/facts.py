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
    UNKNOWN = "unknown"
    CONTRADICTED = "contradicted"


@dataclass(frozen=True)
class Fact:
    """One thing known about a link.

    `subject` names the place (`port`, `device settings`), `at` is seconds since the epoch, `source` says by what
    it is known (an edition, a meter, the operating system).
    """

    subject: str
    text: str
    provenance: Provenance
    source: str
    at: float

    @property
    def state(self) -> State:
        """How far the fact can be leaned on."""
        if self.provenance in (Provenance.MEASURED, Provenance.OBSERVED, Provenance.COMPUTED):
            return State.PROVEN
        return State.ASSUMED
