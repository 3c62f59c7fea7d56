"""Serial ports of this machine, from sysfs (Documentation/ABI/testing/sysfs-tty and sysfs-bus-usb of the kernel).

Every path lies under a root that can be replaced, so that a simulated machine is read as the real one is.
"""

import os
import re
from dataclasses import dataclass, replace
from pathlib import Path

from humble_courier.host.access import holders, look, who_am_i
from humble_courier.host.kinds import HostPort, PortKind, UsbDevice
from humble_courier.host.ptys import list_ptys

_NO_UART = "0"  # PORT_UNKNOWN in include/uapi/linux/serial_core.h: a ttyS without hardware behind it
_NATIVE = re.compile(r"tty(S|AMA|mxc|SC|PS|O|HS|UL)\d+")
_LOW_LATENCY = 1 << 13  # ASYNC_LOW_LATENCY in include/uapi/linux/tty_flags.h (from memory)
_DEEP = 6  # folders from a tty up to its USB device: port, interface, device (and one more for some drivers)


def list_ports(root: Path = Path("/")) -> list[HostPort]:
    """Ports with something behind them: USB first, then native, Bluetooth, ptys, the rest; each kind by name."""
    classes = root / "sys/class/tty"
    try:
        names = [entry.name for entry in classes.iterdir()]
    except OSError:
        return []
    links = {kind: _links(root / f"dev/serial/by-{kind}") for kind in ("id", "path")}
    me, held, locks = who_am_i(root), holders(root), _locks(root)
    found = []
    for name in names:
        port = _port(classes / name, name, links)
        if port is not None:
            found.append(replace(port, holder=held.get(port.address), lock=locks.get(name)))
    found = [replace(p, access=look(root, p.address, me)) for p in [*found, *list_ptys(root, held)]]
    order = list(PortKind)
    return sorted(found, key=lambda p: (order.index(p.kind), _natural(p.address)))


def _natural(address: str) -> tuple[str, int]:
    match = re.fullmatch(r"(.*?)(\d*)", address)
    assert match is not None
    return match[1], int(match[2] or 0)


def _port(tty: Path, name: str, links: dict[str, dict[str, str]]) -> HostPort | None:
    device = tty / "device"
    bluetooth = name.startswith("rfcomm")
    usb = _usb(device)
    if not bluetooth and usb is None and (not device.exists() or text(tty / "type") == _NO_UART):
        return None
    if bluetooth:
        kind = PortKind.BLUETOOTH
    elif usb is not None:
        kind = PortKind.USB
    else:
        kind = PortKind.NATIVE if _NATIVE.fullmatch(name) else PortKind.VIRTUAL
    latency = text(device / "latency_timer") if usb is not None else None
    return HostPort(
        address=f"/dev/{name}",
        kind=kind,
        driver=_driver(device),
        usb=usb,
        by_id=links["id"].get(name),
        by_path=links["path"].get(name),
        latency_ms=int(latency) if latency and latency.isdecimal() else None,
        low_latency=_low_latency(tty) if kind is PortKind.NATIVE else None,
    )


def _low_latency(tty: Path) -> bool | None:
    """The driver's flag of that name, where the kernel shows its flags (serial_core.c: `flags`, hexadecimal)."""
    flags = text(tty / "flags")
    return bool(int(flags, 16) & _LOW_LATENCY) if flags and re.fullmatch(r"(0[xX])?[0-9a-fA-F]+", flags) else None


def _driver(device: Path) -> str | None:
    """The module that claims the port; the driver's own name where it is built in."""
    for link in (f"{device}/driver/module", f"{device}/driver"):
        try:
            return Path(os.readlink(link)).name  # noqa: PTH115  a Path for each of many links costs more than the link
        except OSError:
            continue
    return None


def _usb(device: Path) -> UsbDevice | None:
    """The USB device above a tty; None for a port that hangs on no USB.

    The kernel itself climbs: `device/..` is the folder above the one that the link leads to.
    """
    interface, folder = None, str(device)
    for _ in range(_DEEP):
        try:
            files = set(os.listdir(folder))  # noqa: PTH208  as above
        except OSError:
            return None
        if interface is None and "bInterfaceNumber" in files:
            interface = _read(f"{folder}/bInterfaceNumber")
        if "idVendor" in files and "idProduct" in files:
            return _reported(folder, files, interface)
        folder += "/.."
    return None


def _reported(folder: str, files: set[str], interface: str | None) -> UsbDevice:
    def of(name: str) -> str | None:
        return _read(f"{folder}/{name}") if name in files else None

    power = re.match(r"(\d+)", of("bMaxPower") or "")
    return UsbDevice(
        Path(os.path.realpath(folder)).name, (of("idVendor") or "").lower(), (of("idProduct") or "").lower(),
        plain(of("serial")), plain(of("manufacturer")), plain(of("product")), int(power[1]) if power else None, interface,
    )  # fmt: skip


def _read(path: str) -> str | None:
    try:
        with open(path, encoding="utf-8", errors="replace") as file:  # noqa: PTH123  as above
            return file.read().strip()
    except OSError:
        return None


def unclaimed(root: Path = Path("/")) -> list[UsbDevice]:
    """USB devices with an interface that no driver has bound: plugged in, but no port comes of them."""
    found = []
    for entry in sorted(entries(root / "sys/bus/usb/devices")):
        if ":" in entry.name or entry.name.startswith("usb"):
            continue
        idle = [f for f in entries(entry) if f.name.startswith(f"{entry.name}:") and _without_port(f)]
        usb = _usb(entry) if idle else None
        if usb is not None:
            found.append(replace(usb, bound=_driver(idle[0])))
    return found


@dataclass(frozen=True)
class Bound:
    """An interface of a device with a given id (`1-2:1.0`), and the driver that has bound it; None where none has."""

    interface: str
    driver: str | None


def bound_to(root: Path, vid: int, pid: int) -> list[Bound]:
    """Every interface of every plugged device with that id, with its driver."""
    found = []
    for device in sorted(entries(root / "sys/bus/usb/devices")):
        if ":" in device.name or (text(device / "idVendor"), text(device / "idProduct")) != (f"{vid:04x}", f"{pid:04x}"):
            continue
        for interface in sorted(entries(device)):
            if interface.name.startswith(f"{device.name}:"):
                found.append(Bound(interface.name, _driver(interface)))
    return found


def _without_port(interface: Path) -> bool:
    """Whether an interface has no driver of the kernel: none, or a program that holds it through usbfs."""
    free = not (interface / "driver").exists() and not any(n.name.startswith("tty") for n in entries(interface))
    return free or _driver(interface) == "usbfs"


def entries(folder: Path) -> list[Path]:
    """What lies in a folder; nothing where it cannot be read."""
    try:
        return list(folder.iterdir())
    except OSError:
        return []


def _links(folder: Path) -> dict[str, str]:
    """Links of a folder by the name they lead to."""
    found: dict[str, str] = {}
    try:
        entries = sorted(folder.iterdir())
    except OSError:
        return found
    for entry in entries:
        if entry.is_symlink():
            found.setdefault(entry.readlink().name, f"/dev/serial/{folder.name}/{entry.name}")
    return found


def _locks(root: Path) -> dict[str, str]:
    """Lock files of the old convention whose owner still runs (Filesystem Hierarchy Standard 3.0, 5.9), by port name."""
    found = {}
    for folder in ("run/lock", "var/lock"):
        for entry in entries(root / folder):
            name = entry.name.removeprefix("LCK..")
            pid = text(entry) if name != entry.name else None
            if pid and pid.isdecimal() and (root / "proc" / pid).exists():
                found[name] = f"/{folder}/{entry.name}"
    return found


def plain(words: str | None) -> str | None:
    """A device's own string as it may be shown: printable characters only, at most 80."""
    if words is None:
        return None
    return "".join(c for c in words if c.isprintable())[:80] or None


def text(path: Path) -> str | None:
    """The text of a small file of the kernel; None where it cannot be read."""
    return _read(str(path))
