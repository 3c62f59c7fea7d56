"""Under a weight limit: the bag with the greatest chance that the whole day succeeds. The best found, not proven.

Theory of operation. Pieces fail by chance; what is known of a kind is how often it served and failed, and its units share an
unknown reliability, so their failures come together (beta-binomial; the prior is that nine in ten uses go well, common
practice). Bags are compared on one fixed sample of what may have failed, so that the better one is better for the same luck
(common random numbers). From a light bag on, the piece, or the chain, that adds most chance for its weight is added as long
as there is room; then, while that helps, something is left at home and the room filled anew; several starts. The chance that
is told comes from a fresh sample.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np
from numpy.typing import NDArray

from humble_courier.plan.greedy import greedy_bag
from humble_courier.plan.one_failure import robust_sets
from humble_courier.plan.problem import BagProblem, Pieces

GOOD, BAD = 9.0, 1.0  # uses that went well and badly, believed beforehand
STATES = 8192
MOST_WAYS = 512  # ways in which the links of one slot are served together that are looked at
ROUNDS, STARTS, ROBUST = 50, 16, 12


@dataclass(frozen=True)
class ChanceFound:
    """A bag under the limit, and the chance that it serves the whole day; `least`: that of the lightest bag that serves."""

    bag: Pieces
    grams: float
    chance: float
    least: float


class ChanceSearch:
    """For one day. `grams` and `history` (served, failed) of each kind."""

    def __init__(
        self, problem: BagProblem, grams: Sequence[float], history: Sequence[tuple[int, int]], seed: int = 1
    ) -> None:  # fmt: skip
        self._problem, self._grams = problem, np.array(grams, float)
        self._history, self._seed = history, seed
        self._stopped = False
        self._alive = self._drawn(seed)
        self._ways = [_ways_of(problem, slot) for slot in problem.slots]
        sets = (robust_sets(link, problem.counts, tuple(self._grams + 1.0))[:ROBUST] for link in problem.links)
        self._robust = [np.array(one) for found in sets for one in found]

    def _drawn(self, seed: int) -> NDArray[np.int8]:
        """How many of the first u units of each kind are alive in each state, shape (states, kinds, most + 1)."""
        random, most = np.random.default_rng(seed), max(self._problem.counts, default=0)
        alive = np.zeros((STATES, len(self._problem.counts), most + 1), np.int8)
        for kind, (served, failed) in enumerate(self._history):
            share = random.beta(GOOD + served, BAD + failed, STATES)
            units = random.random((STATES, most)) < share[:, None]
            alive[:, kind, 1:] = np.cumsum(units, axis=1)
        return alive

    def chance(self, bag: Pieces, fresh: bool = False) -> float:
        """That a bag serves the whole day. `fresh`: on another sample than the one on which bags are compared."""
        alive = self._drawn(self._seed + 1) if fresh else self._alive
        there = alive[:, np.arange(len(bag)), bag]
        good = np.ones(STATES, bool)
        for ways in self._ways:
            held = np.zeros(STATES, bool)
            for needs in ways:
                used = np.flatnonzero(needs)
                held |= (there[:, used] >= needs[used]).all(axis=1)
            good &= held
        return float(good.mean())

    def solve(self, limit_g: float) -> ChanceFound | None:
        """The best bag found within the limit; None where not even a light bag is."""
        starts = [bag for bag in self._starts() if bag @ self._grams <= limit_g]
        if not starts:
            return None
        light = min(starts, key=lambda bag: float(bag @ self._grams))
        bags = [self._mended(self._filled(bag, limit_g), limit_g) for bag in starts]
        bag = max(bags, key=self.chance)
        return ChanceFound(bag, float(bag @ self._grams), self.chance(bag, fresh=True), self.chance(light, fresh=True))

    def stop(self) -> None:
        """End it soon, with the best so far."""
        self._stopped = True

    def _starts(self) -> list[Pieces]:
        """Bags that serve the day: the lightest, the surest, and others as if some kinds weighed or failed more."""
        random, found = np.random.default_rng(self._seed), list[Pieces]()
        doubts = np.array([-np.log((GOOD + served) / (GOOD + BAD + served + failed)) for served, failed in self._history])
        for turn in range(STARTS):
            base = doubts + 1e-3 if turn % 2 else np.maximum(self._grams, 1.0)
            weights = base * (random.uniform(0.2, 4, len(base)) if turn > 1 else 1.0)
            bag = greedy_bag(BagProblem(self._problem.counts, tuple(weights.tolist()), self._problem.links))
            if bag is not None and not any((bag == other).all() for other in found):
                found.append(bag)
        return found

    def _more(self, bag: Pieces) -> list[Pieces]:
        """Bags with a piece, a chain, or what makes a link outlive a loss more, as far as the kit has them."""
        single = [self._with(bag, kind, 1) for kind in range(len(bag))]
        spare = [bag + needs for ways in self._ways for needs in ways]
        whole = [np.maximum(bag, needs) for ways in self._ways for needs in ways]
        whole += [np.maximum(bag, needs) for needs in self._robust]
        return [one for one in single + spare + whole if (one <= self._problem.counts).all() and (one != bag).any()]

    def _filled(self, bag: Pieces, limit_g: float) -> Pieces:
        """With what adds most for its weight, one after the other."""
        while not self._stopped:
            better = self._best_of(self._more(bag), bag, limit_g)
            better = self._best_of(self._spared(bag), bag, limit_g) if better is None else better
            if better is None:
                return bag
            bag = better
        return bag

    def _best_of(self, bags: Sequence[Pieces], bag: Pieces, limit_g: float) -> Pieces | None:
        """The one that adds most chance for its weight; None where none adds any within the limit."""
        now, heavy = self.chance(bag), float(bag @ self._grams)
        room = [one for one in bags if one @ self._grams <= limit_g]
        rates = [(self.chance(one) - now) / max(float(one @ self._grams) - heavy, 1.0) for one in room]
        return room[int(np.argmax(rates))] if room and max(rates) > 0 else None

    def _spared(self, bag: Pieces) -> list[Pieces]:
        """For each kind in the bag: with what the day wants where one piece of it is lost, all over the day at once."""
        found = []
        for kind in np.flatnonzero(bag):
            counts = tuple(int(n) - (k == kind) for k, n in enumerate(self._problem.counts))
            other = greedy_bag(BagProblem(counts, tuple((self._grams + 1.0).tolist()), self._problem.links))
            if other is not None:
                found.append(np.maximum(bag, other + (np.arange(len(bag)) == kind) * (other[kind] >= bag[kind])))
        return [one for one in found if (one <= self._problem.counts).all()]

    def _mended(self, bag: Pieces, limit_g: float) -> Pieces:
        """Something is left at home and the room filled anew, while that helps."""
        for _ in range(ROUNDS * (not self._stopped)):
            others = [self._filled(self._with(bag, int(kind), -1), limit_g) for kind in np.flatnonzero(bag)]
            best = max(others, key=self.chance, default=bag)
            if self._stopped or self.chance(best) <= self.chance(bag):
                return bag
            bag = best
        return bag

    @staticmethod
    def _with(bag: Pieces, kind: int, many: int) -> Pieces:
        other = np.array(bag)
        other[kind] += many
        return other


def _ways_of(problem: BagProblem, slot: list[int]) -> list[Pieces]:
    """What the links of a slot want together, each way once, none that holds another.

    Pieces that stay behind are as if they came back: that makes the chance a little too great where they are scarce.
    """
    found: list[Pieces] = []
    ways = product(*([np.array(choice.needs) for choice in problem.links[i].choices] for i in slot))
    for _, parts in zip(range(MOST_WAYS), ways, strict=False):
        needs = np.sum(parts, axis=0)
        if not any((less <= needs).all() for less in found):
            found = [other for other in found if not (needs <= other).all()] + [needs]
    return found
