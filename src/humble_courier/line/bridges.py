"""Rates that USB bridges make of what is asked, by kernel driver, from the drivers' own formulas (Linux 6.1, from memory).

Each function gives the actual rate in bit/s, or None where the driver refuses.
"""

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Bridge:
    """A kind of chip behind a kernel driver, what its driver makes of a rate, and where the formula stands."""

    driver: str
    chip: str
    make: Callable[[int], float | None]
    source: str


def _closest(a: int, b: int) -> int:
    """DIV_ROUND_CLOSEST of the kernel for positive numbers."""
    return (a + b // 2) // b


def ftdi_full_speed(rate: int) -> float | None:
    """48 MHz through a divider with eighths (`ftdi_232bm_baud_base_to_divisor`)."""
    eighths = _closest(48_000_000, 2 * rate)
    if rate > 3_000_000 or eighths >> 3 > 0x3FFF:
        return None
    if eighths < 16:  # 1 and 1.5 are codes of their own; what lies between is not made
        eighths = 8 if eighths < 12 else 12 if eighths < 14 else 16
    return 24_000_000 / eighths


def ftdi_high_speed(rate: int) -> float | None:
    """120 MHz, ten samples a bit, eighths (`ftdi_2232h_baud_base_to_divisor`); below 1 200 as full speed."""
    if rate < 1200:
        return ftdi_full_speed(rate)
    eighths = _closest(8 * 120_000_000, 10 * rate)
    if rate > 12_000_000 or eighths >> 3 > 0x3FFF:
        return None
    if eighths < 16:
        eighths = 8 if eighths < 12 else 12 if eighths < 14 else 16
    return 96_000_000 / eighths


def cp210x(rate: int) -> float | None:
    """48 MHz halved, with a prescaler of four up to 365 bit/s (`cp210x_get_actual_rate`)."""
    if not 300 <= rate <= 3_000_000:
        return None
    prescale = 4 if rate <= 365 else 1
    return 48_000_000 / (2 * prescale * _closest(48_000_000, 2 * prescale * rate))


def ch341(rate: int) -> float | None:
    """48 MHz, four prescalers, a divisor from 2 to 256 (`ch341_get_divisor`)."""
    clock, fact = 48_000_000, 1
    rate = min(max(rate, 46), 3_000_000)

    def clock_divider(ps: int, fact: int) -> int:
        return 1 << (12 - 3 * ps - fact)

    ps = next((ps for ps in (3, 2, 1, 0) if rate > clock / (clock_divider(ps, 1) * 512)), None)
    if ps is None:
        return None
    divider = clock_divider(ps, fact)
    div = clock // (divider * rate)
    if div < 9 or div > 255:
        div //= 2
        divider *= 2
        fact = 0
    if div < 2:
        return None
    if 16 * clock // (divider * div) - 16 * rate >= 16 * rate - 16 * clock // (divider * (div + 1)):
        div += 1
    return clock / (divider * div)


_PL2303_DIRECT = (
    75, 150, 300, 600, 1200, 1800, 2400, 3600, 4800, 7200, 9600, 14400, 19200, 28800, 38400, 57600, 115200, 230400,
    460800, 614400, 921600, 1228800, 2457600, 3000000, 6000000,
)  # fmt: skip


def pl2303(rate: int) -> float | None:
    """A list of rates that are met, else a mantissa of nine bits and an exponent (`pl2303_encode_baud_rate_divisor`)."""
    if rate in _PL2303_DIRECT:
        return float(rate)
    baseline = 12_000_000 * 32
    mantissa, exponent = baseline // rate, 0
    if mantissa == 0:
        return None
    while mantissa >= 512:
        if exponent == 7:
            mantissa = 511
            break
        mantissa >>= 2
        exponent += 1
    return baseline / mantissa / (1 << 2 * exponent)


def board(rate: int) -> float | None:
    """The 16550 of a board: 1.8432 MHz, sixteen samples a bit, whole divisors (`uart_get_divisor`)."""
    divisor = _closest(1_843_200, 16 * rate)
    return 1_843_200 / (16 * divisor) if 0 < divisor <= 0xFFFF else None


BRIDGES = (
    Bridge("8250", "the port of a board, 1.8432 MHz", board, "drivers/tty/serial/serial_core.c"),
    Bridge("ftdi_sio", "full speed", ftdi_full_speed, "drivers/usb/serial/ftdi_sio.c"),
    Bridge("ftdi_sio", "high speed", ftdi_high_speed, "drivers/usb/serial/ftdi_sio.c"),
    Bridge("cp210x", "any", cp210x, "drivers/usb/serial/cp210x.c"),
    Bridge("ch341", "any", ch341, "drivers/usb/serial/ch341.c"),
    Bridge("pl2303", "any", pl2303, "drivers/usb/serial/pl2303.c"),
)
