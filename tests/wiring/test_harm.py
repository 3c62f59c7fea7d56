"""What may damage is never "works": a table of supplies, drivers that are always on, contacts that have to stay open."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.catalog.load import Catalog
from humble_courier.domain.hardware import Conductor, Connector, End, Gender, Part, Port
from humble_courier.domain.signals import Signal
from humble_courier.wiring.findings import Severity, Verdict
from humble_courier.wiring.nets import Chain
from humble_courier.wiring.trace import Trace, trace

CATALOG = Catalog()
SERIAL = {"2": "RXD in rs232", "3": "TXD out rs232", "5": "GND"}
MIRROR = {"2": "TXD out rs232", "3": "RXD in rs232", "5": "GND"}
PAIR = {"1": "A both rs485", "2": "B both rs485", "5": "GND"}


def port(signals: dict[str, str], gender: Gender = Gender.PLUG) -> Port:
    return Port("p", "port", Connector("D", 9, gender), {c: Signal.parse(text) for c, text in signals.items()})


def straight(near: dict[str, str], far: dict[str, str]) -> Trace:
    return trace(Chain(port(near), (), port(far, Gender.SOCKET)), CATALOG.levels)


@pytest.mark.parametrize(
    ("near", "far", "code"),
    [
        (SERIAL | {"4": "DTR out rs232"}, MIRROR | {"4": "VIN in power-12v"}, "level-damage"),
        (SERIAL | {"4": "DTR out cmos-3v3"}, MIRROR | {"4": "VIN in power-3v3"}, "level-damage"),
        (SERIAL | {"4": "DTR out rs232"}, MIRROR | {"4": "VIN in power-5v"}, "level-damage"),
        (SERIAL | {"4": "DTR out rs232"}, MIRROR | {"4": "BATT out power-12v"}, "power-feedback"),
        (SERIAL | {"9": "RI in rs232"}, MIRROR | {"9": "BATT out power-12v"}, "power-into-signal"),
        (SERIAL | {"9": "VCC out power-5v"}, MIRROR | {"9": "RI out rs232"}, "power-feedback"),
        (SERIAL | {"9": "VCC out power-5v"}, MIRROR | {"9": "VCC out power-5v"}, "power-feedback"),
        (SERIAL | {"9": "VCC out power-5v"}, MIRROR | {"9": "VCC out power-12v"}, "power-feedback"),
        (PAIR, {"1": "TXD- out rs422", "2": "TXD+ out rs422", "5": "GND"}, "output-meets-output"),
    ],
)
def test_what_was_called_works(near: dict[str, str], far: dict[str, str], code: str) -> None:
    """From either side; the reason is the worst finding, its net is marked, and its place is the joint."""
    for result in (straight(near, far), straight(far, near)):
        first = result.findings[0]
        assert result.verdict is Verdict.MAY_DAMAGE and first.severity is Severity.DAMAGE
        assert code in {f.code for f in result.findings if f.severity is Severity.DAMAGE}
        assert first.where == "joint:1" and first.net is not None and result.problems[first.net]


def test_a_converter_that_lives_on_a_line_says_so_in_its_signals() -> None:
    """It takes DTR as a line, and is judged by the limits of that line."""
    assert straight(SERIAL | {"4": "DTR out rs232"}, MIRROR | {"4": "DTR in rs232"}).verdict is Verdict.WORKS


def test_two_supplies_of_one_port_are_one_supply() -> None:
    """Four contacts of one socket may carry the same supply, joined by a device that takes it from all of them."""
    near = SERIAL | {"7": "VCC out power-5v", "8": "VCC out power-5v"}
    end = End(Connector("D", 9, Gender.SOCKET)), End(Connector("D", 9, Gender.PLUG))
    wires = tuple(Conductor.parse(text) for text in ("A2-B2", "A3-B3", "A5-B5", "A7-B7", "A8-B7"))
    far = port(MIRROR | {"7": "VCC in power-5v"}, Gender.SOCKET)
    assert trace(Chain(port(near), (Part("y", "y", end, wires),), far), CATALOG.levels).verdict is Verdict.WORKS


def test_a_loop_back_plug_does_not_hide_what_comes_before_it() -> None:
    """An adapter of 3.3 V is fed by 5 V logic: the plug behind it changes nothing about that."""
    plug = CATALOG.port("loopback-de9")
    end = End(Connector("D", 9, Gender.SOCKET), {}), End(Connector("D", 9, Gender.PLUG), {})
    active = replace(
        Part("a", "a", end, ()),
        ends=(
            End(
                Connector("D", 9, Gender.SOCKET),
                {"2": Signal.parse("TXD out cmos-3v3"), "3": Signal.parse("RXD in cmos-3v3")},
            ),
            End(Connector("D", 9, Gender.PLUG), {"2": Signal.parse("RXD in rs232"), "3": Signal.parse("TXD out rs232")}),
        ),
    )
    result = trace(Chain(port(SERIAL), (active,), plug), CATALOG.levels)
    assert result.verdict is Verdict.MAY_DAMAGE


@pytest.mark.parametrize(("joined", "verdict"), [(True, Verdict.MAY_DAMAGE), (False, Verdict.WORKS)])
def test_a_line_that_keys_stays_open(joined: bool, verdict: Verdict) -> None:
    near = port(SERIAL | {"7": "RTS out rs232"})
    far = replace(port(MIRROR | ({"7": "RTS in rs232"} if joined else {"8": "RTS in rs232"}), Gender.SOCKET),
                  leave_open=frozenset({"RTS"}))  # fmt: skip
    result = trace(Chain(near, (), far), CATALOG.levels)
    assert result.verdict is verdict
    assert ("must-stay-open" in {f.code for f in result.findings}) is joined


def test_the_sheet_of_the_ridge_radio_keeps_two_contacts_open() -> None:
    assert CATALOG.device_port(CATALOG.device("packet-radio")).leave_open == {"RTS", "VCC"}


def test_a_lead_that_may_carry_either_supply_is_measured_first() -> None:
    wires = tuple(Conductor.parse(text) for text in ("A1-B1", "A3-B4", "A4-B3", "A5-B2"))
    ends = End(Connector("header", 6, Gender.PLUG)), End(Connector("header", 4, Gender.SOCKET))
    signals = {"1": "GND", "2": "TXD out cmos-3v3", "3": "RXD in cmos-3v3", "4": "VCC in power-3v3"}
    board = Port("b", "b", Connector("header", 4, Gender.PLUG), {c: Signal.parse(text) for c, text in signals.items()})
    chain = Chain(CATALOG.port("usb-a"), (CATALOG.part("usb-ttl-3v3"), Part("l", "l", ends, wires)), board)
    result = trace(chain, CATALOG.levels)
    assert result.verdict is Verdict.WORKS and [f.code for f in result.findings] == ["measure-first"]
    assert "5 V or 3.3 V" in result.findings[0].text


POWERS = st.sampled_from(["power-5v", "power-3v3", "power-12v"])
LEVELS = st.sampled_from(["rs232", "ttl-5v", "cmos-3v3", "rs485", "can", "k-line"])


@given(POWERS, POWERS, LEVELS, st.sampled_from(["out", "both"]), st.sampled_from(["supply", "driver"]))
def test_no_supply_ever_meets_a_supply_or_a_driver_as_works(one: str, two: str, level: str, way: str, meets: str) -> None:
    other = f"V out {two}" if meets == "supply" else f"X {way} {level}"
    assert straight(SERIAL | {"9": f"V out {one}"}, MIRROR | {"9": other}).verdict is Verdict.MAY_DAMAGE
