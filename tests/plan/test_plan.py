"""The least bag and the one that outlives a failure, against every bag of small kits; one-link days as an assignment."""

import numpy as np
import pytest
from scipy.optimize import linear_sum_assignment

from humble_courier.plan.greedy import greedy_bag
from humble_courier.plan.least_bag import LeastBag
from humble_courier.plan.one_failure import OneFailureBag, fails_without, robust_sets
from humble_courier.plan.problem import BagChoice, BagLink, BagProblem
from tests.plan.kits import does, drawn_day, every_bag, least, outlives

CASES = 200  # kits drawn, for each kind of bag


def test_the_least_bag_is_that_of_every_bag_tried() -> None:
    for seed in range(CASES):
        problem = drawn_day(np.random.default_rng(seed))
        wanted, found = least(problem, spare=False), LeastBag(problem).solve(20)
        if wanted is None:
            assert found is None and greedy_bag(problem) is None, seed
            continue
        assert found is not None and found.optimal and found.weight == pytest.approx(wanted), seed
        assert does(problem, found.bag), seed
        quick = greedy_bag(problem)
        assert quick is None or (does(problem, quick) and problem.weight(quick) >= wanted - 1e-9), seed


def test_the_bag_that_outlives_a_failure_is_that_of_every_bag_tried() -> None:
    without = 0
    for seed in range(CASES):
        problem = drawn_day(np.random.default_rng(1000 + seed), kinds=4, links=3)
        wanted, search = least(problem, spare=True), OneFailureBag(problem)
        if search.unsafe:
            assert wanted is None, seed
            without += 1
            continue
        found = search.solve(20)
        assert (found is None) == (wanted is None), seed
        if found is not None:
            assert found.weight == pytest.approx(wanted) and outlives(problem, found.bag), seed
            assert not fails_without(problem, found.bag), seed
    assert 0 < without < CASES


@pytest.mark.parametrize("seed", range(20))
def test_served_is_as_every_combination_says(seed: int) -> None:
    random = np.random.default_rng(seed)
    problem = drawn_day(random, meets=0.5, stays=0.3)
    for bag in every_bag(problem):
        assert (problem.served(bag) is not None) == does(problem, bag)


def test_links_that_meet_and_want_one_piece_each_are_an_assignment() -> None:
    """Each piece is there once, and each link wants any one of them: an assignment solver says what is least."""
    random = np.random.default_rng(3)
    for _ in range(10):
        kinds, links = 7, 5
        weights = random.uniform(0.1, 2, kinds)
        fits = random.random((links, kinds)) < 0.6
        unit = np.eye(kinds, dtype=int)
        none = (0,) * kinds
        choices = [tuple(BagChoice(tuple(unit[k].tolist()), none) for k in np.flatnonzero(row)) for row in fits]
        problem = BagProblem((1,) * kinds, tuple(weights.tolist()), tuple(BagLink(0, one) for one in choices))
        costs = np.where(fits, weights, 1e6)
        rows, columns = linear_sum_assignment(costs)
        total, found = costs[rows, columns].sum(), LeastBag(problem).solve(20)
        assert (found is None) == (total > 1e5)
        assert found is None or found.weight == pytest.approx(total)


def test_robust_sets_hold_a_chain_after_any_loss_and_none_is_needless() -> None:
    random = np.random.default_rng(8)
    for _ in range(30):
        problem = drawn_day(random, links=1)
        link = problem.links[0]
        alone = BagProblem(problem.counts, problem.weights, (link,))
        sets = set(robust_sets(link, problem.counts, problem.weights))
        good = [bag for bag in every_bag(alone) if outlives(alone, bag)]
        smallest = {tuple(b.tolist()) for b in good if not any((o <= b).all() and (o != b).any() for o in good)}
        assert sets == smallest


def test_what_fails_without_a_piece_is_named() -> None:
    none = (0, 0)
    problem = BagProblem(
        (2, 1), (1.0, 1.0),
        (BagLink(0, (BagChoice((1, 0), none), BagChoice((0, 1), none))), BagLink(1, (BagChoice((0, 1), none),))),
    )  # fmt: skip
    assert fails_without(problem, np.array([1, 1])) == {1: [1]}
    assert fails_without(problem, np.array([2, 1])) == {1: [1]} and OneFailureBag(problem).unsafe == [1]
    found = OneFailureBag(problem).solve(20)
    assert found is not None and found.bag.tolist() == [1, 1], "the first outlives any loss, and the second is served"


def test_each_better_bag_is_told_and_a_stop_is_heard() -> None:
    problem = drawn_day(np.random.default_rng(5), kinds=40, links=25)
    heard: list[float] = []
    found = LeastBag(problem).solve(20, lambda one: heard.append(one.weight))
    assert found is not None and heard and heard == sorted(heard, reverse=True)
    assert heard[-1] == pytest.approx(found.weight)
    program = LeastBag(problem)
    program.stop()
    stopped = program.solve(20)
    assert stopped is None or stopped.bound <= stopped.weight
