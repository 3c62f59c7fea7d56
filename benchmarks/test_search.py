"""The device search over populations of silent devices, in virtual time, against the plan before this one in the same run.

`COURIER_DEVICES=1000` draws so many of each population; without it 60. Seconds are those of the line, from the first word
on (the listen of 1.5 s before it is not counted); the plan before is reckoned, as if every device answered it at once.
"""

import os
from collections.abc import Callable

import numpy as np
import pytest
from tests.procedures.populations import ANY, MET, MIXED, NEAR, PAIR_ONLY, SPREAD, Silent
from tests.procedures.virtual import runner

from humble_courier.app.talk.device_search import of_protocol
from humble_courier.domain.clock import ManualClock
from humble_courier.line.belief.tables import RATES
from humble_courier.line.rates import RATE_PARTS
from humble_courier.procedures.device_search.plan import Known, Words
from humble_courier.procedures.device_search.port_search import FIRST_S
from humble_courier.procedures.device_search.probes import one_stop
from humble_courier.procedures.device_search.search import DeviceSearch
from humble_courier.protocols.modbus_rtu import SPEC

DEVICES = int(os.environ.get("COURIER_DEVICES", "60"))
UNITS = of_protocol(SPEC, 1, 247)[0]
POPULATIONS = {
    "units 1 to 10": NEAR,
    "units as met": MET,
    "any unit": ANY,
    "lines, any end": MIXED,
    "lines, CR LF only": PAIR_ONLY,
    "lines, odd rates as often as on any line": SPREAD,
}
SHARED, ALONE = ({"8N1": 0.73, "7E1": 0.088, "7O1": 0.038, "7N2": 0.01}, {"8E1": 0.075, "8O1": 0.034})


def before() -> dict[tuple[int, str, int | None], float]:
    """Seconds until the plan before meets a device, by rate, frame, unit: ten units at a time, 0.12 s each; text 0.5 s."""
    parts = {rate: float(RATE_PARTS.get(rate, 1)) for rate in RATES}
    whole, trials = sum(parts.values()), []
    for rate in RATES:
        character_s = 11 / rate
        for frames in (SHARED, *({frame: share} for frame, share in ALONE.items())):
            seconds = 0.03 + 0.5 + 18 * len(frames) * character_s
            trials.append((parts[rate] / whole * sum(frames.values()), seconds, [(rate, f, None) for f in frames]))
        for frame, share in SPEC.probe.addressed.frames.items():  # type: ignore[union-attr]
            for first in range(1, 248, 10):
                units = range(first, min(first + 10, 248))
                weight = sum(1.0 if unit <= 10 else 0.04 for unit in units) / (10 + 237 * 0.04)
                seconds = len(units) * (20 * character_s + 0.12)
                trials.append((parts[rate] / whole * share * weight, seconds, [(rate, frame, unit) for unit in units]))
    trials.sort(key=lambda trial: -trial[0] / trial[1])
    at, met = 0.0, {}
    for _, seconds, keys in trials:
        for i, key in enumerate(keys):
            met[key] = at + seconds * (i + 1) / len(keys) if key[2] else at + seconds
        at += seconds
    return met


def right(one: Silent, machine: DeviceSearch) -> bool:
    """Whether all was found as it is: rate, frame, unit, and an end that the device takes."""
    found = machine.found
    if found is None or (found.settings.rate, found.unit) != (one.settings.rate, one.unit):
        return False
    return str(one.settings.frame) in {str(found.settings.frame), *found.equivalent} and (
        not one.ends or found.end in one.ends
    )


@pytest.mark.parametrize("full_duplex", [True, False], ids=["a pair each way", "one pair"])
@pytest.mark.parametrize("population", POPULATIONS)
def test_finding_a_population(benchmark: Callable[..., object], population: str, full_duplex: bool) -> None:
    draw, random, old = POPULATIONS[population], np.random.default_rng(5), before()
    times, reference, found = [], [], 0

    def trial() -> None:
        nonlocal found
        one, clock = draw(random), ManualClock(1000.0)
        machine = DeviceSearch(Known(("p",), words=(Words(b"*IDN?"), UNITS), armed=True, full_duplex=full_duplex))
        deaf = 1.1 if one.unit else 12.0
        runner({"p": (one.device, one.settings)}, clock, one_pair=not full_duplex, deaf_beyond=deaf).run(machine)
        times.append(clock.now() - 1000 - FIRST_S)
        reference.append(old[one.settings.rate, one_stop(one.settings.frame), one.unit])
        found += right(one, machine)

    benchmark.pedantic(trial, rounds=DEVICES)  # type: ignore[attr-defined]
    ours = f"mean {np.mean(times):.1f}, half within {np.median(times):.1f}, 95 % within {np.percentile(times, 95):.0f} s"
    theirs = f"{np.mean(reference):.1f}, {np.median(reference):.1f}, {np.percentile(reference, 95):.0f} s"
    print(f"\n{population}: {ours}; all right {found / DEVICES:.1%}; the plan before {theirs}")
