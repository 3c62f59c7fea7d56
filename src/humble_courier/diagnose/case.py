"""One link that does not work, from the first fact to its end: what was seen, what was mended in vain, what to do next."""

from collections.abc import Collection
from dataclasses import dataclass, replace

from humble_courier.diagnose.belief import CauseBelief, CheckFact
from humble_courier.diagnose.choice import AHEAD, Act, acts
from humble_courier.diagnose.model import Model

BELIEVED = 0.5  # a mend that was believed in and brings no answer: what was seen may have been another fault's doing
FITS_NONE = 0.5  # belief in something else from which on none of the listed causes fits


@dataclass(frozen=True)
class Case:
    """Facts in the order in which they came. Every method returns another case."""

    model: Model
    facts: tuple[CheckFact, ...] = ()
    mended: tuple[str, ...] = ()

    @property
    def belief(self) -> CauseBelief:
        """How likely each cause is now."""
        return CauseBelief(self.model, self.facts, self.mended)

    def seen(self, check: str, outcome: str, weight: float = 1.0) -> "Case":
        """A fact more; an earlier outcome of the same check is taken back. Raises KeyError for what is not known."""
        self.model.index(check), self.model.outcome(check, outcome)
        kept = tuple(fact for fact in self.facts if fact.check != check)
        return replace(self, facts=(*kept, CheckFact(check, outcome, weight)))

    def taken_back(self, check: str) -> "Case":
        """Without the fact of a check."""
        return replace(self, facts=tuple(fact for fact in self.facts if fact.check != check))

    def in_vain(self, cause: str) -> "Case":
        """A mend brought no answer. Where it was believed in, all is looked at anew: there is a second fault behind it."""
        believed = self.belief.probabilities[cause] >= BELIEVED
        mended = (*(one for one in self.mended if one != cause), cause)
        return replace(self, facts=() if believed else self.facts, mended=mended)

    def acts(
        self, at_hand: Collection[str], may_send: bool = True, unable: Collection[str] = (), ahead: int = AHEAD
    ) -> list[Act]:
        """What can be done now, the best first; `unable`: checks that cannot be done here; `ahead`: see `choice`."""
        return acts(self.belief, at_hand, may_send, unable, ahead)

    @property
    def fits_none(self) -> bool:
        """Whether none of the causes that are known fits what was seen."""
        return self.belief.unlisted > FITS_NONE
