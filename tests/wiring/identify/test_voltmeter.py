"""Naming a port by its idle voltages; limits of TIA-232-F, values as a meter shows them (common practice)."""

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from humble_courier.app.wire.meter import port_named
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.named import connector_named
from humble_courier.domain.signals import Direction, Role
from humble_courier.wiring.identify.voltmeter import PortNamed, VoltReading

CATALOG = Catalog()


def name(text: str, connector: str = "D9") -> PortNamed:
    pairs = (word.split(":") for word in text.split())
    readings = [VoltReading(contact, float(volts)) for contact, volts in pairs]
    return port_named(connector_named(connector, CATALOG), readings, CATALOG)


@pytest.mark.parametrize(
    ("readings", "connector", "role", "family", "use", "talks"),
    [
        ("2:0.02 3:-9.6", "D9", "dte", "rs232", "crossed", "3"),
        ("2:-5.4 3:0.1", "D9", "dce", "rs232", "straight", "2"),
        ("3:-11 7:10.8 4:10.9 8:0 6:0 1:0", "D9", "dte", "rs232", "crossed", "3"),
        ("2:-6 8:6 6:6 1:-6 7:0 4:0", "D9", "dce", "rs232", "straight", "2"),
        ("2:-9.1 3:0", "D25", "dte", "rs232", "crossed", "2"),
        ("3:-9.1 2:0.2", "D25", "dce", "rs232", "straight", "3"),
        ("3:-3.2 2:0.1", "D9", "dte", "rs232", "crossed", "3"),
    ],
)
def test_role_and_family(readings: str, connector: str, role: str, family: str, use: str, talks: str) -> None:
    found = name(readings, connector)
    assert (found.role, found.family, found.use, "".join(found.talks)) == (role, family, use, talks)
    assert found.probability > 0.85 and found.alive > 0.9


@example(port="dce-db25", drive=3.5, rest=[(0.0, on) for on in (1, 0, 0, 0, 1, 1, 0, 1, 0, 0, 0, 0)])
@given(
    st.sampled_from(["dte-de9", "dce-de9", "dte-db25", "dce-db25", "console-8p8c", "tia561-8p8c"]),
    st.floats(3.2, 5.0), st.lists(st.tuples(st.floats(-0.2, 0.2), st.booleans()), min_size=12, max_size=12),
)  # fmt: skip
def test_a_weak_driver_is_still_rs232_and_never_logic(port: str, drive: float, rest: list[tuple[float, bool]]) -> None:
    """Fed by a battery or by the line itself, 3.2 to 5 V: a negative mark rules logic out (TIA-232-F, 2.1.3)."""
    there, role = CATALOG.port(port), CATALOG.port_entries[port].role or port[:3]
    readings = []
    for (contact, signal), (noise, on) in zip(there.signals.items(), rest, strict=False):
        if signal.role is Role.GROUND:
            continue
        mark = signal.role is Role.DATA or not on
        readings.append(VoltReading(contact, noise if signal.direction is Direction.IN else -drive if mark else drive))
    found = port_named(there.connector, readings, CATALOG)
    assert found.family == "rs232" and found.role in (role, "unknown")


def test_the_published_case_and_a_supply_that_is_no_transmitter() -> None:
    found = name("3:-3.68 6:-0.08 7:0.05 1:3.55 2:4.65", "8P8C")
    assert (found.family, found.talks) == ("rs232", ("3",))
    assert name("2:3.3 3:0 4:3.3", "header 4").talks == ("2",)
    alive = name("2:5.0 3:0.0")
    assert alive.family == "ttl-5v" and alive.alive > 0.9


@pytest.mark.parametrize(
    ("readings", "family"), [("2:4.9 3:0.1", "ttl-5v"), ("2:1.78 3:0.0", "cmos-1v8"), ("2:-9 3:0", "rs232")]
)
def test_the_family_follows_from_the_level_of_mark(readings: str, family: str) -> None:
    assert name(readings).family == family


def test_without_power_nothing_is_claimed() -> None:
    found = name("2:0.02 3:-0.05 7:0 4:0.1 8:0")
    assert (found.role, found.use, found.family) == ("unknown", None, None)
    assert [r.code for r in found.remarks] == ["no-sign-of-life"]


@pytest.mark.parametrize(
    ("readings", "code"),
    [
        ("3:-9 2:2.1", "undefined-level"),
        ("3:-9 4:40", "too-high"),
        ("3:-9 4:18", "above-the-standard"),
        ("3:-9 3:9", "read-both-ways"),
    ],
)
def test_what_is_odd_is_told(readings: str, code: str) -> None:
    assert code in {r.code for r in name(readings).remarks}


def test_nothing_measured_is_no_answer() -> None:
    assert name("").role == "unknown"


volts = st.floats(-30, 30, allow_nan=False)


@given(st.dictionaries(st.sampled_from([str(i) for i in range(1, 10)]), volts, max_size=9))
def test_any_voltages_give_probabilities(readings: dict[str, float]) -> None:
    found = port_named(connector_named("D9", CATALOG), [VoltReading(c, v) for c, v in readings.items()], CATALOG)
    assert sum(share for _, _, share in found.shares) == pytest.approx(found.alive)
    assert 0 <= found.probability <= 1
    assert (found.use is None) == (found.role == "unknown")


@given(st.floats(-15, -5), st.floats(-0.4, 0.4))
def test_a_driven_transmitter_decides(mark: float, rest: float) -> None:
    """TIA-232-F: a driver rests in mark between −5 and −15 V; an open input rests at ground."""
    dte = port_named(connector_named("D9", CATALOG), [VoltReading("3", mark), VoltReading("2", rest)], CATALOG)
    dce = port_named(connector_named("D9", CATALOG), [VoltReading("2", mark), VoltReading("3", rest)], CATALOG)
    assert (dte.use, dce.use) == ("crossed", "straight")
