"""Length, load, bias: against a nodal solution by a general solver, hand-worked cases, and the published limits."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.catalog.load import Catalog
from humble_courier.domain.hardware import Part, Site
from humble_courier.domain.signals import Level, Signal
from humble_courier.wiring.bias import UNIT_LOAD_OHM, Bus, bias_for, idle_volts, load_ohm
from humble_courier.wiring.findings import Severity, Verdict
from humble_courier.wiring.length import Around
from humble_courier.wiring.nets import Chain
from humble_courier.wiring.trace import Trace, trace

CATALOG = Catalog()


def nodal(bus: Bus) -> float:
    """Voltages of both wires by Kirchhoff's current law as a 2x2 system, solved by LAPACK (numpy.linalg.solve)."""
    bias = 1 / bus.bias_ohm if bus.bias_ohm else 0.0
    leg, across = bus.nodes * bus.unit_load / UNIT_LOAD_OHM, bus.terminators / bus.terminate_ohm
    matrix = np.array([[bias + leg + across, -across], [-across, bias + leg + across]])
    high, low = np.linalg.solve(matrix, np.array([bias * bus.supply_v, 0.0]))
    return float(high - low)


buses = st.builds(
    Bus,
    nodes=st.integers(2, 64),
    unit_load=st.sampled_from([0.125, 0.25, 0.5, 1.0]),
    terminators=st.integers(0, 3),
    bias_ohm=st.floats(50, 50_000),
    supply_v=st.sampled_from([3.3, 5.0, 12.0]),
)


@given(buses)
def test_the_idle_pair_against_a_nodal_solution(bus: Bus) -> None:
    assert idle_volts(bus) == pytest.approx(nodal(bus), rel=1e-9)


@given(buses)
def test_the_proposed_bias_is_enough_and_the_next_larger_is_not(bus: Bus) -> None:
    ohm = bias_for(bus, 0.2)
    if ohm is not None:
        assert nodal(replace(bus, bias_ohm=ohm)) >= 0.2 * (1 - 1e-9)
        if ohm < 9.1e4:
            assert nodal(replace(bus, bias_ohm=ohm * 1.16)) < 0.2  # one step of E24 is at most 15 %


@pytest.mark.parametrize(
    ("bus", "volts"),
    [
        # Worked by hand: 5 V over 560 + 60 + 560 ohm leaves 5 * 60 / 1180 at two terminators of 120 ohm; receivers left out.
        (Bus(0, terminators=2, bias_ohm=560), 5 * 60 / 1180),
        # One terminator: 5 * 120 / (720 + 120 + 720).
        (Bus(0, terminators=1, bias_ohm=720), 5 * 120 / 1560),
        (Bus(4, terminators=2), 0.0),
    ],
)
def test_bias_worked_by_hand(bus: Bus, volts: float) -> None:
    assert idle_volts(bus) == pytest.approx(volts)


def test_a_full_bus_loads_its_driver_with_what_the_standard_says() -> None:
    """TIA-485-A: drivers are specified into 54 ohm, two terminators and 32 unit loads (from memory); ours is 55.6 ohm."""
    assert load_ohm(Bus(32, terminators=2)) == pytest.approx(1 / (1 / 60 + 1 / 750))
    assert 54 < load_ohm(Bus(32, terminators=2)) < 60


def judge(part: Part, computer: str, device: str, rate: int, site: Site) -> Trace:
    chain = Chain(CATALOG.port(computer), (part,), CATALOG.port(device))
    return trace(chain, CATALOG.levels, around=Around(CATALOG.lengths, CATALOG.wires, site, rate))


def serial(metres: float, rate: int, wire: str = "multicore", **site: object) -> Trace:
    part = replace(CATALOG.part("straight-de9"), length_m=metres, wire=wire)
    return judge(part, "dte-de9", "dce-de9", rate, Site(**site))  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("metres", "rate", "wire", "severity"),
    [
        (25, 20_000, "multicore", None),  # TIA-232-F clause 2.1.4: 2 500 pF at 100 pF/m
        (26, 20_000, "multicore", Severity.ERROR),
        (44, 20_000, "cat5", None),  # 56 pF/m
        (45, 20_000, "cat5", Severity.ERROR),
        (26, 9600, "multicore", Severity.ERROR),  # above 8 kbit/s an edge may take 5 microseconds, whatever the rate
        (80, 2400, "multicore", Severity.NOTE),  # beyond the standard, but an edge is still within 4 % of a bit
        (90, 2400, "multicore", Severity.ERROR),
        (30, 115_200, "multicore", Severity.ERROR),
    ],
)
def test_rs232_by_capacitance(metres: float, rate: int, wire: str, severity: Severity | None) -> None:
    found = [f for f in serial(metres, rate, wire).findings if f.code == "too-long"]
    assert [f.severity for f in found] == ([severity] if severity else [])
    if severity:
        assert found[0].where == "part:1"


def bus_pair(metres: float, rate: int, **site: object) -> Trace:
    lead = replace(CATALOG.part("terminals-de9-socket"), length_m=metres, wire="bus-pair")
    from humble_courier.domain.hardware import Conductor, Connector, End, Gender

    ends = (End(Connector("terminal", 3, Gender.PLUG)), End(Connector("terminal", 3, Gender.PLUG)))
    wires = tuple(Conductor.parse(f"A{i}-B{i}") for i in "123")
    return judge(replace(lead, ends=ends, conductors=wires), "rs485-2w", "rs485-2w", rate, Site(**site))  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("metres", "rate", "site", "codes"),
    [
        (1200, 19_200, {"terminators": 2}, {"ground-difference"}),
        (1300, 19_200, {"terminators": 2}, {"too-long", "ground-difference"}),  # 1 200 m at most (TIA-422-B annex A)
        (110, 1_000_000, {"terminators": 2}, {"too-long", "ground-difference"}),  # rate times length 1e8 (TSB-89)
        (40, 1_000_000, {"terminators": 2}, set()),
        (40, 1_000_000, {"terminators": 1}, {"not-terminated"}),
        (40, 1_000_000, {}, {"not-terminated"}),
        (40, 9600, {"terminators": 0}, set()),  # echoes have long died away
        (40, 9600, {"nodes": 40}, {"line-overloaded"}),  # 32 unit loads
        (40, 9600, {"nodes": 40, "unit_load": 0.25}, set()),
        (40, 9600, {"nodes": 6, "terminators": 2, "bias_ohm": 1500.0}, {"bias-too-weak"}),
        (40, 9600, {"nodes": 6, "terminators": 2, "bias_ohm": 620.0}, set()),
        (40, 9600, {"between_buildings": True}, {"ground-difference"}),
    ],
)
def test_rs485_line(metres: float, rate: int, site: dict[str, object], codes: set[str]) -> None:
    assert {f.code for f in bus_pair(metres, rate, **site).findings} == codes


def with_built_in(terminates: int, own_ohm: float | None, **site: object) -> Trace:
    """Forty metres at 1 Mbit/s to an adapter that has resistors in it."""
    adapter = replace(CATALOG.part("usb-rs485"), terminates=terminates, bias_ohm=own_ohm)
    from humble_courier.domain.hardware import Conductor, Connector, End, Gender

    ends = (End(Connector("terminal", 3, Gender.SOCKET)), End(Connector("terminal", 3, Gender.PLUG)))
    wires = tuple(Conductor.parse(f"A{i}-B{i}") for i in "123")
    lead = replace(CATALOG.part("straight-de9"), ends=ends, conductors=wires, length_m=40, wire="bus-pair")
    chain = Chain(CATALOG.port("usb-a"), (adapter, lead), CATALOG.port("rs485-2w"))
    around = Around(CATALOG.lengths, CATALOG.wires, Site(**site), 1_000_000)  # type: ignore[arg-type]
    return trace(chain, CATALOG.levels, around=around)


@pytest.mark.parametrize(
    ("built_in", "own_ohm", "site", "codes"),
    [
        (0, None, {}, {"not-terminated"}),
        (1, None, {}, {"not-terminated"}),  # one end is known, the other nobody has said
        (1, None, {"terminators": 2}, set()),  # said of the whole line, the built-in one among them
        (2, None, {}, set()),
        (2, None, {"terminators": 0}, set()),  # what is drawn is there, whatever was said
        (1, None, {"terminators": 3}, {"line-overloaded"}),
        (2, 1500.0, {"nodes": 6}, {"bias-too-weak"}),  # by hand: 5/1500 over 1/1500 + 6/12000 + 1/30 is 97 mV
        (2, 1500.0, {"nodes": 6, "bias_ohm": 900.0}, set()),  # side by side 562 ohm, which is enough
    ],
)
def test_what_is_built_into_drawn_parts_counts(
    built_in: int, own_ohm: float | None, site: dict[str, object], codes: set[str]
) -> None:
    found = with_built_in(built_in, own_ohm, **site)
    assert {f.code for f in found.findings if f.where != "computer"} & {
        "not-terminated", "line-overloaded", "bias-too-weak"
    } == codes  # fmt: skip


def test_a_straight_extension_counts_by_its_length_alone() -> None:
    assert serial(10, 20_000).verdict is Verdict.WORKS
    assert serial(30, 20_000).verdict is Verdict.WILL_NOT_WORK
    assert "ground-difference" in {f.code for f in serial(10, 9600, between_buildings=True).findings}


@pytest.mark.parametrize(
    ("part", "computer", "device", "metres", "site", "wrong"),
    [
        ("gpib-cable", "gpib-24", "gpib-24", 4, Site(nodes=2), False),  # IEEE 488.1: 2 m for each device
        ("gpib-cable", "gpib-24", "gpib-24", 5, Site(nodes=2), True),
        ("gpib-cable", "gpib-24", "gpib-24", 21, Site(nodes=15), True),  # 20 m in all
        ("usb-a-b", "usb-a", "usb-b-console", 5, Site(), False),  # USB 2.0: 5 m
        ("usb-a-b", "usb-a", "usb-b-console", 6, Site(), True),
    ],
)
def test_other_lines(part: str, computer: str, device: str, metres: float, site: Site, wrong: bool) -> None:
    result = judge(replace(CATALOG.part(part), length_m=metres), computer, device, 9600, site)
    assert ("too-long" in {f.code for f in result.findings}) is wrong


def test_vehicle_bus_limits() -> None:
    """SAE J1939-11: 40 m of trunk and stubs of 1 m at 250 kbit/s, whatever the adapter's own rate is."""
    cable = replace(CATALOG.part("cable-can-de9-round-9"), length_m=41.0)
    chain = Chain(CATALOG.port("usb-a"), (CATALOG.part("usb-can-ascii"), cable), CATALOG.port("j1939-9"))
    around = Around(CATALOG.lengths, CATALOG.wires, Site(stub_m=1.5, terminators=0), 115_200)
    found = [(f.code, f.severity) for f in trace(chain, CATALOG.levels, around=around).findings]
    assert found.count(("too-long", Severity.ERROR)) == 1 and ("too-long", Severity.NOTE) in found
    assert ("not-terminated", Severity.ERROR) in found


@pytest.mark.parametrize(
    ("rate", "metres", "severity"),
    [
        (250_000, 39, None),
        (250_000, 41, Severity.NOTE),
        (250_000, 251, Severity.ERROR),
        (500_000, 101, Severity.ERROR),
        (1_000_000, 26, Severity.ERROR),
    ],
)
def test_can_elsewhere_goes_as_far_as_its_own_standard_says(rate: int, metres: float, severity: Severity | None) -> None:
    """CiA 301, table 1: 25 m at 1 Mbit/s, 100 m at 500, 250 m at 250 kbit/s; what a vehicle allows is said beside it."""
    rule = CATALOG.lengths[Level.CAN]
    lengths = [row.max_m for row in sorted(rule.table, key=lambda row: row.rate)]
    assert lengths == sorted(lengths, reverse=True)
    from humble_courier.domain.hardware import Conductor, Connector, End, Gender

    ends = (End(Connector("terminal", 3, Gender.PLUG)), End(Connector("terminal", 3, Gender.PLUG)))
    pair = Part("pair", "pair", ends, tuple(Conductor.parse(f"A{i}-B{i}") for i in "123"), metres, wire="bus-pair")
    signals = {"1": "CANH both can", "2": "CANL both can", "3": "GND"}
    port = replace(CATALOG.port("rs485-2w"), signals={c: Signal.parse(text) for c, text in signals.items()})
    around = Around(CATALOG.lengths, CATALOG.wires, Site(rate=rate, terminators=2), rate)
    found = trace(Chain(port, (pair,), port), CATALOG.levels, around=around).findings
    assert [f.severity for f in found if f.code == "too-long"] == ([severity] if severity else [])


def test_the_loss_of_a_long_current_loop() -> None:
    """0.084 ohm/m there and back: 5 km lose 16.8 V at 20 mA, more than a 12 V source has (worked by hand)."""
    from humble_courier.domain.hardware import Conductor, Connector, End, Gender

    ends = (End(Connector("terminal", 4, Gender.PLUG)), End(Connector("terminal", 4, Gender.PLUG)))
    wires = tuple(Conductor.parse(text) for text in ("A1-B3", "A2-B4", "A3-B1", "A4-B2"))
    for metres, fits in ((2000.0, True), (5000.0, False)):
        lead = Part("lead", "lead", ends, wires, metres)
        result = judge(lead, "loop-20ma-active", "loop-20ma-passive", 110, Site())
        left = result.stretches[0].loop_left_v
        assert left == pytest.approx(12 - 5 - 0.020 * 2 * metres * 0.084)
        assert (result.verdict is Verdict.WORKS) is fits
