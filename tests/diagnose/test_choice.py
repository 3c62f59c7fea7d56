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
    """Fewest expected minutes for one fault, over all ways to go on: every set of facts, and of mends that are left.

    The minutes are weighed with how likely the facts are, so that what follows from each outcome is simply added. For each
    set of facts all sets of causes are solved at once, the small ones first: bits of the index tell which are left.
    """
    prior, minutes = model.prior, model.mend_minutes
    n, outcomes = len(prior), model.likely.shape[1]
    left = (np.arange(1 << n)[:, None] >> np.arange(n)) & 1
    many = left.sum(axis=1)
    layers = [(c, np.flatnonzero((many == r) & (left[:, c] == 1))) for r in range(1, n + 1) for c in range(n)]

    @cache
    def best(facts: tuple[int, ...]) -> np.ndarray:
        weights = prior.copy()
        for k, o in enumerate(facts):
            weights = weights * (model.likely[k, o] if o >= 0 else 1.0)
        whole = left @ weights
        least = np.where(many == 0, 0.0, np.inf)
        for k in (k for k, o in enumerate(facts) if o < 0):
            rest = sum(best((*facts[:k], o, *facts[k + 1 :])) for o in range(outcomes) if not model.ends[k, o])
            least = np.minimum(least, model.minutes[k] * whole + rest)
        for c, sets in layers:
            least[sets] = np.minimum(least[sets], minutes[c] * whole[sets] + least[sets ^ (1 << c)])
        return least

    return float(best((-1,) * len(model.checks))[-1])


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
    for seed, (causes, checks) in enumerate([(5, 3)] * 5 + [(8, 5)] * 3 + [(10, 6)]):
        model = small_model(np.random.default_rng(seed), causes, checks)
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
