"""What the window and the command line say of a case: causes with their reasons, places with their mass, the next act."""

from dataclasses import dataclass

import numpy as np

from humble_courier.catalog.entries import CautionEntry
from humble_courier.diagnose.belief import CauseBelief, CheckFact
from humble_courier.diagnose.case import Case
from humble_courier.diagnose.choice import Act
from humble_courier.diagnose.model import NEEDS, Model
from humble_courier.domain.clock import minutes_in_words

LEADS = 3  # causes that are named for each outcome
HELPS = 1.0  # minutes from which on something that is not at hand is named
THINKABLE = 0.002  # below which a cause counts as ruled out
BY_ITSELF, BY_HAND = "program", "person"


@dataclass(frozen=True)
class CauseTold:
    """A cause. `because`: what speaks for it (above 0) and against it, in words, the weightiest first."""

    code: str
    place: str
    says: str
    probability: float
    because: tuple[tuple[str, float], ...]
    mend: str
    minutes: float
    caution: str = ""


@dataclass(frozen=True)
class OutcomeTold:
    """An outcome of a check: its key, how likely it is now, and what leads after it. `ends`: the link works then."""

    id: str
    says: str
    chance: float
    ends: bool
    leads: tuple[tuple[str, float], ...]


@dataclass(frozen=True)
class ActTold:
    """A check, or a mend of `cause`. `saves`: minutes against mending one after the other."""

    code: str
    is_check: bool
    ask: str
    place: str
    minutes: float
    saves: float
    by: str
    sends: str
    needs: tuple[str, ...]
    caution: str
    outcomes: tuple[OutcomeTold, ...]

    @property
    def headline(self) -> str:
        """The act with what it costs and saves."""
        cost = minutes_in_words(self.minutes)
        if self.saves >= 1 and self.is_check:
            return f"{self.ask} {cost} now save {self.saves:.0f} minutes".replace("1 minutes", "1 minute")
        return f"{self.ask} {cost}" if self.ask.endswith("?") else f"{self.ask}: {cost}"


@dataclass(frozen=True)
class Advice:
    """All that is said of a case. `expected`: minutes by mending alone, an upper bound.

    `places`: how likely something is wrong there; `bring`: what is not at hand and would help, with the minutes it would
    save now.
    """

    causes: tuple[CauseTold, ...]
    places: dict[str, float]
    acts: tuple[ActTold, ...]
    expected: float
    thinkable: int
    ruled_out: int
    fits_none: bool
    alone: str
    bring: tuple[tuple[str, float], ...] = ()

    @property
    def headline(self) -> str:
        """What to do now, in a sentence."""
        if self.fits_none:
            more = f" “{self.alone}” stands alone: look at that once more." if self.alone else ""
            return f"None of the causes that are known fits what was seen.{more}"
        return self.acts[0].headline


def advice_of(
    case: Case, at_hand: frozenset[str], may_send: bool, cautions: dict[str, CautionEntry], unable: frozenset[str]
) -> Advice:
    """What to say of a case."""
    belief = case.belief
    found = case.acts(at_hand, may_send, unable)
    alone = belief.stands_alone() if case.fits_none else None
    probabilities = belief.probabilities
    thinkable = sum(p >= THINKABLE for p in probabilities.values())
    return Advice(
        tuple(_cause(belief, code, p, cautions) for code, p in probabilities.items()),
        belief.places,
        tuple(_act(belief, act, cautions) for act in found),
        found[0].expected,
        thinkable,
        len(probabilities) - thinkable,
        case.fits_none,
        fact_in_words(case.model, alone) if alone is not None else "",
        _bring(case, at_hand),
    )


def _bring(case: Case, at_hand: frozenset[str]) -> tuple[tuple[str, float], ...]:
    """What is missing: for each thing that a check wants, what the best such check would save."""
    saved: dict[str, float] = {}
    for act in case.acts(NEEDS, ahead=0):
        lacking = set(case.model.checks[act.check].needs) - at_hand if act.is_check else set()
        for need in lacking:
            saved[need] = max(saved.get(need, 0.0), act.worth)
    found = sorted(((NEEDS[need], minutes) for need, minutes in saved.items() if minutes >= HELPS), key=lambda p: -p[1])
    return tuple(found[:LEADS])


def fact_in_words(model: Model, fact: CheckFact) -> str:
    """A fact as a sentence: what was asked, and what came."""
    check = model.checks[fact.check]
    return f"{check.ask.rstrip('?')}: {check.outcomes[fact.outcome]}"


def _cause(belief: CauseBelief, code: str, probability: float, cautions: dict[str, CautionEntry]) -> CauseTold:
    entry = belief.model.causes[code]
    because = tuple((fact_in_words(belief.model, fact), speaks) for fact, speaks in belief.because(code))
    caution = cautions[entry.mend.caution].text if entry.mend.caution else ""
    return CauseTold(code, entry.place, entry.says, probability, because, entry.mend.act, entry.mend.minutes, caution)


def _act(belief: CauseBelief, act: Act, cautions: dict[str, CautionEntry]) -> ActTold:
    model = belief.model
    if not act.is_check:
        entry = model.causes[act.cause]
        needs, caution = tuple(NEEDS.get(one, one) for one in entry.mend.needs), entry.mend.caution
        return ActTold(
            act.cause, False, entry.mend.act, entry.place, act.minutes, act.worth, BY_HAND, "", needs,
            cautions[caution].text if caution else "", (),
        )  # fmt: skip
    check = model.checks[act.check]
    return ActTold(
        act.check, True, check.ask, check.place, act.minutes, act.worth, check.by, check.sends,
        tuple(NEEDS.get(one, one) for one in check.needs), cautions[check.caution].text if check.caution else "",
        _outcomes(belief, act.check),
    )  # fmt: skip


def _outcomes(belief: CauseBelief, check: str) -> tuple[OutcomeTold, ...]:
    """What each outcome would lead to."""
    model, k, found = belief.model, belief.model.index(check), []
    chances, names = belief.outcomes(k), list(model.causes)
    now = belief.marginal / belief.marginal.sum()
    for o, (id_, says) in enumerate(model.checks[check].outcomes.items()):
        after = model.likely[k, o] * now
        after = after / max(float(after.sum()), 1e-12)
        top = np.argsort(-after[:-1])[:LEADS]
        leads = tuple((model.causes[names[int(c)]].says, float(after[c])) for c in top)
        found.append(OutcomeTold(id_, says, float(chances[o]), bool(model.ends[k, o]), leads))
    return tuple(found)
