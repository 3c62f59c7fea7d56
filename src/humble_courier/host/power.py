"""Power on USB: what an adapter asks for, what its hub can give, and whether that is enough."""

from dataclasses import dataclass
from pathlib import Path

from humble_courier.host.ports import HostPort, text

BUS_POWERED_MA, USB2_MA, USB3_MA = 100, 500, 900  # USB 2.0 clause 7.2.1, USB 3.2 clause 11.4.1 (from memory)
SELF_POWERED = 0x40  # bmAttributes, USB 2.0 table 9-10 (from memory)


@dataclass(frozen=True)
class Power:
    """Milliamperes asked for and given; `over_current` how often the socket was switched off, where the kernel counts."""

    asks_ma: int | None
    gives_ma: int
    hub: str
    over_current: int

    @property
    def enough(self) -> bool:
        """Whether the socket gives what is asked for and has not been switched off for too much."""
        return (self.asks_ma or 0) <= self.gives_ma and not self.over_current

    @property
    def story(self) -> str:
        """The state in words, with the remedy where there is one."""
        asks = f"asks for {self.asks_ma} mA" if self.asks_ma is not None else "does not say what it asks for"
        told = f"The adapter {asks}; {self.hub} gives {self.gives_ma} mA."
        if self.over_current:
            told += f" The socket was switched off {self.over_current} times for too much current."
        return told if self.enough else told + " Use a hub with its own supply, or a socket of the computer itself."


def power_of(port: HostPort, root: Path = Path("/")) -> Power | None:
    """The power of a port's USB device; None for a port without USB."""
    if port.usb is None:
        return None
    devices = root / "sys/bus/usb/devices"
    path = port.usb.path
    speed = float(text(devices / path / "speed") or 0)
    full = USB3_MA if speed >= 5000 else USB2_MA
    parent = path.rpartition(".")[0] if "." in path else ""
    socket = path.rpartition(".")[2] if parent else path.rpartition("-")[2]
    bus = path.partition("-")[0]
    hub = parent or f"usb{bus}"
    counter = text(devices / hub / f"{parent or f'{bus}-0'}:1.0" / f"{hub}-port{socket}" / "over_current_count")
    count = int(counter) if counter and counter.isdecimal() else 0
    if not parent:
        return Power(port.usb.max_power_ma, full, "the socket of the computer", count)
    attributes = text(devices / parent / "bmAttributes") or "0"
    own = int(attributes, 16) & SELF_POWERED if all(c in "0123456789abcdefABCDEF" for c in attributes) else 0
    name = "the hub with its own supply" if own else "the hub without a supply of its own"
    return Power(port.usb.max_power_ma, full if own else BUS_POWERED_MA, name, count)
