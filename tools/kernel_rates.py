"""Holds `line.bridges` against the kernel's own functions, compiled from its sources: run it where the two may differ.

    apt-get download linux-source-6.1 && dpkg-deb -x linux-source-6.1_*.deb k && tar xJf k/usr/src/linux-source-6.1.tar.xz
    python -m tools.kernel_rates linux-source-6.1

Each function is cut out of its file and compiled as it stands, with the few macros that it needs; nothing of it is kept.
"""

import ctypes
import re
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path

from humble_courier.line.bridges import BRIDGES

HEAD = """
#include <stdint.h>
#include <limits.h>
typedef uint32_t u32; typedef uint8_t u8; typedef unsigned int speed_t; typedef int bool; enum {false, true};
#define DIV_ROUND_CLOSEST(x, d) (((x) + ((d) / 2)) / (d))
#define DIV_ROUND_UP(n, d) (((n) + (d) - 1) / (d))
#define ARRAY_SIZE(a) (sizeof(a) / sizeof((a)[0]))
#define clamp_val(v, l, h) ((v) < (l) ? (l) : (v) > (h) ? (h) : (v))
#define BIT(n) (1u << (n))
#define EINVAL 22
static void put_unaligned_le32(u32 v, unsigned char *b) { b[0] = v; b[1] = v >> 8; b[2] = v >> 16; b[3] = v >> 24; }
struct cp210x_rate { speed_t rate; speed_t high; };
struct ch341_private { unsigned long quirks; };
"""
WANTED = {
    "ftdi_sio.c": tuple(f"ftdi_{kind}_baud_base_to_divisor" for kind in ("232am", "232bm", "2232h")),
    "cp210x.c": ("cp210x_an205_table1", "cp210x_get_an205_rate"),
    "ch341.c": ("ch341_min_rates", "ch341_get_divisor"),
    "pl2303.c": ("pl2303_get_supported_baud_rate", "pl2303_encode_baud_rate_divisor", "pl2303_encode_baud_rate_divisor_alt"),
}
SPREAD = (range(46, 3000), range(3000, 120_000, 7), range(120_000, 3_000_000, 997), (10_400, 31_250, 250_000, 921_600))
RATES = sorted({rate for some in SPREAD for rate in some})
FRACTIONS = {0: 0, 3: 1, 2: 2, 4: 3, 1: 4, 5: 5, 6: 6, 7: 7}  # code of the register to eighths
CLOSE = 1e-6


def cut(text: str, name: str) -> str:
    """A function or a table out of a file, as it stands."""
    found = re.search(rf"^(?:static|const)[^;{{}}]*\b{name}\b[^;{{}}]*\{{.*?^\}};?$", text, re.MULTILINE | re.DOTALL)
    if found is None:
        sys.exit(f"{name}: not found; is this the source of Linux 6.1?")
    return found.group()


def compiled(kernel: Path) -> ctypes.CDLL:
    """All wanted functions in one library."""
    parts = [HEAD]
    for file, names in WANTED.items():
        text = (kernel / "drivers/usb/serial" / file).read_text()
        prefix = file.partition(".")[0].partition("_")[0].upper()
        parts += re.findall(rf"^#define {prefix}_(?:CLK|MIN|MAX|QUIRK)\w*(?:\(.*?\))?.*(?:\\\n.*)*", text, re.MULTILINE)
        parts += [cut(text, name).replace("static ", "", 1) for name in names]
    with tempfile.TemporaryDirectory() as folder:
        source, library = Path(folder) / "rates.c", Path(folder) / "rates.so"
        source.write_text("\n".join(parts))
        subprocess.run(["cc", "-shared", "-fPIC", "-w", "-o", str(library), str(source)], check=True)
        return ctypes.CDLL(str(library))


def eighths(code: int) -> float:
    """The divisor that a register of fourteen bits and three of fraction means."""
    special = {0: 1.0, 1: 1.5}
    return special.get(code, (code & 0x3FFF) + FRACTIONS[code >> 14 & 7] / 8)


def references(kernel: ctypes.CDLL) -> dict[tuple[str, str], Callable[[int], float]]:
    """What the kernel's arithmetic makes of a rate, by driver and kind."""
    four = (ctypes.c_ubyte * 4)()
    am = {0: 0, 3: 1 / 8, 2: 1 / 4, 1: 1 / 2}

    def first(rate: int) -> float:
        code = kernel.ftdi_232am_baud_base_to_divisor(rate, 48_000_000) & 0xFFFF
        return 3e6 / ((code & 0x3FFF) + am[code >> 14] if code else 1.0)

    def ch341(quirks: int) -> Callable[[int], float]:
        def make(rate: int) -> float:
            code = kernel.ch341_get_divisor(ctypes.byref(ctypes.c_ulong(quirks)), rate)
            div, fact, ps = 0x100 - (code >> 8), code >> 2 & 1, code & 3
            return 48e6 / (2 ** (12 - 3 * ps - fact) * div)

        return make

    def pl2303(divided: Callable[..., int], bits: int) -> Callable[[int], float]:
        def make(rate: int) -> float:
            if kernel.pl2303_get_supported_baud_rate(rate) == rate:
                return float(rate)
            divided(four, rate)
            mantissa = four[0] | (four[1] & (1 if bits == 9 else 7)) << 8
            power = 2 * (four[1] >> 1) if bits == 9 else (four[1] >> 4 & 0xE) | four[2] & 1
            return 384e6 / mantissa / 2**power

        return make

    return {
        ("ftdi_sio", "first"): first,
        ("ftdi_sio", "full-speed"): lambda r: 3e6 / eighths(kernel.ftdi_232bm_baud_base_to_divisor(r, 48_000_000)),
        ("ftdi_sio", "high-speed"): lambda r: (
            12e6 / eighths(kernel.ftdi_2232h_baud_base_to_divisor(r, 120_000_000) & ~0x20000)
            if r >= 1200 else 3e6 / eighths(kernel.ftdi_232bm_baud_base_to_divisor(r, 48_000_000))
        ),
        ("cp210x", "table"): lambda r: float(kernel.cp210x_get_an205_rate(r)),
        ("ch341", "usual"): ch341(0),
        ("ch341", "limited"): ch341(1),
        ("pl2303", "quarters"): pl2303(kernel.pl2303_encode_baud_rate_divisor, 9),
        ("pl2303", "halves"): pl2303(kernel.pl2303_encode_baud_rate_divisor_alt, 11),
    }  # fmt: skip


def differences(kernel: ctypes.CDLL) -> Iterator[tuple[str, str, int, int, str]]:
    """For each kind: how many rates were compared, how many differ, and the first that does."""
    known = {(bridge.driver, bridge.kind): bridge for bridge in BRIDGES}
    for (driver, kind), reference in references(kernel).items():
        bridge = known[driver, kind]
        rates = [rate for rate in RATES if bridge.lowest <= rate <= bridge.highest]
        wrong = []
        for rate in rates:
            ours, theirs = bridge.make(rate).actual, reference(rate)
            if ours is None and driver == "ftdi_sio":
                continue  # a divisor between 1 and 2 that the chips do not define
            if ours is None or abs(ours - theirs) > theirs * CLOSE:
                wrong.append(f"{rate}: ours {ours}, the kernel's {theirs}")
        yield driver, kind, len(rates), len(wrong), wrong[0] if wrong else ""


def main() -> None:
    """Compare, and say what differs; exit code 1 where something does."""
    if len(sys.argv) != 2:
        sys.exit(__doc__)
    bad = 0
    for driver, kind, count, wrong, example in differences(compiled(Path(sys.argv[1]))):
        bad += wrong
        print(f"{driver}/{kind}: {count} rates, {wrong} differ {example}")
    sys.exit(bad > 0)


if __name__ == "__main__":
    main()
