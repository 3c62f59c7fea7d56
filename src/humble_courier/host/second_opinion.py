"""A second opinion on the list of ports: pyserial's own, which knows some drivers from outside the kernel's tree."""

from collections.abc import Sequence
from pathlib import Path

from humble_courier.host.kinds import HostPort, PortKind


def overlooked(ports: Sequence[HostPort]) -> list[HostPort]:
    """Ports of this machine that pyserial names and our list does not; those without hardware behind them stay out."""
    from serial.tools import list_ports_linux

    known = {port.address for port in ports}
    named = sorted({str(info.device) for info in list_ports_linux.comports()} - known)
    return [HostPort(address, PortKind.VIRTUAL) for address in named if _has_hardware(address)]


def _has_hardware(address: str) -> bool:
    try:
        return (Path("/sys/class/tty") / Path(address).name / "type").read_text().strip() != "0"
    except OSError:
        return True  # only serial_core tells; other drivers make nodes for real ports only
