"""The belief against plain enumeration over all states, and what it says of facts."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from humble_courier.catalog.load import Catalog
from humble_courier.diagnose.belief import ON_THE_WAY, PAIRED, TWO_SHARE, CauseBelief, CheckFact
from humble_courier.diagnose.model import Model, model_of
from tests.diagnose.small import small_model

CATALOG = Catalog()
MODEL = model_of(CATALOG.causes, CATALOG.checks, {"usb", "serial", "rs232", "text"}, {"meter"})


def enumerated(model: Model, facts: tuple[CheckFact, ...]) -> np.ndarray:
    """Bayes' rule over each single state and each pair, one after the other, written out; sums to 1 over the states."""
    causes = list(model.causes.values())
    weights: dict[tuple[int, ...], float] = {(c,): (1 - TWO_SHARE) * p for c, p in enumerate(model.prior)}
    pairs = list(itertools.combinations(range(len(causes)), 2))
    whole = sum(model.prior[i] * model.prior[j] for i, j in pairs)
    weights |= {(i, j): TWO_SHARE * model.prior[i] * model.prior[j] / whole for i, j in pairs}
    for state in weights:
        for fact in facts:
            weights[state] *= chance(model, state, fact)
    total, marginal = sum(weights.values()), np.zeros(len(model.prior))
    for state, weight in weights.items():
        for c in state:
            marginal[c] += weight / total
    return marginal


def chance(model: Model, state: tuple[int, ...], fact: CheckFact) -> float:
    k, o = model.index(fact.check), model.outcome(fact.check, fact.outcome)
    if len(state) == 1:
        return float(model.likely[k, o, state[0]])
    causes = list(model.causes.values())
    first, second = sorted(state, key=lambda c: (ON_THE_WAY.index(causes[c].place), c))
    touched = max(abs(model.likely[k, :, first] - model.usual[k])) > 0.01
    row = [float(x) for x in model.likely[k, :, first if touched else second]]
    if model.ends[k].any():
        row = both_mended(model, k, row, first, second)
    return row[o]


def both_mended(model: Model, k: int, row: list[float], first: int, second: int) -> list[float]:
    works = [
        min(model.likely[k, o, first], model.likely[k, o, second]) if end else 0.0 for o, end in enumerate(model.ends[k])
    ]
    rest = sum(x for x, end in zip(row, model.ends[k], strict=True) if not end)
    left = 1 - sum(works)
    return [w if end else x * left / rest for x, w, end in zip(row, works, model.ends[k], strict=True)]


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000))
def test_the_posterior_is_that_of_enumeration(seed: int) -> None:
    random = np.random.default_rng(seed)
    model = small_model(random, causes=7, checks=5)
    checks = random.permutation(list(model.checks))[: random.integers(0, 5)]
    facts = tuple(CheckFact(c, str(random.choice(list(model.checks[c].outcomes)))) for c in checks)
    assert len(model.causes) <= PAIRED, "so few causes that each pair is weighed"
    assert np.allclose(CauseBelief(model, facts).marginal, enumerated(model, facts), atol=1e-9)


@pytest.mark.parametrize(
    ("facts", "leads"),
    [
        ([("power-lamp", "dark")], "no-supply"),
        ([("volts", "senders-meet")], "straight-for-crossed"),
        ([("open", "held")], "held"),
        ([("ask", "nothing"), ("other-endings", "nothing"), ("other-frames", "answer")], "frame"),
        ([("pull-and-put-back", "other"), ("loop-adapter", "silent")], "wrong-port"),
        ([("meter-cable", "broken"), ("ask", "nothing"), ("loop-cable", "silent")], "broken-conductor"),
    ],
)
def test_what_a_technician_would_conclude(facts: list[tuple[str, str]], leads: str) -> None:
    belief = CauseBelief(MODEL, tuple(CheckFact(*fact) for fact in facts))
    assert next(iter(belief.probabilities)) == leads


def test_why_is_in_the_facts_and_their_signs() -> None:
    seen = {"power-lamp": "lit", "loop-adapter": "echoes", "volts": "senders-meet"}
    belief = CauseBelief(MODEL, tuple(CheckFact(*pair) for pair in seen.items()))
    (first, speaks), *_ = belief.because("straight-for-crossed")
    assert first.check == "volts" and speaks > 2
    assert {fact.check: s for fact, s in belief.because("no-supply")}["power-lamp"] < -2
    assert {fact.check: s for fact, s in belief.because("adapter-dead")}["loop-adapter"] < -2


def test_contradictions_end_at_something_else_and_name_the_fact_that_stands_alone() -> None:
    pairs = {"open": "held", "list-ports": "absent", "pull-and-put-back": "mine", "power-lamp": "dark",
             "other-frames": "answer", "exchange-pair": "works"}  # fmt: skip
    facts = tuple(CheckFact(*pair) for pair in pairs.items())
    known = tuple(fact for fact in facts if fact.check in MODEL.checks)
    belief = CauseBelief(MODEL, known)
    assert belief.unlisted > 0.5
    assert belief.stands_alone() in known
    assert CauseBelief(MODEL, known[:1]).unlisted < 0.1


def test_a_mend_in_vain_leaves_little_belief() -> None:
    before, after = CauseBelief(MODEL), CauseBelief(MODEL, mended=("no-supply",))
    assert after.probabilities["no-supply"] < 0.1 * before.probabilities["no-supply"]
