"""How many minutes it will take from here: the engine's own way on links drawn from what is believed now.

Theory of operation. The expected minutes of repair (`choice`) are those of mending alone, an upper bound. What it takes with
checks is found by going the way: a truth is drawn from the belief, checks show what the model says of it, and the engine
goes on until the link works. A few dozen such ways give the mean; the seed is fixed, so that a number does not flicker.
"""

from collections.abc import Callable, Collection
from dataclasses import dataclass

import numpy as np

from humble_courier.diagnose.belief import ON_THE_WAY
from humble_courier.diagnose.case import Case
from humble_courier.diagnose.model import ELSE_MINUTES, Model

WAYS = 24  # that are gone; the mean of so many is right within a fifth or so
MOST_ACTS = 400


@dataclass
class World:
    """One link whose true causes nobody knows. `minutes` counts; `works` once none is left."""

    model: Model
    causes: list[int]
    random: np.random.Generator
    minutes: float = 0.0

    @property
    def works(self) -> bool:
        """Whether the device answers."""
        return not self.causes

    def _shows(self, k: int) -> int:
        """The cause that a check shows: the one that comes first on the way and touches it."""
        places = [cause.place for cause in self.model.causes.values()]
        order = sorted(self.causes, key=lambda c: ON_THE_WAY.index(places[c]))
        touching = [c for c in order if np.abs(self.model.likely[k, :, c] - self.model.usual[k]).max() > 0.01]
        return (touching or order)[0]

    def check(self, k: int) -> int:
        """Look; the outcome. Of two causes one mended brings no answer."""
        self.minutes += float(self.model.minutes[k])
        ends, shares = self.model.ends[k], self.model.likely[k, :, self._shows(k)].copy()
        if len(self.causes) > 1 and ends.any():
            shares[ends] = 0.0
        outcome = int(self.random.choice(len(shares), p=shares / shares.sum()))
        if ends[outcome]:
            self.causes = []
        return outcome

    def mend(self, c: int) -> bool:
        """Mend; whether it works now."""
        self.minutes += float(self.model.mend_minutes[c])
        self.causes = [one for one in self.causes if one != c]
        return self.works


def go(
    world: World, case: Case, at_hand: Collection[str], may_send: bool = True, unable: Collection[str] = (), ahead: int = 0
) -> None:
    """The engine's way from a case until the link works, or until all that is listed was tried."""
    names = list(world.model.causes)
    for _ in range(MOST_ACTS):
        if world.works:
            return
        act = case.acts(at_hand, may_send, unable, ahead)[0]
        if act.is_check:
            outcome = list(world.model.checks[act.check].outcomes)[world.check(world.model.index(act.check))]
            case = case.seen(act.check, outcome)
        elif not world.mend(names.index(act.cause)):
            case = case.in_vain(act.cause)
    world.minutes += ELSE_MINUTES


def outlook(
    case: Case, at_hand: Collection[str], may_send: bool = True, unable: Collection[str] = (), ways: int = WAYS
) -> float:
    """Expected minutes to a working link from here, with checks and mends as the engine chooses them."""
    found = outlook_while(lambda: True, case, at_hand, may_send, unable, ways)
    assert found is not None, "it was wanted to the end"
    return found


def outlook_while(
    wanted: Callable[[], bool], case: Case, at_hand: Collection[str], may_send: bool = True, unable: Collection[str] = (),
    ways: int = WAYS,
) -> float | None:  # fmt: skip
    """As `outlook`; `wanted` is asked before each way: None as soon as nobody waits for it any more."""
    random, minutes = np.random.default_rng(1), []
    single, both = case.belief.joint
    listed = np.concatenate([single[:-1], both])
    # Evenly over the belief, not by chance: the same number of ways tells more.
    picks = np.searchsorted(np.cumsum(listed / listed.sum()), (np.arange(ways) + 0.5) / ways)
    for pick in picks.tolist():
        if not wanted():
            return None
        causes = [pick] if pick < len(single) - 1 else list(case.belief.pair(pick - len(single) + 1))
        world = World(case.model, causes, random)
        go(world, case, at_hand, may_send, unable)
        minutes.append(world.minutes)
    unlisted = float(single[-1])
    return (1 - unlisted) * float(np.mean(minutes)) + unlisted * ELSE_MINUTES
