"""A bag at once: link by link the choice that adds least, then without whatever is not needed. Not the least there is."""

import numpy as np

from humble_courier.plan.problem import BagProblem, Pieces, lessened


def greedy_bag(problem: BagProblem) -> Pieces | None:
    """A bag that serves the day; None where the greedy way finds none. Shape (kinds,)."""
    bag = np.zeros(len(problem.counts), np.int64)
    gone = np.zeros_like(bag)
    weights = np.array(problem.weights)
    for slot in problem.slots:
        used = gone.copy()
        for link in sorted(slot, key=lambda i: len(problem.links[i].choices)):
            ways = []
            for choice in problem.links[link].choices:
                wanted = np.maximum(bag, used + np.array(choice.needs))
                if (wanted <= problem.counts).all():
                    ways.append((float((wanted - bag) @ weights), sum(choice.needs), wanted, choice))
            if not ways:
                return None
            _, _, bag, choice = min(ways, key=lambda way: way[:2])
            used = used + np.array(choice.needs)
            gone = gone + np.array(choice.stays)
    return _without_the_needless(problem, bag)


def _without_the_needless(problem: BagProblem, bag: Pieces) -> Pieces:
    """Heavy pieces first: whatever can stay at home does."""
    for kind in sorted(range(len(bag)), key=lambda k: -problem.weights[k]):
        while bag[kind] and problem.served(lessened(bag, kind)) is not None:
            bag = lessened(bag, kind)
    return bag
