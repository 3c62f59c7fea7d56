"""Small kits drawn at random, and what there is to know of them by trying every bag."""

from collections.abc import Iterator
from itertools import product

import numpy as np

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


def does(problem: BagProblem, bag: Pieces) -> bool:
    """Whether the day is done out of a bag: every combination of choices is tried, in the words of the problem."""
    for chosen in product(*(link.choices for link in problem.links)):
        left, good = np.array(bag), True
        for slot in problem.slots:
            used = sum((np.array(chosen[i].needs) for i in slot), np.zeros(len(bag), int))
            good = good and bool((used <= left).all())
            left = left - sum((np.array(chosen[i].stays) for i in slot), np.zeros(len(bag), int))
        if good:
            return True
    return False


def outlives(problem: BagProblem, bag: Pieces) -> bool:
    return does(problem, bag) and all(does(problem, lessened(bag, int(k))) for k in np.flatnonzero(bag))
