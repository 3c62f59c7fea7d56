"""The host room: listing, claims, kernel logs; each as a ratio to a named reference in the same run."""

import subprocess
import sys
import time
from pathlib import Path

import pytest
from pytest_benchmark.fixture import BenchmarkFixture

from humble_courier.app.port.drivers import REFERENCE
from humble_courier.host.aliases import Aliases, UsbId
from humble_courier.host.ports import list_ports
from humble_courier.simulator.machine import Plug, SimulatedMachine

MEGABYTES = 200


def test_listing_64_ports(benchmark: BenchmarkFixture, tmp_path: Path) -> None:
    """Aim: under 50 ms. Reference: reading the same number of small files."""
    machine = SimulatedMachine(tmp_path, REFERENCE.read_text())
    for i in range(64):
        machine.plug(Plug("0403", "6001", "ftdi_sio", "ftdi_sio", serial=f"SK{i:04}"), f"1-{i + 1}", i)
    assert len(benchmark(lambda: list_ports(tmp_path))) == 64
    begun = time.perf_counter()
    for path in tmp_path.glob("sys/devices/pci0000:00/usb1/*/idVendor"):
        path.read_text()
    reference, median = time.perf_counter() - begun, benchmark.stats.stats.median
    print(f"\n64 ports: {median * 1e3:.1f} ms, {median / reference:.1f} times 64 file reads")


@pytest.mark.parametrize("warm", [False, True], ids=["cold", "warm"])
def test_a_thousand_claims(benchmark: BenchmarkFixture, warm: bool) -> None:
    """Aim: cold under 1 s, warm under 50 ms. Reference: reading the file and splitting its lines once."""
    ids = [UsbId(0x0403, pid) for pid in range(0x6000, 0x6000 + 500)] + [UsbId(0x10C4, pid) for pid in range(500)]
    ready = Aliases.read(REFERENCE)

    def ask() -> int:
        aliases = ready if warm else Aliases.read(REFERENCE)
        return sum(bool(aliases.modules(usb)) for usb in ids)

    assert benchmark(ask) > 5
    begun = time.perf_counter()
    [line.split() for line in REFERENCE.read_text().splitlines()]
    reference = time.perf_counter() - begun
    median = benchmark.stats.stats.median
    print(f"\n1 000 claims, warm {warm}: {median * 1e3:.1f} ms, {median / reference:.1f} times reading the file")


READ = """
import resource, sys
from pathlib import Path
from humble_courier.catalog.load import Catalog
from humble_courier.host.kernel_log import pieces, read_log
with Path(sys.argv[1]).open("rb") as file:
    events = read_log(pieces(file), Catalog().log_lines.values())
print(len(events), resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)
"""


def test_a_log_of_200_megabytes(benchmark: BenchmarkFixture, tmp_path: Path) -> None:
    """Aim: memory under 150 MB. Reference: `grep -c usb` of the same file."""
    block = b"".join(
        b"[%12.6f] systemd[1]: Started session %d of user technician, nothing to do with plugs.\n" % (i, i)
        for i in range(998)
    )
    block += b"[  999.000000] usb 1-2: new full-speed USB device number 5 using xhci_hcd\n"
    block += b"[  999.100000] usb 1-2: ch341-uart converter now attached to ttyUSB0\n"
    path = tmp_path / "kern.log"
    with path.open("wb") as file:
        for _ in range(MEGABYTES * 1_000_000 // len(block)):
            file.write(block)

    def read() -> list[str]:
        command = [sys.executable, "-c", READ, str(path)]
        return subprocess.run(command, capture_output=True, text=True, check=True).stdout.split()

    events, kilobytes = benchmark.pedantic(read, rounds=1)
    assert int(events) > 1000
    begun = time.perf_counter()
    subprocess.run(["grep", "-c", "usb", str(path)], capture_output=True, check=True)
    reference = time.perf_counter() - begun
    median = benchmark.stats.stats.median
    print(f"\n200 MB log: {median:.1f} s, {median / reference:.0f} times grep -c, {int(kilobytes) / 1000:.0f} MB of memory")
