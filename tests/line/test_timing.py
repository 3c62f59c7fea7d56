"""Timing against worked examples and against a byte-by-byte account of a buffer."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.domain.settings import Settings
from humble_courier.line.timing import buffer_flow, bytes_per_second, modbus_gaps, poll_cycle, round_trip, talker_load


@pytest.mark.parametrize(
    ("settings", "character_ms", "per_s"),
    [("9600,8N1", 1.0417, 960), ("110,8N2", 100.0, 10), ("1200,7E1", 8.3333, 120), ("19200,8E1", 0.57292, 1745.45)],
)
def test_characters(settings: str, character_ms: float, per_s: float) -> None:
    end = Settings.parse(settings)
    assert end.character_s * 1e3 == pytest.approx(character_ms, rel=1e-4)
    assert bytes_per_second(end) == pytest.approx(per_s, rel=1e-5)


@pytest.mark.parametrize(
    ("settings", "inner_ms", "silent_ms"),
    [("9600,8E1", 1.71875, 4.0104), ("19200,8E1", 0.859375, 2.00521), ("38400,8E1", 0.75, 1.75), ("115200,8N1", 0.75, 1.75)],
)
def test_modbus_gaps(settings: str, inner_ms: float, silent_ms: float) -> None:
    """Modbus over serial line V1.02, 2.5.1.1: 1.5 and 3.5 characters of 11 bits, fixed above 19 200 (from memory)."""
    inner, silent = modbus_gaps(Settings.parse(settings))
    assert (inner * 1e3, silent * 1e3) == (pytest.approx(inner_ms, rel=1e-4), pytest.approx(silent_ms, rel=1e-4))


def test_round_trips_and_polls() -> None:
    end = Settings.parse("19200,8E1")
    trip = round_trip(end, 16, 0.005, 0.016, 0.020)
    assert trip.seconds == pytest.approx(0.030167, rel=1e-4) and trip.fits is False
    assert round_trip(end, 16).fits is None
    assert round_trip(end, 16, 0.005, 0.001, 0.020).fits is True
    assert poll_cycle(end, 6, 16, 0.005, 0.002) == pytest.approx(6 * (16 * 11 / 19200 + 0.005 + 0.004))


@given(st.integers(1, 400), st.floats(0, 2000), st.integers(1, 64))
def test_a_buffer_against_a_byte_by_byte_account(count: int, takes: float, size: int) -> None:
    end = Settings.parse("9600,8N1")
    flow = buffer_flow(end, count, takes, size)
    held, lost, steps = 0.0, 0.0, 50  # the second account: small steps of time
    for _ in range(count * steps):
        held += 1 / steps
        held -= min(held, takes / 960 / steps)
        lost += max(0.0, held - size)
        held = min(held, size)
    assert flow.lost == pytest.approx(lost, abs=1.6)
    assert (flow.after_s is not None) == (flow.lost > 0)


def test_the_load_of_a_talker() -> None:
    """Six sentences of 80 characters a second fill a line of 4 800 bit/s (common practice): 6 · 80 · 10 / 4 800."""
    assert talker_load(Settings.parse("4800,8N1"), {80: 6}) == pytest.approx(100.0)
    assert talker_load(Settings.parse("4800,8N1"), {40: 1, 80: 1}) == pytest.approx(25.0)
