"""Simulated devices fed with anything: they neither fail nor speak out of turn."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.domain.received import Doubt, Heard
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput
from humble_courier.protocols import modbus_rtu as modbus
from humble_courier.simulator.devices.behaviour import behaviour
from humble_courier.simulator.devices.device import NEVER
from humble_courier.simulator.devices.make import device as machine
from humble_courier.simulator.devices.text import TextDevice

TEXT, BUS = Settings.parse("1200,7E1"), Settings.parse("19200,8E1")
anything = st.lists(st.builds(Heard, st.integers(0, 255), st.sampled_from(Doubt)), max_size=200)


def fed(device: str, settings: Settings, heard: list[Heard]) -> bytes:
    """All that a device says in answer, its power-up line left out."""
    made, said = machine(device, settings), b""
    made.say(2.0)
    for i, one in enumerate(heard):
        made.hear(2.0 + i * 0.001, one)
    while made.due() < NEVER:
        said += made.say(made.due())
    return said


@given(anything)
def test_a_text_device_takes_anything(heard: list[Heard]) -> None:
    said = fed("gauge-logger", TEXT, heard)
    assert said == b"" or said.endswith(b"\r\n")


@given(anything)
def test_a_bus_device_takes_anything(heard: list[Heard]) -> None:
    said = fed("snow-pillow", BUS, heard)
    assert said == b"" or modbus.sound(said)


@pytest.mark.parametrize(
    ("words", "answer"), [(b"LV", b"LV +01.284 M OK"), (b"lv", b"LV +01.284 M OK"), (b"XX", b"?"), (b"", b"")]
)
def test_commands(words: bytes, answer: bytes) -> None:
    said = fed("gauge-logger", TEXT, [Heard(b) for b in words + b"\r\n"])
    assert said == (answer + b"\r\n" if answer else b"")


def test_damage_spoils_a_line_and_the_next_is_heard() -> None:
    heard = [Heard(ord("L"), Doubt.ERROR), *(Heard(b) for b in b"V\r\nLV\r\n")]
    assert fed("gauge-logger", TEXT, heard) == b"?\r\nLV +01.284 M OK\r\n"


def test_an_endless_line_is_thrown_away() -> None:
    heard = [Heard(b) for b in b"x" * 5000 + b"\r\nID\r\n"]
    assert fed("gauge-logger", TEXT, heard).endswith(b"SN 20418\r\n")


def test_nothing_is_heard_before_power_up_is_over() -> None:
    made = machine("gauge-logger", TEXT)
    for b in b"ID\r\n":
        made.hear(0.5, Heard(b))
    assert made.say(10.0) == b"LEVEL LOGGER FW 3.1 READY\r\n"


def test_echo() -> None:
    from msgspec.structs import replace

    made = TextDevice(replace(behaviour("gauge-logger"), echo=True, power_up=None, power_up_s=0.0), TEXT)
    made.hear(1.0, Heard(ord("I")))
    assert made.say(1.0) == b"I"


def test_other_units_and_broken_frames_are_not_answered() -> None:
    request = modbus.read_request(2, 0, 2)
    assert modbus.read_answer(fed("snow-pillow", BUS, [Heard(b) for b in request])).values == (412, 65496)
    assert fed("snow-pillow", BUS, [Heard(b) for b in modbus.read_request(9, 0, 2)]) == b""
    assert fed("snow-pillow", BUS, [Heard(b) for b in request[:-1]]) == b""
    damaged = [Heard(request[0], Doubt.ERROR), *(Heard(b) for b in request[1:])]
    assert fed("snow-pillow", BUS, damaged) == b""


def test_unknown_devices_are_named() -> None:
    with pytest.raises(BadInput, match="gauge-logger"):
        machine("toaster", TEXT)
