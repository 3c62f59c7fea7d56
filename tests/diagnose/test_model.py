"""The causes and checks of a link as arrays: what stands in the data, what the conditions let through, what is excluded."""

import numpy as np
import pytest

from humble_courier.catalog.load import Catalog
from humble_courier.diagnose.model import ELSE_SHARE, ENDS_FLOOR, FETCH_MINUTES, FLOOR, HEALTHY, NEEDS, model_of
from humble_courier.diagnose.situation import TAGS
from humble_courier.simulator.devices.behaviour import faults

CATALOG = Catalog()
CAUSES, CHECKS = CATALOG.causes, CATALOG.checks
EFFECTS = {cause.effect for cause in CAUSES.values()}
# Codes of the published contract; more may be added, none may go.
PUBLISHED = [
    "no-supply",
    "precondition",
    "other-mode",
    "covered-port",
    "wrong-socket",
    "straight-for-crossed",
    "crossed-for-straight",
    "broken-conductor",
    "no-ground",
    "handshake-open",
    "level",
    "supply-fed-back",
    "noise",
    "too-long",
    "wrong-port",
    "held",
    "no-permission",
    "worn-socket",
    "charge-only-cable",
    "hub-power",
    "no-module",
    "module-blocked",
    "other-module",
    "number-too-high",
    "weak-adapter",
    "latency",
    "rate",
    "frame",
    "handshake-set",
    "not-stored",
    "other-revision",
    "other-bus-rate",
    "terminator",
    "echo-off",
    "address",
    "two-alike",
    "too-early",
    "boot-stopped",
    "program-set-otherwise",
    "library-order",
    "adapter-dead",
    "device-port-dead",
]
OUTCOMES = {
    "power-lamp": "lit dark", "key": "on off", "mark": "right wrong", "menu": "ours other", "list-ports": "seen absent",
    "kernel-log": "fine cable no-driver power taken", "pull-and-put-back": "mine other nothing",
    "open": "opens no-permission held gone", "listen": "nothing garbled clean", "ask": "nothing garbled part echo answer",
    "other-endings": "nothing answer", "wait": "nothing answer", "judge-bytes": "same other noise",
    "device-search": "found silent", "loop-adapter": "echoes silent part", "loop-cable": "echoes silent part",
    "volts": "fits senders-meet dead level", "meter-cable": "as-drawn broken other", "cross": "works same",
    "exchange-cable": "works same", "exchange-adapter": "works same", "exchange-socket": "works same",
    "other-computer": "works same", "read-switches": "agree differ", "handshake-off": "works same",
    "bus-plan": "unique alike", "known-device": "works same", "long-transfer": "whole breaks", "compare": "same",
}  # fmt: skip


def test_what_is_published_stays() -> None:
    assert set(PUBLISHED) <= set(CAUSES)
    assert all(set(outcomes.split()) <= set(CHECKS[id_].outcomes) for id_, outcomes in OUTCOMES.items())
    assert len(CAUSES) >= 60 and len(CHECKS) >= 60 and len(faults()) >= 40


@pytest.mark.parametrize("id_", CAUSES)
def test_cause(id_: str) -> None:
    cause = CAUSES[id_]
    assert cause.source and cause.says and cause.mend.act
    assert set(cause.when) <= TAGS and set(cause.more) <= TAGS and set(cause.mend.needs) <= set(NEEDS)
    assert not cause.fault or cause.fault in faults()
    assert cause.mend.caution is None or cause.mend.caution in CATALOG.cautions
    model = model_of(CAUSES, CHECKS, TAGS, set(NEEDS))
    c = list(model.causes).index(id_)
    tells = np.abs(model.likely[:, :, c] - model.usual).max(axis=1) > 0.2
    assert tells.any(), "no check shows this cause"


@pytest.mark.parametrize("id_", CHECKS)
def test_check(id_: str) -> None:
    check = CHECKS[id_]
    assert check.source and check.ask.endswith("?")
    assert set(check.when) <= TAGS and set(check.needs) <= set(NEEDS) and set(check.after) <= set(CHECKS)
    assert set(check.otherwise) <= set(check.outcomes) and set(check.ends) <= set(check.outcomes)
    assert all(outcome in CHECKS[other].outcomes for other, outcome in check.moot.items())
    assert check.caution is None or check.caution in CATALOG.cautions
    for line in check.under:
        assert line.causes or line.effects
        assert set(line.causes) <= set(CAUSES) and set(line.effects) <= EFFECTS
        assert set(line.gives) <= set(check.outcomes) and sum(line.gives.values()) <= 1 + 1e-9


@pytest.mark.parametrize("tags", [set(), {"usb", "rs232", "text"}, TAGS])
def test_shares_sum_to_one_and_nothing_is_impossible(tags: set[str]) -> None:
    model = model_of(CAUSES, CHECKS, tags, {"meter"})
    assert np.allclose(model.likely.sum(axis=1), 1) and np.isclose(model.prior.sum(), 1)
    for k, check in enumerate(model.checks.values()):
        floors = [ENDS_FLOOR if outcome in check.ends else FLOOR for outcome in check.outcomes]
        assert (model.likely[k, : len(floors)] > np.array(floors)[:, None] / 2).all()
        assert set(check.when) <= tags
    assert all(set(cause.when) <= tags for cause in model.causes.values())
    assert np.isclose(model.prior[-1], ELSE_SHARE)


def test_what_is_not_at_hand_is_fetched() -> None:
    tags = {"usb", "rs232"}
    without, having = (model_of(CAUSES, CHECKS, tags, hand) for hand in ((), {"crossing"}))
    c = list(having.causes).index("straight-for-crossed")
    assert np.isclose(without.mend_minutes[c] - having.mend_minutes[c], FETCH_MINUTES)


def test_a_fault_that_changes_nothing_on_the_bench_is_no_cause_and_noise_may_have_spared_it() -> None:
    healthy, other = {"answer": 1.0}, {"nothing": 1.0}
    rows = {"ask": {HEALTHY: healthy, "echo-off": healthy, "noise": healthy, "frame": other}}
    model = model_of(CAUSES, CHECKS, {"text", "serial"}, (), rows)
    assert "echo-off" not in model.causes and {"noise", "frame", "no-supply"} <= set(model.causes)
    k, c = model.index("ask"), list(model.causes).index("frame")
    assert model.likely[k, model.outcome("ask", "nothing"), c] > 0.9


def test_what_was_met_before_is_likelier() -> None:
    plain, met = (model_of(CAUSES, CHECKS, {"text"}, (), None, times) for times in (None, {"terminator": 3.0}))
    c = list(plain.causes).index("terminator")
    assert met.prior[c] > 2 * plain.prior[c]
