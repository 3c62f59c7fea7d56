"""Faults of the simulated bench, one by one: settings, wiring, noise."""

import pytest

from humble_courier.domain.settings import Handshake, Settings
from humble_courier.simulator.bench import Wires
from humble_courier.simulator.devices.behaviour import faults
from humble_courier.simulator.faults import APART, INVERTED, NOISE, REFUSED, faulty_settings, noise_of


@pytest.mark.parametrize(
    ("fault", "told"),
    [("wrong-rate", "4800,8N1"), ("double-rate", "19200,8N1"), ("old-rate", "1200,8N1"), ("wrong-parity", "9600,8O1"),
     ("seven-bits", "9600,7N1"), ("noise", "9600,8N1")],
)  # fmt: skip
def test_settings(fault: str, told: str) -> None:
    assert faulty_settings(Settings.parse("9600,8N1"), (fault,)) == Settings.parse(told)


def test_a_device_that_waits_for_us_has_a_handshake() -> None:
    assert faulty_settings(Settings.parse("9600,8N1"), ("waits-for-us",)).handshake is Handshake.RTS_CTS


@pytest.mark.parametrize("fault", sorted(APART))
def test_nothing_passes_and_no_line_is_driven(fault: str) -> None:
    left = Wires.ideal().with_faults((fault,))
    assert left == Wires(False, False, False, {})


def test_each_of_the_ways() -> None:
    ideal = Wires.ideal()
    assert ideal.with_faults(()) == ideal
    assert (ideal.with_faults(("deaf",)).to_device, ideal.with_faults(("mute",)).to_computer) == (False, False)
    meet = ideal.with_faults(("senders-meet",))
    assert not meet.to_device and not meet.to_computer and not meet.lines
    assert ideal.with_faults(("local-echo",)).echo
    assert not {name for _, name in ideal.with_faults(("open-handshake",)).lines} & {"CTS", "RTS"}


def test_every_name_is_a_fault() -> None:
    known = set(faults())
    assert APART | INVERTED | set(NOISE) | set(REFUSED) <= known
    assert noise_of(("noise", "no-ground")) == NOISE["no-ground"] and noise_of(("mute",)) == 0
