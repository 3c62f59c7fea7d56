"""A bag that outlasts the loss of any one piece.

Theory of operation. That a link outlives any one loss only gets easier with more pieces. So its least such sets can be
listed beforehand: from each chain on, while a piece is critical (without it no chain of the link is left in the set), a
chain that does without that piece is joined; light sets first, and none that contains another. The integer program wants
one of them in the bag for each link. Where links meet or pieces stay this is not enough: each loss is checked exactly, and
one that is not outlived becomes a block of the program; then it is solved again. A bag is safe only once every loss was
checked.
"""

import heapq
from collections.abc import Callable
from itertools import count

import numpy as np

from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.plan.least_bag import BagFound, BagLoss, BagProgram
from humble_courier.plan.problem import BagChoice, BagLink, BagProblem, Pieces, lessened

MOST_STATES = 4000  # looked at for one link; limited by states and not by seconds, so that a day gives the same bag anywhere
MOST_ROUNDS = 12


def robust_sets(link: BagLink, counts: tuple[int, ...], weights: tuple[float, ...]) -> list[tuple[int, ...]]:
    """The least sets of pieces with which a link outlives any one loss, light ones first; empty where there are none."""
    chains = [np.array(choice.needs) for choice in link.choices]
    number, w = count(), np.array(weights)
    heap: list[tuple[float, int, Pieces]] = []
    for chain in chains:
        heapq.heappush(heap, (float(chain @ w), next(number), chain))
    seen, found = set[tuple[int, ...]](), list[Pieces]()
    for _ in range(MOST_STATES):
        if not heap:
            break
        _, _, have = heapq.heappop(heap)
        key = tuple(int(n) for n in have)
        if key in seen or any((less <= have).all() for less in found):
            continue
        seen.add(key)
        critical = _critical(have, chains)
        if critical is None:
            found.append(have)
            continue
        for chain in chains:
            joined = np.maximum(have, chain)
            joined[critical] = max(int(joined[critical]), int(chain[critical]) + 1)
            if (joined <= counts).all():
                heapq.heappush(heap, (float(joined @ w), next(number), joined))
    return [tuple(int(n) for n in one) for one in found]


def _critical(have: Pieces, chains: list[Pieces]) -> int | None:
    """A kind without one piece of which no chain is left; None where there is none."""
    for kind in np.flatnonzero(have):
        less = lessened(have, int(kind))
        if not any((chain <= less).all() for chain in chains):
            return int(kind)
    return None


def fails_without(problem: BagProblem, bag: Pieces) -> dict[int, list[int]]:
    """For each kind in the bag the links that cannot be served once one piece of it is lost; kinds without any left out.

    Slot by slot; where each passes alone and the day does not, all its links are named.
    """
    chosen = problem.served(bag)
    spare = bag > problem.peak(chosen) if chosen is not None else np.zeros(len(bag), bool)
    found = {}
    for kind in np.flatnonzero((bag > 0) & ~spare):  # one of a kind of which one lies idle is not missed
        less = lessened(bag, int(kind))
        failing = [slot for slot in problem.slots if not problem.slot_served(slot, less)]
        lost = [link for slot in failing for link in _failing(problem, slot, less)]
        if not lost and not problem.plain and problem.served(less) is None:
            lost = list(range(len(problem.links)))
        if lost:
            found[int(kind)] = lost
    return found


def _failing(problem: BagProblem, slot: list[int], bag: Pieces) -> list[int]:
    """The links of a slot that no choice serves; where each has one and they only meet, all."""
    alone = [link for link in slot if problem.first_choice(link, bag) is None]
    return alone or slot


class OneFailureBag:
    """One solving; `stop` ends it. `unsafe`: links that outlive no loss with this kit; these are served, no more."""

    def __init__(self, problem: BagProblem, clock: Clock = SystemClock()) -> None:
        self._problem, self._clock = problem, clock
        sets = [robust_sets(link, problem.counts, problem.weights) for link in problem.links]
        self.unsafe = [i for i, one in enumerate(sets) if not one]
        self._safe = [i for i, one in enumerate(sets) if one]
        self._program: BagProgram | None = None
        self._stopped = False
        nothing = (0,) * len(problem.counts)
        self._choices = [[BagChoice(one, nothing) for one in found] for found in sets if found]
        self.rounds = 0
        self._best: BagFound | None = None  # of which every loss was checked

    def solve(self, seconds: float, better: Callable[[BagFound], None] = lambda _: None) -> BagFound | None:
        """The least bag that outlives any one loss; the best of them when the time is over; None where none was found.

        `better` hears only bags of which every loss was checked.
        """
        over, losses, whole = self._clock.now() + seconds, list[BagLoss](), False
        for _ in range(MOST_ROUNDS):
            self.rounds += 1
            self._program = BagProgram(self._problem, losses, self._choices, whole)
            if self._stopped:
                return self._best
            found = self._program.solve(max(0.1, over - self._clock.now()), lambda one: self._checked(one, better))
            if found is None:
                return self._best
            if self._stopped:
                return self._best  # each better bag was checked as it came
            failing = self._failing(found.bag)
            if not failing and self._problem.served(found.bag) is not None:
                return found
            new = [loss for loss in self._blocks(failing) if loss not in losses]
            whole, losses = whole or not new, losses + new
            if self._stopped or self._clock.now() > over:
                break
        return self._best

    def _failing(self, bag: Pieces) -> dict[int, list[int]]:
        """As `fails_without`, for the links that can outlive a loss at all."""
        lost = fails_without(self._problem.only(self._safe), bag)
        return {kind: [self._safe[link] for link in links] for kind, links in lost.items()}

    def _blocks(self, failing: dict[int, list[int]]) -> list[BagLoss]:
        """For each loss the slots that do not outlive it, or the whole day where only that does not."""
        made = []
        for kind, links in failing.items():
            at = {link for slot in self._problem.slots if set(slot) & set(links) for link in slot}
            made.append(BagLoss(kind, tuple(link for link in self._safe if link in at)))
        return made

    def _checked(self, found: BagFound, better: Callable[[BagFound], None]) -> None:
        if not self._stopped and not self._failing(found.bag) and self._problem.served(found.bag) is not None:
            if self._best is None or found.weight < self._best.weight:
                self._best = found
            better(found)

    def stop(self) -> None:
        """End it soon."""
        self._stopped = True
        if self._program is not None:
            self._program.stop()
