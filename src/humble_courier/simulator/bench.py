"""The simulated bench: a computer's UART, the wiring, a device; moved forward from one moment to the next.

Theory of operation. The bench is a world with three `Channel`s (up to the device, down to the computer, echo of our
own words) and a device. `wiring.paths`, the same model that judges a chain, says what the wiring carries (`Wires`):
which channel is open, and which output drives which input line. Each channel turns characters into levels and levels
into what the other end's receiver makes of them, with its own settings: mismatches garble here as they do in the
window's prediction.

Time only moves when somebody calls `advance(now)`: it goes from event to event (a character has arrived, the device
has something to say, a held-back sender looks again at its handshake line), lets each happen at its own moment, and
returns what the computer's port has received by then, with times. Nothing here reads a clock, so an hour passes in a
moment in tests.
"""

from collections.abc import Collection
from dataclasses import dataclass

from humble_courier.catalog.load import Catalog
from humble_courier.domain.hardware import Part, Port
from humble_courier.domain.received import Heard
from humble_courier.domain.settings import Handshake, Settings
from humble_courier.domain.signals import Direction, Signal
from humble_courier.domain.text import XOFF, XON
from humble_courier.simulator.channel import Channel
from humble_courier.simulator.devices.device import Device
from humble_courier.simulator.faults import INVERTED, faulty_ways, noise_of
from humble_courier.wiring.nets import Chain
from humble_courier.wiring.paths import Paths

LOOK_S = 0.0005  # how soon a sender that was stopped looks again at its handshake line
TIE_S = 1e-9  # two moments within that are one
FIFO = 16  # characters that a device sends before it looks at its handshake line again (16550 family)


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
    def ideal(cls, outputs: Collection[str] = ("RTS", "DTR")) -> "Wires":
        """Everything through as it should be, for a device on its own; `outputs`: its lines, as those of a DTE or a DCE."""
        pairs = {"CTS": "RTS", "DSR": "DTR", "DCD": "DTR"}
        lines = {("computer", into): ("device", into if into in outputs else out) for into, out in pairs.items()}
        there = {**pairs, "RTS": "RTS", "DTR": "DTR"}  # an input may bear the name of the computer's line
        return cls(True, True, False, lines | {("device", into): ("computer", out) for into, out in there.items()})

    @classmethod
    def loop(cls) -> "Wires":
        """A loop-back plug: the computer hears itself, and reads its own lines."""
        lines = {("computer", into): ("computer", out) for into, out in (("CTS", "RTS"), ("DSR", "DTR"), ("DCD", "DTR"))}
        return cls(False, False, True, lines)

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

    def with_faults(self, faults: Collection[str]) -> "Wires":
        """What is left of it."""
        return Wires(*faulty_ways(self.to_device, self.to_computer, self.echo, self.lines, faults))


class Bench:
    """Both ends and what lies between, as a world that is moved forward in time.

    `power_s`: when the device is switched on, in seconds of the caller's clock. Before that it hears and says nothing.
    """

    def __init__(
        self, device: Device, settings: Settings, wires: Wires, signals: dict[str, Signal], power_s: float,
        faults: Collection[str] = (), seed: int = 1,
    ) -> None:  # fmt: skip
        wires = wires.with_faults(faults)
        self.device, self._wires, self._power_s = device, wires, power_s
        self._settings, self._stalls = settings, "stalls" in faults
        self._device_outputs = {s.name.upper() for s in signals.values() if s.direction is Direction.OUT}
        inputs = {s.name.upper() for s in signals.values() if s.direction is Direction.IN}
        # A DCE is held off by the line that the computer drives under its own name: RTS comes in at RTS.
        self._held_off_by = {
            Handshake.RTS_CTS: "RTS" if "RTS" in inputs else "CTS", Handshake.DTR_DSR: "DTR" if "DTR" in inputs else "DSR"
        }  # fmt: skip
        self._computer_lines = {"RTS": False, "DTR": False}
        self._up = Channel(settings, settings, wires.to_device)
        self._down = Channel(settings, settings, wires.to_computer)
        self._echo = Channel(settings, settings, wires.echo)
        for channel in (self._up, self._down):
            channel.disturb(noise_of(faults), bool(INVERTED & set(faults)), seed)
        self._fed_by_lines = "needs-dtr" in faults
        self._waiting: list[tuple[float, bytes]] = []  # bytes the computer's port holds back
        self._device_waiting = bytearray()
        self._stopped_by_xoff = False
        self._looked = self._device_looked = float("-inf")
        self._device_stopped = False
        self.handshake, self.look_s = Handshake.NONE, LOOK_S

    def set_computer(self, settings: Settings, t: float) -> None:
        """The computer's port is opened or set anew."""
        self.handshake = settings.handshake
        self._up.sender = self._echo.sender = settings
        self._down.set_receiver(settings, t)
        self._echo.set_receiver(settings, t)
        if not self.device.own_rate:  # an adapter on USB: the serial settings mean nothing to it
            self._settings = self._down.sender = settings
            self._up.set_receiver(settings, t)

    def set_line(self, name: str, on: bool, t: float) -> None:
        """The computer sets RTS or DTR."""
        self._computer_lines[name] = on
        for (who, into), driver in self._wires.lines.items():
            if who == "device" and driver == ("computer", name) and t >= self._power_s:
                self.device.set_line(t - self._power_s, into, on)

    @property
    def device_rate(self) -> int:
        """The rate at which the device is set."""
        return self._settings.rate

    @property
    def alarms(self) -> list[str]:
        """What our presence has done at the device, oldest first."""
        return [text for _, text in self.device.alarms]

    def line(self, name: str, t: float, who: str = "computer") -> bool:
        """State of an input line at one end: on where something drives it on. An open input reads off."""
        driver = self._wires.lines.get((who, name))
        if driver is None:
            return False
        if driver[0] == "computer":
            return self._computer_lines.get(driver[1], False)
        if driver[1] not in self._device_outputs or t < self._power_s:
            return False
        flow = driver[1] in ("RTS", "CTS")
        return not flow or (not self._stalls and self.device.ready(t - self._power_s))

    def unplugged(self, t: float) -> None:
        """The plug is pulled, or the port closed."""
        if t >= self._power_s:
            self.device.unplugged(t - self._power_s)

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

    def take_back(self) -> None:
        """Throw away what the handshake holds back."""
        self._waiting.clear()

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
        """Send what waits. Under a handshake a character at a time, since the other end may say stop at any moment."""
        self._looked = t
        if not self._waiting or not self._may_send(t):
            return
        if self.handshake is Handshake.NONE:
            for at, data in self._waiting:
                self._up.send(data, at)
                self._echo.send(data, at)
            self._waiting.clear()
        elif t >= self._up.free_at - TIE_S:
            at, data = self._waiting.pop(0)
            if data[1:]:
                self._waiting.insert(0, (at, data[1:]))
            self._up.send(data[:1], t)
            self._echo.send(data[:1], t)

    def advance(self, now: float) -> list[tuple[float, Heard]]:
        """Let everything happen up to `now`; returns what the computer's port received, with times."""
        received: list[tuple[float, Heard]] = []
        while (moment := self.next_event()) is not None and moment <= now:
            self._happens(moment)
            received += self._received(moment)
        self._device_sends(now)
        self._release(now)
        return received + self._received(now)

    def _happens(self, moment: float) -> None:
        for t, heard in self._up.arrived(moment):
            if self._alive(t) and not self._stops_device(heard):
                self.device.hear(t - self._power_s, heard)
        due = self.device.due()
        if self._power_s + due <= moment:
            # not the moment: it was rounded on the way here and back
            said = self.device.say(due) if self._alive(moment) else self._unheard(due)
            if said in (bytes((XON,)), bytes((XOFF,))):
                self._device_waiting[:0] = said  # stop and go pass by what waits
            else:
                self._device_waiting += said
        self._device_sends(moment)
        for other in self.device.others():
            self._down.send_over(other, moment)
        self._release(moment)

    def _alive(self, t: float) -> bool:
        """Whether the device has power, and its port too where the computer's lines feed it."""
        return t >= self._power_s and (not self._fed_by_lines or any(self._computer_lines.values()))

    def _unheard(self, due: float) -> bytes:
        self.device.say(due)
        return b""

    def _received(self, until: float) -> list[tuple[float, Heard]]:
        came = sorted(self._down.arrived(until) + self._echo.arrived(until), key=lambda pair: pair[0])
        return [pair for pair in came if not self._flow_byte(pair[1])]

    def _device_sends(self, t: float) -> None:
        self._device_looked = t
        wants_line = self._held_off_by.get(self._settings.handshake)
        may = not self._device_stopped and (wants_line is None or self.line(wants_line, t, "device"))
        if not self._device_waiting or not may:
            return
        many = len(self._device_waiting)
        if self._settings.handshake is not Handshake.NONE:
            many = FIFO if t >= self._down.free_at - TIE_S else 0
        self._down.send(bytes(self._device_waiting[:many]), t) if many else None
        del self._device_waiting[:many]

    def _stops_device(self, heard: Heard) -> bool:
        """Whether a byte is one by which the computer stops the device or lets it go on."""
        if self._settings.handshake is not Handshake.XON_XOFF or heard.byte not in (XON, XOFF):
            return False
        self._device_stopped = heard.byte == XOFF
        return True

    def _flow_byte(self, heard: Heard) -> bool:
        if self.handshake is not Handshake.XON_XOFF or heard.byte not in (XON, XOFF):
            return False
        self._stopped_by_xoff = heard.byte == XOFF
        return True

    def _device_moment(self) -> float:
        """When something happens at the device's end next, or a sender that waits for a handshake looks again."""
        moments = [self._power_s + self.device.due(), self._up.next_arrival() or float("inf")]
        if self._waiting and self.handshake is not Handshake.NONE:
            moments.append(max(self._up.free_at, self._looked + self.look_s))
        if self._device_waiting and self._settings.handshake is not Handshake.NONE:
            moments.append(max(self._down.free_at, self._device_looked + self.look_s))
        return min(moments)

    def next_event(self) -> float | None:
        """When something can happen that the computer would notice."""
        found = [
            self._device_moment(),
            *(m for m in (self._down.next_arrival(), self._echo.next_arrival()) if m is not None),
        ]
        return min(found) if min(found) != float("inf") else None
