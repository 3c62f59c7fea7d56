"""The bag of a day: seconds to a first bag, to the least one and to one that outlives a failure, against SciPy's own solver.

Chains of a random graph of connectors; a fifth of the links are in use together with the one before, one kind in twenty
stays at a place. `COURIER_LINKS` and `COURIER_KINDS` give the size (60 and 200), `COURIER_DAYS` how many days (2).
"""

import os
import threading
import time
from collections.abc import Callable

import numpy as np
import pytest
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import csr_array

from humble_courier.plan.greedy import greedy_bag
from humble_courier.plan.least_bag import BagProgram, LeastBag
from humble_courier.plan.one_failure import OneFailureBag, fails_without
from humble_courier.plan.problem import BagChoice, BagLink, BagProblem

LINKS, KINDS = int(os.environ.get("COURIER_LINKS", "60")), int(os.environ.get("COURIER_KINDS", "200"))
DAYS, CONNECTORS, CHAINS, LONGEST = int(os.environ.get("COURIER_DAYS", "2")), 24, 8, 3
LEAST_S, SPARE_S = 20.0, 40.0


def chains(random: np.random.Generator, ends: list[tuple[int, int]]) -> list[tuple[int, ...]]:
    """Up to `CHAINS` ways between two connectors drawn at random, the short ones first."""
    while True:
        start, goal = (int(c) for c in random.choice(CONNECTORS, 2, replace=False))
        found, ways = [], [(start, ())]
        while ways and len(found) < CHAINS:
            at, path = ways.pop(0)
            if at == goal and path:
                found.append(path)
            elif len(path) < LONGEST:
                ways += [
                    (b if a == at else a, (*path, kind))
                    for kind, (a, b) in enumerate(ends) if at in (a, b) and kind not in path
                ]  # fmt: skip
        if found:
            return found


def day(seed: int) -> BagProblem:
    random = np.random.default_rng(seed)
    ends = [tuple(int(c) for c in random.choice(CONNECTORS, 2, replace=False)) for _ in range(KINDS)]
    stays, links, slot = random.random(KINDS) < 0.05, [], 0
    for _ in range(LINKS):
        slot += int(random.random() >= 0.2)
        choices = []
        for path in chains(random, ends):  # type: ignore[arg-type]
            needs = np.bincount(path, minlength=KINDS)
            choices.append(BagChoice(tuple(needs.tolist()), tuple((needs * stays).tolist())))
        links.append(BagLink(slot, tuple(choices)))
    counts = random.integers(1, 4, KINDS)
    return BagProblem(tuple(counts.tolist()), tuple(random.uniform(0.02, 0.4, KINDS).tolist()), tuple(links))


def with_scipy(problem: BagProblem) -> tuple[float, float]:
    """Seconds and weight of the same program, solved by SciPy."""
    lp = BagProgram(problem)._lp()
    rows = csr_array((lp.a_matrix_.value_, lp.a_matrix_.index_, lp.a_matrix_.start_), shape=(lp.num_row_, lp.num_col_))
    whole = np.array([kind.name == "kInteger" for kind in lp.integrality_], int)
    begun = time.perf_counter()
    found = milp(
        lp.col_cost_, integrality=whole, bounds=Bounds(0, 1), constraints=LinearConstraint(rows, lp.row_lower_, np.inf),
        options={"time_limit": LEAST_S},
    )  # fmt: skip
    return time.perf_counter() - begun, float(found.fun) if found.x is not None else float("nan")


@pytest.mark.parametrize("seed", range(DAYS))
def test_the_bag_of_a_day(benchmark: Callable[..., object], seed: int) -> None:
    problem = day(seed)
    begun = time.perf_counter()
    first = greedy_bag(problem)
    first_s = time.perf_counter() - begun
    begun = time.perf_counter()
    least = benchmark.pedantic(lambda: LeastBag(problem).solve(LEAST_S), rounds=1)  # type: ignore[attr-defined]
    least_s = time.perf_counter() - begun
    begun, search = time.perf_counter(), OneFailureBag(problem)
    spare = search.solve(SPARE_S)
    spare_s = time.perf_counter() - begun
    theirs_s, theirs = with_scipy(problem)
    assert least is not None and first is not None
    above = problem.weight(first) / least.weight - 1
    print(f"\n{LINKS} links, {KINDS} kinds: a first bag in {first_s:.1f} s, {above:.1%} above the least")
    ratio = f"{least_s / theirs_s:.2f} of SciPy's seconds; there it weighs {theirs / least.weight - 1:+.1%}"
    print(f"the least in {least_s:.1f} s (gap {least.gap:.2%}), {ratio}")
    safe = problem.only([i for i in range(LINKS) if i not in search.unsafe])
    lost = fails_without(safe, spare.bag) if spare else {}
    kept = f"gap {spare.gap:.1%}, {len(lost)} of its losses are not outlived" if spare is not None else "none found in time"
    print(f"one that outlives a failure in {spare_s:.1f} s: {kept}; {len(search.unsafe)} links have no second way")


def test_a_stop_is_heard() -> None:
    """Seconds from the stop to the bag in hand, in the middle of the largest day here."""
    search, stopped = OneFailureBag(day(0)), []

    def stop() -> None:
        stopped.append(time.perf_counter())
        search.stop()

    timer = threading.Timer(3.0, stop)
    timer.start()
    search.solve(SPARE_S)
    ended = time.perf_counter()
    timer.join()
    print(f"\nstopped: {ended - stopped[0]:.2f} s until it had ended" if ended > stopped[0] else "\nover before the stop")
