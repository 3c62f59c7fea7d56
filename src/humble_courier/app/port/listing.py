"""The serial ports of a machine: what each is, who claims it, what keeps us from opening it."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from humble_courier.errors import BadInput
from humble_courier.host.kinds import HostPort, PortKind, UsbDevice, number
from humble_courier.host.ports import list_ports, unclaimed
from humble_courier.host.power import Power, power_of
from humble_courier.host.second_opinion import overlooked

REAL = Path("/")


@dataclass(frozen=True)
class ListedPort:
    """A port with all that stands against opening it, and what its socket gives."""

    port: HostPort
    why_not: tuple[str, ...]
    power: Power | None


def all_ports(root: Path = REAL) -> list[HostPort]:
    """The ports of a machine; of the real one also those that only the serial library names."""
    found = list_ports(root)
    return found + overlooked(found) if root == REAL else found


def openable(root: Path = REAL) -> list[str]:
    """Addresses of the ports that may lead to a device and can be opened: adapters, and ports built in."""
    return [p.address for p in all_ports(root) if p.kind in (PortKind.USB, PortKind.NATIVE) and not p.why_not]


def listed(root: Path = REAL, highest: int | None = None) -> tuple[list[ListedPort], list[UsbDevice]]:
    """The ports, and the devices of which no port comes. `highest`: the last number that an old program accepts.

    Raises BadInput where there is no such folder.
    """
    if not root.is_dir():
        raise BadInput(f"--sysroot {root}: no such folder")
    return [_listed(port, root, highest) for port in all_ports(root)], unclaimed(root)


def _listed(port: HostPort, root: Path, highest: int | None) -> ListedPort:
    too_high = highest is not None and (number(port) or 0) > highest
    return ListedPort(port, (*port.why_not, *(["number-too-high"] if too_high else [])), power_of(port, root))


def usb_document(usb: UsbDevice) -> dict[str, Any]:
    """A USB device in the open format of `ports`."""
    return {
        "vid": usb.vid, "pid": usb.pid, "serial": usb.serial, "manufacturer": usb.manufacturer, "product": usb.product,
        "path": usb.path,
    }  # fmt: skip


def port_document(one: ListedPort) -> dict[str, Any]:
    """A port in the open format of `ports`."""
    p, usb = one.port, one.port.usb
    return {
        "address": p.address,
        "device": p.name,
        "by_id": p.by_id,
        "by_path": p.by_path,
        "kind": p.kind,
        "usb": usb_document(usb) if usb else None,
        "driver": p.driver,
        "openable": not one.why_not,
        "why_not": list(one.why_not),
        "holder": {"pid": p.holder.pid, "program": p.holder.program} if p.holder else None,
        "remedy": p.access.remedy if p.access else "",
        "latency_ms": p.latency_ms,
        "low_latency": p.low_latency,
        "served_by": {"pid": p.served.pid, "program": p.served.program} if p.served else None,
        "max_power_ma": usb.max_power_ma if usb else None,
        "power": _power_document(one.power) if one.power else None,
    }  # fmt: skip


def _power_document(power: Power) -> dict[str, Any]:
    told = {"gives_ma": power.gives_ma, "over_current": power.over_current, "enough": power.enough}
    return {**told, "shared_ma": power.shared_ma, "remedy": power.remedy}


def described(port: HostPort) -> str:
    """A port in one line: address, what claims it, what the device reports of itself."""
    native = port.address.startswith("/dev/ttyS")
    words = [port.address, "built in" if native else f"claimed by {port.driver}" if port.driver else "no driver named"]
    if port.product:
        words.append(f"reports “{port.product}”")
    if not port.may_open:
        words.append("no permission")
    return " · ".join(words)


def choices(root: Path = REAL) -> list[tuple[str, str]]:
    """The ports of a machine to choose from, as (address, description)."""
    return [(port.address, described(port)) for port in list_ports(root)]
