"""Rates that USB bridges really make of what is asked, by kernel driver and kind of chip.

Theory of operation. A bridge divides a clock, or knows a list of rates. A divider reaches a grid of rates, and the driver
asks for the divisor that is nearest: the rate is off by up to half a step, which grows with the rate. A list snaps: what is
not in it becomes its neighbour, however far. Outside its limits a driver clamps to the limit, or, in one case, sets 9600
without a word. Each kind here is a grid or a list with its limits; what it does to a wanted rate follows from these alone.

Source of clocks, limits and lists: Linux 6.1, read (not copied): `get_ftdi_divisor` in drivers/usb/serial/ftdi_sio.c,
`cp210x_change_speed` and `cp210x_init_max_speed` in cp210x.c, `ch341_get_divisor` in ch341.c, `pl2303_encode_baud_rate` in
pl2303.c, `uart_get_divisor` in drivers/tty/serial/serial_core.c. `tools/kernel_rates.py` compiles those functions from the
kernel's own sources and holds this module against them.
"""

from bisect import bisect_left
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum


class How(StrEnum):
    """What became of a wanted rate."""

    EXACT = "exact"  # within a thousandth
    NEAREST = "nearest"  # of the divisor's grid
    SNAPPED = "snapped"  # to a rate of a list
    CLAMPED = "clamped"  # to the lowest or the highest
    DEFAULT = "default"  # 9600, and nobody is told


@dataclass(frozen=True)
class MadeRate:
    """The rate on the line in bit/s; None where the driver refuses."""

    actual: float | None
    how: How | None


@dataclass(frozen=True)
class Bridge:
    """A kind of chip behind a kernel driver: its limits in bit/s, and the rate it makes between them."""

    driver: str
    kind: str
    chip: str
    lowest: int
    highest: int
    grid: Callable[[int], float | None]
    beyond: How = How.CLAMPED
    listed: bool = False

    def make(self, rate: int) -> MadeRate:
        """What this bridge makes of a wanted rate (bit/s, at least 1)."""
        if rate > self.highest and self.beyond is How.DEFAULT:
            return MadeRate(self.grid(DEFAULT_RATE), How.DEFAULT)
        within = min(max(rate, self.lowest), self.highest)
        actual = self.grid(within)
        if actual is None:
            return MadeRate(None, None)
        if within != rate:
            return MadeRate(actual, How.CLAMPED)
        if abs(actual - rate) <= rate * EXACT:
            return MadeRate(actual, How.EXACT)
        return MadeRate(actual, How.SNAPPED if self.listed else How.NEAREST)


DEFAULT_RATE = 9600
EXACT = 0.001
WIDEST = 0x4000  # divisors of fourteen bits
MHZ = 1_000_000


def _rounded(a: int, b: int) -> int:
    """a / b to the nearest whole number, halves upwards."""
    return (2 * a + b) // (2 * b)


def _eighths(base: int, rate: int, taken: Callable[[int], int]) -> float | None:
    """`base`: the rate of divisor 1. The divisor goes in steps of an eighth; `taken`: the one that the chip makes of it.

    Between 1 and 2 the chips make one and a half only; what they do with anything else there is said nowhere.
    """
    steps = taken(_rounded(8 * base, rate))
    return 8 * base / steps if steps in (8, 12) or 16 <= steps < 8 * WIDEST else None


def _all_eighths(steps: int) -> int:
    return steps


def _some_eighths(steps: int) -> int:
    """The first kind makes 0, 1, 2 and 4 eighths: others go down to these, seven up to the next whole."""
    whole, part = divmod(steps + (steps % 8 == 7), 8)
    return 8 * whole + (4 if part >= 4 else 2 if part >= 2 else part)


def _first(rate: int) -> float | None:
    return _eighths(3 * MHZ, rate, _some_eighths)


def _full_speed(rate: int) -> float | None:
    return _eighths(3 * MHZ, rate, _all_eighths)


def _high_speed(rate: int) -> float | None:
    return _full_speed(rate) if rate < 1200 else _eighths(12 * MHZ, rate, _all_eighths)


def _divided(rate: int) -> float | None:
    """24 MHz through a whole divisor, with a prescaler of four for the slowest."""
    clock = (6 if rate <= 365 else 24) * MHZ
    return clock / _rounded(clock, rate)


# The highest request that still becomes each rate (the chips' published application note on rates, its table 1).
_SNAPS = (
    (300, 300), (600, 600), (1200, 1200), (1800, 1800), (2400, 2400), (4000, 4000), (4803, 4800), (7207, 7200), (9612, 9600),
    (14428, 14400), (16062, 16000), (19250, 19200), (28912, 28800), (38601, 38400), (51558, 51200), (56280, 56000),
    (58053, 57600), (64111, 64000), (77608, 76800), (117028, 115200), (129347, 128000), (156868, 153600), (237832, 230400),
    (254234, 250000), (273066, 256000), (491520, 460800), (567138, 500000), (670254, 576000), (2**32, 921600),
)  # fmt: skip


def _snapped(rate: int) -> float | None:
    return float(_SNAPS[bisect_left(_SNAPS, (rate, 0))][1])


def _prescaled(limited: bool) -> Callable[[int], float | None]:
    """48 MHz through 2 to the power of 12, 9, 6 or 3 (or half of that, for divisors from 9 on), and a divisor to 256.

    `limited`: some chips take the half only with the smallest prescaler.
    """

    def make(rate: int) -> float | None:
        power = next((p for p in (3, 6, 9, 12) if rate * (1 << (p + 8)) > 48 * MHZ), None)
        if power is None:
            return None
        divider = 1 << (power - 1)  # the clock is 48 MHz through this
        below = 48 * MHZ // (divider * rate)
        if not 9 <= below <= 255 or (limited and power > 3):
            divider, below = 2 * divider, below // 2
        if below < 2:
            return None
        fast, slow = 48 * MHZ / (divider * below), 48 * MHZ / (divider * (below + 1))
        # The nearer of the two, compared in whole sixteenths of a bit/s.
        return slow if int(16 * fast) - 16 * rate >= 16 * rate - int(16 * slow) else fast

    return make


_LISTED = (
    75, 150, 300, 600, 1200, 1800, 2400, 3600, 4800, 7200, 9600, 14400, 19200, 28800, 38400, 57600, 115200, 230400,
    460800, 614400, 921600, 1228800, 2457600, 3000000, 6000000,
)  # fmt: skip


def _mantissa(bits: int, step: int) -> Callable[[int], float | None]:
    """A list of rates, and beside it 384 MHz through a mantissa of `bits` and a power of 2 to the `step`."""

    def make(rate: int) -> float | None:
        if rate in _LISTED:
            return float(rate)
        whole = max(1, 384 * MHZ // rate)
        exponent = next((e for e in range(8 if step == 2 else 16) if whole >> step * e < 1 << bits), None)
        if exponent is None:
            exponent, mantissa = (7 if step == 2 else 15), (1 << bits) - 1
        else:
            mantissa = whole >> step * exponent
        return 384 * MHZ / mantissa / (1 << step * exponent)

    return make


def _board(rate: int) -> float | None:
    divisor = _rounded(1_843_200, 16 * rate)
    return 1_843_200 / (16 * divisor) if 0 < divisor <= 0xFFFF else None


BRIDGES = (
    Bridge("8250", "board", "the port of a board, 1.8432 MHz", 2, 115_200, _board),
    Bridge("ftdi_sio", "first", "the first kind", 184, 3 * MHZ, _first, How.DEFAULT),
    Bridge("ftdi_sio", "full-speed", "full speed", 184, 3 * MHZ, _full_speed, How.DEFAULT),
    Bridge("ftdi_sio", "high-speed", "high speed", 184, 12 * MHZ, _high_speed, How.DEFAULT),
    Bridge("cp210x", "table", "with a list of rates", 300, MHZ, _snapped, listed=True),
    Bridge("cp210x", "divider", "with a free divider", 300, 2 * MHZ, _divided),
    Bridge("cp210x", "divider-fast", "with a free divider, to 3 Mbit/s", 300, 3 * MHZ, _divided),
    Bridge("cp210x", "second-port", "the second port of two", 2400, 921_600, _snapped, listed=True),
    Bridge("ch341", "usual", "usual", 46, 3 * MHZ, _prescaled(limited=False)),
    Bridge("ch341", "limited", "with a limited prescaler", 46, 3 * MHZ, _prescaled(limited=True)),
    Bridge("pl2303", "quarters", "divisor in powers of four", 1, 6 * MHZ, _mantissa(9, 2)),
    Bridge("pl2303", "halves", "divisor in powers of two", 1, 12 * MHZ, _mantissa(11, 1)),
    Bridge("pl2303", "direct", "takes the rate as it is", 1, 12 * MHZ, float),
)


def kinds_of(driver: str) -> list[Bridge]:
    """The kinds of chip that a driver claims; empty for one that is not known here."""
    return [bridge for bridge in BRIDGES if bridge.driver == driver]
