"""The chance of a bag against what is exact, and the best bag found against every bag of small kits."""

import numpy as np
import pytest

from humble_courier.plan.best_chance import BAD, GOOD, STATES, ChanceSearch
from humble_courier.plan.problem import BagChoice, BagLink, BagProblem
from tests.plan.kits import drawn_day, every_bag

NONE = (0, 0)
SLACK = 4 * 0.5 / STATES**0.5  # four standard errors of a share


def alone(counts: tuple[int, ...]) -> BagProblem:
    """One link that either of two pieces serves."""
    return BagProblem(counts, (1.0, 1.0), (BagLink(0, (BagChoice((1, 0), NONE), BagChoice((0, 1), NONE))),))


@pytest.mark.parametrize(("served", "failed"), [(0, 0), (40, 0), (3, 5)])
def test_the_chance_is_that_of_the_beta_binomial(served: int, failed: int) -> None:
    a, b = GOOD + served, BAD + failed
    one_fails = b / (a + b)
    both_fail = one_fails * (b + 1) / (a + b + 1)  # two units of one kind share their unknown reliability
    search = ChanceSearch(alone((2, 1)), (10.0, 10.0), ((served, failed), (0, 0)))
    assert search.chance(np.array([1, 0])) == pytest.approx(1 - one_fails, abs=SLACK)
    assert search.chance(np.array([2, 0])) == pytest.approx(1 - both_fail, abs=SLACK)
    other = BAD / (GOOD + BAD)
    assert search.chance(np.array([1, 1]), fresh=True) == pytest.approx(1 - one_fails * other, abs=SLACK)


@pytest.mark.parametrize("seed", range(10))
def test_the_best_found_is_near_the_best_of_every_bag(seed: int) -> None:
    random = np.random.default_rng(seed)
    problem = drawn_day(random, kinds=5, links=3, stays=0.0)
    grams = random.uniform(20, 200, 5)
    history = [(int(random.integers(0, 20)), int(random.integers(0, 4))) for _ in range(5)]
    search, limit_g = ChanceSearch(problem, grams.tolist(), history), float(0.75 * np.dot(problem.counts, grams))
    within = [bag for bag in every_bag(problem) if bag @ grams <= limit_g]
    best = max((search.chance(bag) for bag in within), default=0.0)
    found = search.solve(limit_g)
    if found is None:
        return
    assert found.grams <= limit_g and search.chance(found.bag) >= best - 0.02
    assert found.chance >= found.least - SLACK


def test_a_limit_that_no_bag_keeps_gives_none() -> None:
    assert ChanceSearch(alone((1, 1)), (50.0, 60.0), ((0, 0), (0, 0))).solve(40.0) is None
