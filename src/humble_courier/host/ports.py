"""Serial ports of this machine, from sysfs (Documentation/ABI/testing/sysfs-tty and sysfs-bus-usb of the kernel).

Every path lies under a root that can be replaced, so that a simulated machine is read as the real one is.
"""

import os
import re
from dataclasses import dataclass, replace
from enum import StrEnum
from pathlib import Path

from humble_courier.host.access import Access, Holder, holders, look, who_am_i

_NO_UART = "0"  # PORT_UNKNOWN in include/uapi/linux/serial_core.h: a ttyS without hardware behind it
_NATIVE = re.compile(r"tty(S|AMA|mxc|SC|PS|O|HS|UL)\d+")
_DEEP = 6  # folders from a tty up to its USB device: port, interface, device (and one more for some drivers)


class Kind(StrEnum):
    """Where a port comes from."""

    USB = "usb"
    NATIVE = "native"
    BLUETOOTH = "bluetooth"
    PTY = "pty"
    VIRTUAL = "virtual"


@dataclass(frozen=True)
class UsbDevice:
    """What a USB device reports of itself; strings without control characters. `path` is where it is plugged in."""

    path: str
    vid: str
    pid: str
    serial: str | None = None
    manufacturer: str | None = None
    product: str | None = None
    max_power_ma: int | None = None
    interface: str | None = None
    bound: str | None = None  # driver of an interface that makes no port, as `usbfs` where a program holds it


@dataclass(frozen=True)
class HostPort:
    """A port as the system knows it. `driver` is the kernel module that claims it; None where none is named.

    `why_not` holds the published codes of what keeps us from opening it.
    """

    address: str
    kind: Kind = Kind.NATIVE
    driver: str | None = None
    usb: UsbDevice | None = None
    by_id: str | None = None
    by_path: str | None = None
    access: Access | None = None
    holder: Holder | None = None
    lock: str | None = None
    latency_ms: int | None = None

    @property
    def product(self) -> str | None:
        """What the device reports as its name."""
        return self.usb.product if self.usb else None

    @property
    def may_open(self) -> bool:
        """Whether permission allows it."""
        return self.access is None or self.access.allowed

    @property
    def why_not(self) -> tuple[str, ...]:
        """Codes of what stands in the way."""
        told = []
        if self.access is not None and not self.access.there:
            told.append("gone")
        elif not self.may_open:
            told.append("no-permission")
        if self.holder is not None:
            told.append("held")
        if self.lock is not None:
            told.append("locked")
        return tuple(told)

    @property
    def openable(self) -> bool:
        """Whether nothing stands in the way."""
        return not self.why_not


def list_ports(root: Path = Path("/")) -> list[HostPort]:
    """Ports with hardware behind them: USB first, then native, Bluetooth, the rest; each kind by name."""
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
            address = port.address
            access = look(root, address, me)
            found.append(replace(port, access=access, holder=held.get(address), lock=locks.get(name)))
    order = list(Kind)
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
        kind = Kind.BLUETOOTH
    elif usb is not None:
        kind = Kind.USB
    else:
        kind = Kind.NATIVE if _NATIVE.fullmatch(name) else Kind.VIRTUAL
    latency = text(device / "latency_timer") if usb is not None else None
    return HostPort(
        address=f"/dev/{name}",
        kind=kind,
        driver=_driver(device),
        usb=usb,
        by_id=links["id"].get(name),
        by_path=links["path"].get(name),
        latency_ms=int(latency) if latency and latency.isdecimal() else None,
    )


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
    devices = root / "sys/bus/usb/devices"
    found = []
    try:
        entries = sorted(devices.iterdir())
    except OSError:
        return []
    for entry in entries:
        if ":" in entry.name or entry.name.startswith("usb"):
            continue
        idle = [f for f in _entries(entry) if f.name.startswith(f"{entry.name}:") and _without_port(f)]
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
    for device in sorted(_entries(root / "sys/bus/usb/devices")):
        if ":" in device.name or (text(device / "idVendor"), text(device / "idProduct")) != (f"{vid:04x}", f"{pid:04x}"):
            continue
        for interface in sorted(_entries(device)):
            if interface.name.startswith(f"{device.name}:"):
                found.append(Bound(interface.name, _driver(interface)))
    return found


def _without_port(interface: Path) -> bool:
    """Whether an interface has no driver of the kernel: none, or a program that holds it through usbfs."""
    free = not (interface / "driver").exists() and not any(n.name.startswith("tty") for n in _entries(interface))
    return free or _driver(interface) == "usbfs"


def _entries(folder: Path) -> list[Path]:
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
        for entry in _entries(root / folder):
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
