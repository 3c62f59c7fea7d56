"""Serial ports of this machine, from sysfs (Documentation/ABI/testing/sysfs-tty and sysfs-bus-usb of the kernel)."""

import os
from dataclasses import dataclass
from pathlib import Path

_NO_UART = "0"  # PORT_UNKNOWN in include/uapi/linux/serial_core.h: a ttyS without hardware behind it


@dataclass(frozen=True)
class HostPort:
    """A port as the system knows it. `driver` is the kernel driver bound to it; `product` what the device reports.

    A native port's `driver` is the kernel's serial core, which names itself `port` or `serial8250`.
    """

    address: str
    driver: str | None
    product: str | None
    may_open: bool


def list_ports(root: Path = Path("/")) -> list[HostPort]:
    """Ports with hardware behind them, in the order of their names; empty where the machine has none."""
    classes = root / "sys/class/tty"
    try:
        names = sorted(entry.name for entry in classes.iterdir())
    except OSError:
        return []
    found = []
    for name in names:
        tty = classes / name
        if not (tty / "device").exists() or _text(tty / "type") == _NO_UART:
            continue
        node = root / "dev" / name
        may_open = os.access(node, os.R_OK | os.W_OK)
        found.append(HostPort(f"/dev/{name}", _driver(tty / "device"), _product(tty / "device"), may_open))
    return found


def _driver(device: Path) -> str | None:
    link = device / "driver"
    return link.resolve().name if link.exists() else None


def _product(device: Path) -> str | None:
    """The product string that a USB device reports, from the nearest folder above that has one."""
    here = device.resolve()
    for folder in (here, *list(here.parents)[:3]):
        if text := _text(folder / "product"):
            return "".join(c for c in text if c.isprintable())[:80]
    return None


def _text(path: Path) -> str | None:
    try:
        return path.read_text(encoding="utf-8", errors="replace").strip()
    except OSError:
        return None
