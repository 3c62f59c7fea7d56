"""The next check that is worth most: minutes to a working link against lists and against knowing the cause, in one run.

`COURIER_FAULTS=1000` draws so many single faults and a third of that double ones; without it 60. Kinds of device and devices
of the demo take turns; the outcomes of each link are simulated, and the truth is drawn from the same tables, or from weights
that are wrong by a factor of e^±0.7. Minutes are those of the tables, not of a clock.
"""

import os
import time
from collections.abc import Callable
from functools import cache

import numpy as np
import pytest
from tests.diagnose.links import CATALOG, link_to, rows_for
from tests.diagnose.world import HAND, World, by_choice, cheapest_first, drawn, in_layers, knowing

from humble_courier.diagnose.belief import TWO_SHARE, CauseBelief
from humble_courier.diagnose.case import Case
from humble_courier.diagnose.model import Model, model_of
from humble_courier.diagnose.situation import tags_of

FAULTS = int(os.environ.get("COURIER_FAULTS", "60"))
DEVICES = tuple(CATALOG.device_ids())
OFF = 0.7


@cache
def model(device: str) -> Model:
    return model_of(CATALOG.causes, CATALOG.checks, tags_of(link_to(device)), HAND, rows_for(device))


def minutes(policy: Callable[..., None], many: int, faults: int, off: float = 0.0) -> list[float]:
    random, found = np.random.default_rng(7), []
    for i in range(faults):
        world = drawn(model(DEVICES[i % len(DEVICES)]), random, many, off)
        policy(world)
        found.append(world.minutes)
    return found


def told(name: str, found: list[float], reference: float) -> str:
    share = f"{np.mean(found) / reference:.2f} of the layered list" if reference else ""
    return f"{name}: mean {np.mean(found):.1f}, 95 % within {np.percentile(found, 95):.0f} minutes; {share}"


@pytest.mark.parametrize("many", [1, 2])
def test_minutes_to_a_working_link(benchmark: Callable[..., object], many: int) -> None:
    faults = FAULTS if many == 1 else max(20, FAULTS // 3)
    layers = float(np.mean(minutes(in_layers, many, faults)))
    ours = benchmark.pedantic(lambda: minutes(by_choice, many, faults), rounds=1)  # type: ignore[attr-defined]
    wrong = minutes(by_choice, many, faults, OFF)
    print(f"\n{many} fault{'s' if many > 1 else ''}, {faults} links of {len(DEVICES)} devices")
    print(told("this engine", ours, layers))
    print(told(f"this engine, weights wrong by e^±{OFF}", wrong, layers))
    print(told("in layers", minutes(in_layers, many, faults), layers))
    print(told("cheapest first", minutes(cheapest_first, many, faults), layers))
    print(told("knowing the cause", minutes(knowing, many, faults), layers))


def test_calibration_of_the_leading_cause(benchmark: Callable[..., object]) -> None:
    """How often the leading cause was a true one, against how likely it was said to be; as many links have two faults as
    the engine believes.
    """
    said: list[tuple[float, bool]] = []

    def run() -> None:
        random = np.random.default_rng(8)
        for i in range(FAULTS):
            world = drawn(model(DEVICES[i % len(DEVICES)]), random, 2 if random.random() < TWO_SHARE else 1)

            def tell(belief: CauseBelief, world: World = world) -> None:
                leads = int(np.argmax(belief.marginal))
                said.append((float(belief.marginal[leads]), leads in world.causes))

            by_choice(world, tell)

    benchmark.pedantic(run, rounds=1)  # type: ignore[attr-defined]
    for low, high in ((0.0, 0.3), (0.3, 0.6), (0.6, 0.9), (0.9, 1.01)):
        here = [(p, right) for p, right in said if low <= p < high]
        if here:
            means = np.mean(np.array(here, float), axis=0)
            print(f"\nsaid {means[0]:.2f}, true {means[1]:.2f} ({len(here)} looks)", end="")
    error = abs(np.mean([p for p, _ in said]) - np.mean([right for _, right in said]))
    print(f"\ncalibration error of the leading cause over all looks {error:.3f}")


def test_the_next_act(benchmark: Callable[..., object]) -> None:
    """One choice over all causes and checks, against one pass of Bayes' rule over the same table in plain NumPy."""
    wide = model_of(CATALOG.causes, CATALOG.checks, tags_of(link_to("bench-meter")) | {"bus", "vehicle", "boot"}, HAND)
    case = Case(wide).seen("open", "opens").seen("ask", "nothing")
    benchmark(lambda: Case(case.model, case.facts).acts(HAND))
    begun = time.perf_counter()
    for _ in range(100):
        (wide.likely * wide.prior).sum(axis=-1)
    plain = (time.perf_counter() - begun) / 100
    begun = time.perf_counter()
    Case(case.model, case.facts).acts(HAND)
    ours = time.perf_counter() - begun
    print(f"\n{len(wide.causes)} causes, {len(wide.checks)} checks: {ours / plain:.0f} passes of Bayes' rule")
