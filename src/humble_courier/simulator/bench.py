"""The simulated bench: a computer's UART, the wiring, a device; moved forward from one moment to the next."""

from dataclasses import dataclass

from humble_courier.catalog.load import Catalog
from humble_courier.line.marked import Heard
from humble_courier.simulator.channel import Channel
from humble_courier.simulator.machines import Machine
from humble_courier.units.hardware import Part, Port
from humble_courier.units.settings import Handshake, Settings
from humble_courier.units.signals import Direction, Signal
from humble_courier.wiring.nets import Chain
from humble_courier.wiring.paths import Paths

OUTPUTS = ("RTS", "DTR")  # lines that the computer sets; the rest it reads
XON, XOFF = 0x11, 0x13


@dataclass(frozen=True)
class Wires:
    """What the wiring carries between the two ports that face each other.

    `lines`: for each input line of one end (`computer CTS`) the line that drives it (`device RTS`).
    """

    to_device: bool
    to_computer: bool
    echo: bool
    lines: dict[tuple[str, str], tuple[str, str]]

    @classmethod
    def ideal(cls) -> "Wires":
        """Everything through and crossed as it should be, for a device on its own."""
        pairs = {"CTS": "RTS", "DSR": "DTR", "DCD": "DTR"}
        lines = {
            (a, into): (b, out) for a, b in (("computer", "device"), ("device", "computer")) for into, out in pairs.items()
        }
        return cls(True, True, False, lines)

    @classmethod
    def of(cls, catalog: Catalog, computer: Port, parts: tuple[Part, ...], device: Port) -> "Wires":
        """What `wiring.paths` says of this chain; the adapter's side counts as the computer's."""
        paths = Paths(Chain(computer, parts, device), catalog.levels)
        segment = paths.segments[-1]
        before = all(paths.mates(s) and paths.hears(s, s.far) and paths.hears(s, s.near) for s in paths.segments[:-1])
        near = before and paths.hears(segment, segment.near)
        far = before and paths.hears(segment, segment.far)
        lines = {}
        for key, who in ((segment.near, "computer"), (segment.far, "device")):
            for spot, signal in paths.signals(key):
                found = paths.source(spot, signal) if signal.direction is Direction.IN else None
                if found and before and paths.mates(segment):
                    driver = "computer" if (found[0].node, found[0].end) == segment.near else "device"
                    lines[(who, signal.name.upper())] = (driver, found[1].name.upper())
        return cls(far, near, before and paths.hears_itself(segment.near), lines)


class Bench:
    """Both ends and what lies between, as a world that is moved forward in time.

    `power_s`: when the device is switched on, in seconds of the caller's clock. Before that it hears and says nothing.
    """

    def __init__(self, machine: Machine, device: Settings, wires: Wires, signals: dict[str, Signal], power_s: float) -> None:
        self._machine, self._wires, self._power_s = machine, wires, power_s
        self._device = device
        self._device_outputs = {s.name.upper() for s in signals.values() if s.direction is Direction.OUT}
        self._computer_lines = {"RTS": False, "DTR": False}
        self._up = Channel(device, device, wires.to_device)
        self._down = Channel(device, device, wires.to_computer)
        self._echo = Channel(device, device, wires.echo)
        self._waiting: list[tuple[float, bytes]] = []  # bytes the computer's port holds back
        self._device_waiting = bytearray()
        self._stopped_by_xoff = False
        self.handshake = Handshake.NONE

    def set_computer(self, settings: Settings, t: float) -> None:
        """The computer's port is opened or set anew."""
        self.handshake = settings.handshake
        self._up.sender = self._echo.sender = settings
        self._down.set_receiver(settings, t)
        self._echo.set_receiver(settings, t)

    def set_line(self, name: str, on: bool) -> None:
        """The computer sets RTS or DTR."""
        self._computer_lines[name] = on

    def line(self, name: str, t: float, who: str = "computer") -> bool:
        """State of an input line at one end: on where something drives it on. An open input reads off."""
        driver = self._wires.lines.get((who, name))
        if driver is None:
            return False
        if driver[0] == "computer":
            return self._computer_lines.get(driver[1], False)
        return driver[1] in self._device_outputs and t >= self._power_s

    def write(self, data: bytes, t: float) -> None:
        """The computer's program writes; the port sends when the handshake lets it."""
        self._waiting.append((t, data))
        self._release(t)

    def send_break(self, seconds: float, t: float) -> None:
        """The computer's port sends a break."""
        self._up.send_break(seconds, t)
        self._echo.send_break(seconds, t)

    @property
    def held_back(self) -> int:
        """Bytes that wait in the computer's port for the handshake."""
        return sum(len(data) for _, data in self._waiting)

    def busy_until(self) -> float:
        """When all that was released has left the computer's port."""
        return self._up.free_at

    def _may_send(self, t: float) -> bool:
        if self.handshake is Handshake.RTS_CTS:
            return self.line("CTS", t)
        if self.handshake is Handshake.DTR_DSR:
            return self.line("DSR", t)
        return not (self.handshake is Handshake.XON_XOFF and self._stopped_by_xoff)

    def _release(self, t: float) -> None:
        if self._waiting and self._may_send(t):
            for at, data in self._waiting:
                self._up.send(data, max(at, t) if at < t else at)
                self._echo.send(data, max(at, t) if at < t else at)
            self._waiting.clear()

    def advance(self, now: float) -> list[tuple[float, Heard]]:
        """Let everything happen up to `now`; returns what the computer's port received, with times."""
        while (moment := self._next_moment()) is not None and moment <= now:
            for t, heard in self._up.arrived(moment):
                if t >= self._power_s:
                    self._machine.hear(t - self._power_s, heard)
            due = self._machine.due()
            if self._power_s + due <= moment:
                self._device_waiting += self._machine.say(due)  # not the moment: it was rounded on the way here and back
            self._device_sends(moment)
        self._device_sends(now)
        received = sorted(self._down.arrived(now) + self._echo.arrived(now), key=lambda pair: pair[0])
        data = [pair for pair in received if not self._flow_byte(pair[1])]
        self._release(now)
        return data

    def _device_sends(self, t: float) -> None:
        wants_line = {Handshake.RTS_CTS: "CTS", Handshake.DTR_DSR: "DSR"}.get(self._device.handshake)
        if self._device_waiting and (wants_line is None or self.line(wants_line, t, "device")):
            self._down.send(bytes(self._device_waiting), t)
            self._device_waiting.clear()

    def _flow_byte(self, heard: Heard) -> bool:
        if self.handshake is not Handshake.XON_XOFF or heard.byte not in (XON, XOFF):
            return False
        self._stopped_by_xoff = heard.byte == XOFF
        return True

    def _next_moment(self) -> float | None:
        """When something happens at the device's end next."""
        moments = [m for m in (self._up.next_arrival(), self._power_s + self._machine.due()) if m is not None]
        return min(moments) if moments else None

    def next_event(self) -> float | None:
        """When something can happen that the computer would notice."""
        found = [m for m in (self._next_moment(), self._down.next_arrival(), self._echo.next_arrival()) if m is not None]
        return min(found) if found and min(found) != float("inf") else None
