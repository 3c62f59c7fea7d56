"""The choice against dynamic programming on small instances, and a worked example of troubleshooting by decision theory."""

from functools import cache

import numpy as np
import pytest

from humble_courier.catalog.load import Catalog
from humble_courier.diagnose.belief import CauseBelief, CheckFact
from humble_courier.diagnose.case import Case
from humble_courier.diagnose.choice import acts, repair_minutes
from humble_courier.diagnose.model import NEEDS, Model, model_of
from tests.diagnose.small import small_model
from tests.diagnose.world import by_choice, cheapest_first, drawn, in_layers, knowing

CATALOG = Catalog()


def test_repair_in_the_order_of_probability_over_minutes() -> None:
    """Heckerman, Breese and Rommelse, "Decision-theoretic troubleshooting" (1995), section 3, from memory: components are
    observed in the order of p/c, and the expected cost is the sum of each cost times the chance that it is come to.

    Worked by hand: p = 0.5, 0.3, 0.2 with c = 4, 1, 10. p/c = 0.125, 0.3, 0.02: second, first, third.
    1 + (1 - 0.3) * 4 + (1 - 0.3 - 0.5) * 10 = 1 + 2.8 + 2 = 5.8.
    """
    assert repair_minutes(np.array([0.5, 0.3, 0.2]), np.array([4.0, 1.0, 10.0])) == pytest.approx(5.8)


def test_no_order_of_mends_is_cheaper() -> None:
    from itertools import permutations

    random = np.random.default_rng(2)
    for _ in range(20):
        p, c = random.dirichlet(np.ones(6)), random.uniform(0.5, 20, 6)
        orders = [sum(c[i] * (1 - sum(p[j] for j in o[:n])) for n, i in enumerate(o)) for o in permutations(range(6))]
        assert repair_minutes(p, c) == pytest.approx(min(orders))


def optimum(model: Model) -> float:
    """Fewest expected minutes for one fault, over all ways to go on: every set of facts and of mends tried."""
    prior = tuple(model.prior.tolist())
    checks = tuple(model.checks)

    @cache
    def best(left: frozenset[int], facts: tuple[tuple[int, int], ...]) -> float:
        weights = np.array(prior) * np.array([c in left for c in range(len(prior))])
        for k, o in facts:
            weights = weights * model.likely[k, o]
        if weights.sum() <= 1e-12 or not left:
            return 0.0
        weights = weights / weights.sum()
        done = {k for k, _ in facts}
        found = []
        for c in left:
            others = left - {c}
            found.append(float(model.mend_minutes[c]) + (1 - float(weights[c])) * best(others, facts))
        for k in range(len(checks)):
            if k not in done:
                chance = model.likely[k] @ weights
                rest = [
                    0.0 if model.ends[k, o] else float(chance[o]) * best(left, tuple(sorted((*facts, (k, o)))))
                    for o in range(len(chance))
                ]
                found.append(float(model.minutes[k]) + sum(rest))
        return min(found)

    return best(frozenset(range(len(prior))), ())


def walked(model: Model) -> float:
    """Expected minutes for one fault of the policy itself, exactly: over every cause and every outcome."""

    def step(case: Case, weights: np.ndarray) -> float:
        if weights.sum() <= 1e-6:
            return 0.0
        act = case.acts(())[0]
        if act.is_check:
            k = model.index(act.check)
            total = float(model.minutes[k]) * weights.sum()
            for o, name in enumerate(model.checks[act.check].outcomes):
                if not model.ends[k, o]:
                    total += step(case.seen(act.check, name), weights * model.likely[k, o])
            return total
        c = list(model.causes).index(act.cause)
        left = weights.copy()
        left[c] = 0.0
        total = float(model.mend_minutes[c]) * weights.sum()
        if len(case.mended) + 1 == len(model.causes):
            return total + float(model.mend_minutes[-1]) * left[-1]
        return total + step(tuple_mended(case, act.cause), left)

    return step(Case(model), model.prior.copy())


def tuple_mended(case: Case, cause: str) -> Case:
    """With a mend in vain, and the facts kept: for one fault there is nothing to begin anew for."""
    return Case(case.model, case.facts, (*case.mended, cause))


def test_one_step_ahead_is_near_the_optimum() -> None:
    ratios = []
    for seed in range(12):
        model = small_model(np.random.default_rng(seed), causes=5, checks=3)
        ratios.append(walked(model) / optimum(model))
    assert min(ratios) >= 1 - 1e-6, "the optimum is the least there is"
    assert np.mean(ratios) <= 1.05


def test_it_takes_a_fraction_of_what_lists_take() -> None:
    model = model_of(CATALOG.causes, CATALOG.checks, {"usb", "serial", "rs232", "text", "sheet"}, set(NEEDS) - {"isolator"})
    means = {}
    for policy in (by_choice, in_layers, cheapest_first, knowing):
        random, minutes = np.random.default_rng(4), []
        for _ in range(40):
            world = drawn(model, random)
            policy(world)
            minutes.append(world.minutes)
        means[policy] = float(np.mean(minutes))
    assert means[knowing] < means[by_choice] < 0.45 * means[in_layers]
    assert means[by_choice] < 0.7 * means[cheapest_first]


def test_what_is_not_at_hand_is_not_proposed_and_nothing_is_sent_without_a_permit() -> None:
    model = model_of(CATALOG.causes, CATALOG.checks, {"usb", "serial", "rs232", "text"}, {"meter"})
    belief = CauseBelief(model, (CheckFact("open", "opens"),))
    for act in acts(belief, {"meter"}, may_send=False):
        if act.is_check:
            check = model.checks[act.check]
            assert set(check.needs) <= {"meter"}
            assert check.by == "person" or not check.sends
    assert any(act.check == "ask" for act in acts(belief, {"meter"}))
    assert not any(act.check == "open" for act in acts(belief, {"meter"})), "what was seen is not asked again"
    assert not any(act.check == "list-ports" for act in acts(belief, {"meter"})), "what opens is there"
    assert not any(act.check == "judge-bytes" for act in acts(belief, {"meter"})), "nothing came that could be judged"
    garbled = CauseBelief(model, (CheckFact("ask", "garbled"),))
    assert any(act.check == "judge-bytes" for act in acts(garbled, {"meter"}))
