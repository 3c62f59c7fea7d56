"""What a serial port of this machine is: its kind, the USB device behind it, and what keeps us from opening it."""

from dataclasses import dataclass
from enum import StrEnum

from humble_courier.host.access import Access, Holder


class PortKind(StrEnum):
    """Where a port comes from."""

    USB = "usb"
    NATIVE = "native"
    BLUETOOTH = "bluetooth"
    PTY = "pty"
    VIRTUAL = "virtual"
    NETWORK = "network"


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

    `why_not` holds the published codes of what keeps us from opening it. `low_latency` is the driver's flag where the
    kernel shows it; `served` is the program behind a pty.
    """

    address: str
    kind: PortKind = PortKind.NATIVE
    driver: str | None = None
    usb: UsbDevice | None = None
    by_id: str | None = None
    by_path: str | None = None
    access: Access | None = None
    holder: Holder | None = None
    lock: str | None = None
    latency_ms: int | None = None
    low_latency: bool | None = None
    served: Holder | None = None

    @property
    def name(self) -> str:
        """The last part of its address, as the kernel calls it."""
        return self.address.rpartition("/")[2]

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


def number(port: HostPort) -> int | None:
    """The number under which an old program asks for a port: ttyS0 and ttyUSB0 are port 1; None for one without."""
    digits = port.name[len(port.name.rstrip("0123456789")) :]
    return int(digits) + 1 if digits else None
