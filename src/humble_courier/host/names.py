"""Names that stay: a udev rule by serial number or by socket, what each survives, and text that is safe in a rule."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from humble_courier.errors import BadInput
from humble_courier.host.kinds import HostPort

_NAME = re.compile(r"[a-z][a-z0-9-]{0,30}")
_SAFE = re.compile(r"[A-Za-z0-9 ._:/+-]+")


class By(StrEnum):
    """What the name follows."""

    SERIAL = "serial"
    SOCKET = "socket"


SURVIVES = {
    By.SERIAL: "The name follows the adapter into any socket; another adapter of the kind does not get it.",
    By.SOCKET: "The name stays with the socket, whatever is plugged in there; another socket has no name.",
}


@dataclass(frozen=True)
class Rule:
    """A udev rule, the link that it makes, and the command that puts it in place (shown, not run)."""

    text: str
    link: str
    by: By
    survives: str
    commands: tuple[str, ...]


def make_rule(port: HostPort, name: str, by: By | None, others: Sequence[HostPort] = ()) -> Rule:
    """A rule for a port. Without `by`: the serial number where there is one, else the socket.

    Raises BadInput where the name is not plain, the port hangs on no USB, it has no serial number to go by, another
    adapter has the same one, or a string of the device holds what may not stand in a rule.
    """
    if not _NAME.fullmatch(name):
        raise BadInput(f"name “{name}”: expected small letters, digits and hyphens, as in weir-logger")
    usb = port.usb
    if usb is None:
        raise BadInput(f"{port.address} hangs on no USB: its name stays as it is")
    by = by or (By.SERIAL if usb.serial else By.SOCKET)
    keys = ['SUBSYSTEM=="tty"']
    if by is By.SERIAL:
        if not usb.serial:
            raise BadInput(f"{port.address}: this adapter reports no serial number; name it by its socket: --by socket")
        twins = [o.address for o in others if o.address != port.address and _identity(o) == _identity(port)]
        if twins:
            raise BadInput(f"{port.address} and {twins[0]} report the same serial number; name them by socket: --by socket")
        keys += [_key("ATTRS{idVendor}", usb.vid), _key("ATTRS{idProduct}", usb.pid), _key("ATTRS{serial}", usb.serial)]
    else:
        keys.append(_key("KERNELS", usb.path))
    if usb.interface is not None:
        keys.append(_key("ENV{ID_USB_INTERFACE_NUM}", usb.interface))
    text = ", ".join([*keys, f'SYMLINK+="serial-{name}"'])
    file = f"/etc/udev/rules.d/70-serial-{name}.rules"
    commands = (
        f"echo '{text}' | sudo tee {file}",
        "sudo udevadm control --reload",
        f"sudo udevadm trigger --name-match={port.address}",
    )
    return Rule(text, f"/dev/serial-{name}", by, SURVIVES[by], commands)


def _identity(port: HostPort) -> tuple[str | None, ...]:
    usb = port.usb
    return (usb.vid, usb.pid, usb.serial, usb.interface) if usb else (None,)


def _key(key: str, value: str) -> str:
    """One comparison of a rule. A device's string must not end the quotes, hold a pattern, or begin a new rule."""
    if not _SAFE.fullmatch(value):
        raise BadInput(f"the device reports “{value}”, which may not stand in a rule; name it by its socket: --by socket")
    return f'{key}=="{value}"'
