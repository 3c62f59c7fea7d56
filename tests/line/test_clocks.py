"""Clocks against printed tables; the frame's budget against the simulated receiver; bridge chips against round numbers."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.domain.settings import Frame, Settings
from humble_courier.errors import BadInput
from humble_courier.line.bridges import BRIDGES, How, kinds_of
from humble_courier.line.clocks import divide, tolerance, too_fast, too_slow
from humble_courier.line.uart import receive
from humble_courier.line.wave import encode

# Divisors and printed errors (percent) of the 16550 family at 1.8432 MHz: its data sheet, baud rate table (from memory).
UART_16550 = [
    (50, 2304, 0), (75, 1536, 0), (110, 1047, 0.026), (134.5, 857, 0.058), (150, 768, 0), (300, 384, 0), (600, 192, 0),
    (1200, 96, 0), (1800, 64, 0), (2000, 58, 0.69), (2400, 48, 0), (3600, 32, 0), (4800, 24, 0), (7200, 16, 0),
    (9600, 12, 0), (19200, 6, 0), (38400, 3, 0), (56000, 2, 2.86),
]  # fmt: skip
# Register (divisor - 1) and printed error of an 8-bit microcontroller at 16 MHz, normal and double speed: its data sheet's
# examples of baud rate settings (from memory).
MICRO_16X = [
    (2400, 416, -0.1), (4800, 207, 0.2), (9600, 103, 0.2), (14400, 68, 0.6), (19200, 51, 0.2), (28800, 34, -0.8),
    (38400, 25, 0.2), (57600, 16, 2.1), (76800, 12, 0.2), (115200, 8, -3.5), (230400, 3, 8.5), (250000, 3, 0),
]  # fmt: skip
MICRO_8X = [
    (2400, 832, 0.0), (4800, 416, -0.1), (9600, 207, 0.2), (14400, 138, -0.1), (57600, 34, -0.8), (115200, 16, 2.1),
    (230400, 8, -3.5), (250000, 7, 0), (1000000, 1, 0),
]  # fmt: skip


@pytest.mark.parametrize(("rate", "divisor", "error"), UART_16550)
def test_the_16550_table(rate: float, divisor: int, error: float) -> None:
    found = divide(1_843_200, rate)
    assert found.divisor == divisor and abs(found.error_percent) == pytest.approx(error, abs=0.006)


@pytest.mark.parametrize(("oversample", "rows"), [(16, MICRO_16X), (8, MICRO_8X)])
def test_the_microcontroller_table(oversample: int, rows: list[tuple[int, int, float]]) -> None:
    for rate, register, error in rows:
        found = divide(16_000_000, rate, oversample)
        assert (found.divisor, round(found.error_percent, 1)) == (register + 1, error), rate


@pytest.mark.parametrize(("rate", "ok"), [(115200, False), (57600, True), (230400, False), (9600, True), (250000, True)])
def test_what_is_safe_at_16_mhz(rate: int, ok: bool) -> None:
    assert divide(16_000_000, rate).ok is ok


@pytest.mark.parametrize("frame", ["8N1", "7E1", "8E1", "5N1"])
@pytest.mark.parametrize("side", [-1, 1])
def test_the_budget_against_the_simulated_receiver(frame: str, side: int) -> None:
    """Monte Carlo: 2 000 characters back to back, with the sender just inside the closed form and just outside it."""
    settings = Settings(9600, Frame.parse(frame))
    data = np.random.default_rng(7).integers(0, 1 << settings.frame.data_bits, 2000, np.uint8).tobytes()
    limit = too_fast(settings.frame) if side > 0 else too_slow(settings.frame)

    def clean(mismatch: float) -> bool:
        # a faster sender is a slower receiver
        got = receive(encode(data, settings), settings, clock=1 / (1 + side * mismatch))
        return got.values.tobytes() == data and not (got.framing | got.parity).any()

    assert clean(limit * 0.99)
    assert not clean(limit * 1.02 if side > 0 else limit * 1.15)  # slow: a late tick may save the last bit
    assert tolerance(settings.frame) == min(too_fast(settings.frame), too_slow(settings.frame))


def test_the_budget_against_the_printed_one() -> None:
    """The microcontroller's data sheet prints +4.58 % for eight data bits at 16 samples, +3.90 % at 8 (from memory)."""
    assert too_fast(Frame(), 16) * 100 == pytest.approx(4.58, abs=0.01)
    assert too_fast(Frame(), 8) * 100 == pytest.approx(3.90, abs=0.01)


@given(st.integers(100_000, 200_000_000), st.integers(50, 1_000_000), st.sampled_from([8, 16]), st.sampled_from([1, 8, 16]))
def test_no_other_divisor_is_nearer(clock: int, rate: int, oversample: int, parts: int) -> None:
    step = Fraction(1, parts)
    try:
        found = divide(clock, rate, oversample, step)
    except BadInput:
        assert clock / (oversample * rate) > 0xFFFF
        return
    best = abs(found.actual - rate)
    for other in (found.divisor - float(step), found.divisor + float(step)):
        if other > 0:
            assert best <= abs(clock / (oversample * other) - rate) * (1 + 1e-9)


@pytest.mark.parametrize("bad", [(0, 9600, 16), (1e6, 0, 16), (1e6, 9600, 0), (1e9, 1, 16)])
def test_values_without_sense(bad: tuple[float, float, int]) -> None:
    with pytest.raises(BadInput):
        divide(*bad)


def test_bridges_meet_the_usual_rates() -> None:
    for bridge in BRIDGES:
        for rate in (2400, 4800, 9600, 19200, 38400, 57600, 115200):
            made = bridge.make(rate)
            assert made.actual is not None and abs(made.actual / rate - 1) < 0.01, (bridge, rate)
            assert made.how in (How.EXACT, How.NEAREST)


# Read out of Linux 6.1 by `tools/kernel_rates.py`, which compares some 20 000 rates for each kind; these are the odd ones.
@pytest.mark.parametrize(
    ("named", "rate", "actual", "how"),
    [
        ("cp210x/table", 10_400, 14_400, "snapped"), ("cp210x/table", 31_250, 38_400, "snapped"),
        ("cp210x/table", 110, 300, "clamped"), ("cp210x/table", 250_000, 250_000, "exact"),
        ("cp210x/divider", 10_400, 10_398.6, "exact"), ("cp210x/divider", 31_250, 31_250, "exact"),
        ("cp210x/divider", 110, 300, "clamped"), ("cp210x/divider-fast", 2_800_000, 2_666_666.7, "nearest"),
        ("cp210x/second-port", 1200, 2400, "clamped"),
        ("ftdi_sio/full-speed", 4_000_000, 9600, "default"), ("ftdi_sio/high-speed", 4_000_000, 4_000_000, "exact"),
        ("ftdi_sio/full-speed", 3_000_000, 3_000_000, "exact"), ("ftdi_sio/full-speed", 2_000_000, 2_000_000, "exact"),
        ("ftdi_sio/full-speed", 2_500_000, None, None), ("ftdi_sio/full-speed", 31_250, 31_250, "exact"),
        ("ftdi_sio/first", 115_200, 115_384.6, "nearest"), ("ftdi_sio/high-speed", 600, 600, "exact"),
        ("ch341/usual", 73, 73.242, "nearest"), ("ch341/usual", 110, 110.035, "exact"),
        ("pl2303/quarters", 31_250, 31_250, "exact"), ("pl2303/quarters", 10_400, 10_416.7, "nearest"),
        ("pl2303/direct", 10_400, 10_400, "exact"), ("8250/board", 31_250, 28_800, "nearest"),
    ],
)  # fmt: skip
def test_bridges_at_odd_rates(named: str, rate: int, actual: float | None, how: str | None) -> None:
    driver, _, kind = named.partition("/")
    (bridge,) = [one for one in kinds_of(driver) if one.kind == kind]
    made = bridge.make(rate)
    assert made.actual == (actual if actual is None else pytest.approx(actual, rel=1e-4)) and made.how == how


@given(st.integers(1, 12_000_000))
def test_what_is_made_lies_within_the_limits_and_says_how(rate: int) -> None:
    for bridge in BRIDGES:
        made = bridge.make(rate)
        if made.how in (How.EXACT, How.NEAREST, How.SNAPPED):
            assert bridge.lowest <= rate <= bridge.highest
        if made.how is How.EXACT:
            assert made.actual == pytest.approx(rate, rel=1e-3)
