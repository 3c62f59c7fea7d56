"""Power on USB: what an adapter asks for, what its hub can give, what its neighbours take, and what the answer is."""

from dataclasses import dataclass
from pathlib import Path

from humble_courier.host.kinds import HostPort
from humble_courier.host.ports import entries, text

BUS_POWERED_MA, USB2_MA, USB3_MA = 100, 500, 900  # USB 2.0 clause 7.2.1, USB 3.2 clause 11.4.1 (from memory)
USB3_BUS_POWERED_MA = 150  # USB 3.2 clause 11.4.1 (from memory)
SELF_POWERED = 0x40  # bmAttributes, USB 2.0 table 9-10 (from memory)
SUPERSPEED = 5000  # Mbit/s in the attribute `speed`


@dataclass(frozen=True)
class Power:
    """Milliamperes asked for and given. `shared_ma` is what all devices of a hub without a supply ask for together, of
    `upstream_ma`; `over_current` counts how often the socket was switched off, where the kernel counts.
    """

    asks_ma: int | None
    gives_ma: int
    hub: str
    over_current: int
    shared_ma: int = 0
    upstream_ma: int = USB2_MA
    chained: bool = False

    @property
    def enough(self) -> bool:
        """Whether the socket gives what is asked for, its hub what all ask for, and nothing has been switched off."""
        own = (self.asks_ma or 0) <= self.gives_ma and not self.over_current
        return own and self.shared_ma <= self.upstream_ma and not self.chained

    @property
    def remedy(self) -> str:
        """What to do; empty where it is enough."""
        if self.enough:
            return ""
        if self.chained:
            return "Plug the second hub into the computer itself, or use one with its own supply."
        if (self.asks_ma or 0) > USB3_MA:
            return "It needs its own supply, or a second plug that only brings power."
        if self.gives_ma >= USB2_MA and (self.asks_ma or 0) > self.gives_ma:
            return "Use a blue (USB 3) socket, a hub with its own supply, or a second plug that only brings power."
        return "Use a hub with its own supply, or a socket of the computer itself."

    @property
    def story(self) -> str:
        """The state in words, with the remedy where there is one."""
        asks = f"asks for {self.asks_ma} mA" if self.asks_ma is not None else "does not say what it asks for"
        told = f"The adapter {asks}; {self.hub} gives {self.gives_ma} mA."
        if self.shared_ma > self.upstream_ma:
            told += f" All devices of this hub together ask for {self.shared_ma} mA of {self.upstream_ma}."
        if self.chained:
            told += " That hub hangs on another hub without a supply, which has too little for it."
        if self.over_current:
            told += f" The socket was switched off {self.over_current} times for too much current."
        return f"{told} {self.remedy}".rstrip()


def power_of(port: HostPort, root: Path = Path("/")) -> Power | None:
    """The power of a port's USB device; None for a port without USB."""
    if port.usb is None:
        return None
    devices = root / "sys/bus/usb/devices"
    path = port.usb.path
    fast = float(text(devices / path / "speed") or 0) >= SUPERSPEED
    full = USB3_MA if fast else USB2_MA
    parent = path.rpartition(".")[0]
    count = _over_current(devices, path, parent)
    if not parent:
        return Power(port.usb.max_power_ma, full, "the socket of the computer", count)
    if _own_supply(devices, parent):
        return Power(port.usb.max_power_ma, full, "the hub with its own supply", count)
    above = parent.rpartition(".")[0]
    chained = bool(above) and not _own_supply(devices, above)
    gives = USB3_BUS_POWERED_MA if fast else BUS_POWERED_MA
    shared = sum(_asks(e) for e in entries(devices) if e.name.startswith(f"{parent}.") and _child(e.name, parent))
    name = "the hub without a supply of its own"
    return Power(port.usb.max_power_ma, gives, name, count, shared + _asks(devices / parent), full, chained)


def _child(name: str, parent: str) -> bool:
    return name.removeprefix(f"{parent}.").isdecimal()


def _asks(device: Path) -> int:
    """What a device asks for, in mA (`bMaxPower`, as in `100mA`)."""
    told = (text(device / "bMaxPower") or "").removesuffix("mA")
    return int(told) if told.isdecimal() else 0


def _own_supply(devices: Path, hub: str) -> bool:
    attributes = text(devices / hub / "bmAttributes") or "0"
    return bool(int(attributes, 16) & SELF_POWERED) if all(c in "0123456789abcdefABCDEF" for c in attributes) else False


def _over_current(devices: Path, path: str, parent: str) -> int:
    """How often the socket was switched off: `over_current_count` of its hub's port (drivers/usb/core/port.c)."""
    socket = path.rpartition(".")[2] if parent else path.rpartition("-")[2]
    bus = path.partition("-")[0]
    hub, interface = (parent, f"{parent}:1.0") if parent else (f"usb{bus}", f"{bus}-0:1.0")
    counter = text(devices / hub / interface / f"{hub}-port{socket}" / "over_current_count")
    return int(counter) if counter and counter.isdecimal() else 0
