"""Small kits drawn at random, and what there is to know of them by trying every bag."""

from collections.abc import Iterator
from itertools import product

import numpy as np
from numpy.typing import NDArray

from humble_courier.plan.problem import BagChoice, BagLink, BagProblem, Pieces, lessened


def drawn_day(
    random: np.random.Generator, kinds: int = 5, links: int = 4, meets: float = 0.2, stays: float = 0.05
) -> BagProblem:
    """A day whose links each have two to four chains of one to three pieces."""
    counts = random.integers(1, 3, kinds)
    made, slot = [], 0
    for _ in range(links):
        slot += random.random() >= meets
        choices = []
        for _ in range(int(random.integers(2, 5))):
            needs = np.zeros(kinds, int)
            for kind in random.choice(kinds, int(random.integers(1, 4))):
                needs[kind] = min(needs[kind] + 1, counts[kind])
            stay = needs * (random.random(kinds) < stays)
            choices.append(BagChoice(tuple(needs.tolist()), tuple(stay.tolist())))
        made.append(BagLink(int(slot), tuple(choices)))
    weights = tuple(random.uniform(0.05, 1.0, kinds).tolist())
    return BagProblem(tuple(counts.tolist()), weights, tuple(made))


def every_bag(problem: BagProblem) -> Iterator[Pieces]:
    for pieces in product(*(range(count + 1) for count in problem.counts)):
        yield np.array(pieces)


def peaks(problem: BagProblem) -> NDArray[np.int64]:
    """What each combination of choices wants at one time, with what stayed behind before; shape (combinations, kinds)."""
    found = []
    for chosen in product(*(link.choices for link in problem.links)):
        gone = most = np.zeros(len(problem.counts), np.int64)
        for slot in problem.slots:
            used = np.sum([chosen[i].needs for i in slot], axis=0)
            most = np.maximum(most, used + gone)
            gone = gone + np.sum([chosen[i].stays for i in slot], axis=0)
        found.append(most)
    return np.unique(np.array(found), axis=0)


def does(problem: BagProblem, bag: Pieces) -> bool:
    """Whether the day is done out of a bag: every combination of choices is tried, in the words of the problem."""
    return bool((peaks(problem) <= bag).all(axis=1).any())


def least(problem: BagProblem, spare: bool) -> float | None:
    """What the lightest of all bags weighs that serves the day, `spare`: after any one loss too; None where none does."""
    wanted, bags = peaks(problem), np.array(list(every_bag(problem)))
    good = (wanted[None] <= bags[:, None]).all(axis=2).any(axis=1)
    served = {tuple(bag) for bag in bags[good].tolist()}
    if spare:
        good &= [all(tuple(lessened(bag, int(k)).tolist()) in served for k in np.flatnonzero(bag)) for bag in bags]
    return float((bags[good] @ np.array(problem.weights)).min()) if good.any() else None


def outlives(problem: BagProblem, bag: Pieces) -> bool:
    return does(problem, bag) and all(does(problem, lessened(bag, int(k))) for k in np.flatnonzero(bag))
