"""A port in virtual time on a simulated bench, and devices drawn at random: for searches that would take hours."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from humble_courier.domain.clock import ManualClock
from humble_courier.domain.lines import Lines
from humble_courier.domain.settings import Frame, Settings
from humble_courier.errors import MachineRefused, Refusal
from humble_courier.line.marked import stuff
from humble_courier.port.permit import Permit, checked
from humble_courier.port.port import OpenLines
from humble_courier.procedures.runner import Runner
from humble_courier.simulator.bench import Bench, Wires
from humble_courier.simulator.devices.behaviour import Behaviour, Command, Talk
from humble_courier.simulator.devices.device import Device
from humble_courier.simulator.devices.talkers import TalkingDevice
from humble_courier.simulator.devices.text import TextDevice
from humble_courier.simulator.devices.units import ModbusUnits

READ_S = 0.02


class VirtualPort:
    """What `Runner` needs of a port, on a bench with a clock of its own."""

    marked = True

    def __init__(
        self, bench: Bench, clock: ManualClock, address: str, one_pair: bool = False, deaf_beyond: float = 0.0
    ) -> None:
        """`one_pair`: what comes in while we send is lost. `deaf_beyond`: a ratio of rates from
        which on the device makes nothing of what comes: it is left out, as hearing it would take a while."""
        self._bench, self._clock, self.address = bench, clock, address
        self._one_pair, self._sending, self._character_s = one_pair, (0.0, 0.0), 0.001
        self._deaf_beyond, self._rate = deaf_beyond, 0

    def read(self, within_s: float = READ_S) -> bytes:
        event = self._bench.next_event()
        until = self._clock.now() + min(within_s, READ_S)
        self._clock.wait(until if event is None else min(until, max(event, self._clock.now())))
        begin, end = self._sending
        came = self._bench.advance(self._clock.now())
        deaf = self._one_pair
        return stuff([one for t, one in came if not (deaf and begin < t < end + self._character_s)])

    def write(self, data: bytes, permit: Permit | None, within_s: float) -> None:
        checked(permit)
        now = self._clock.now()
        ratio = self._rate / self._bench.device_rate
        if self._deaf_beyond and max(ratio, 1 / ratio) > self._deaf_beyond:
            return
        self._bench.write(data, now)
        self._sending = (now, self._bench.busy_until())

    def set(self, settings: Settings) -> None:
        self._bench.set_computer(settings, self._clock.now())
        self._character_s, self._rate = settings.character_s, settings.rate

    def forget(self) -> None:
        self._bench.advance(self._clock.now())

    def send_break(self, seconds: float, permit: Permit | None) -> None:
        checked(permit)
        self._bench.send_break(seconds, self._clock.now())
        self._clock.wait(self._clock.now() + seconds)

    def set_lines(self, dtr: bool, rts: bool, permit: Permit | None) -> None:
        checked(permit)
        self._bench.set_line("DTR", dtr, self._clock.now())
        self._bench.set_line("RTS", rts, self._clock.now())

    def lines(self) -> Lines:
        at = self._clock.now()
        return Lines(None, None, *(self._bench.line(name, at) for name in ("CTS", "DSR", "DCD", "RI")))

    def close(self) -> int:
        return 0


def runner(
    devices: dict[str, tuple[Device, Settings]], clock: ManualClock, wires: Wires | None = None, armed: bool = True,
    one_pair: bool = False, deaf_beyond: float = 0.0,
) -> Runner:  # fmt: skip
    """A runner over benches in virtual time; an address without a device is no port."""
    benches = {a: Bench(d, s, wires or Wires.ideal(), {}, clock.now() - 60.0) for a, (d, s) in devices.items()}
    for bench in benches.values():
        bench.set_computer(Settings(9600), clock.now())
        bench.advance(clock.now())

    def opens(address: str, settings: Settings, lines: OpenLines) -> VirtualPort:
        if address not in benches:
            raise MachineRefused(f"there is no port {address}", "Plug the adapter in", code=Refusal.ABSENT)
        port = VirtualPort(benches[address], clock, address, one_pair, deaf_beyond)
        port.set(settings)
        return port

    return Runner(clock=clock, opens=opens, permit=Permit("the words of a test") if armed else None)  # type: ignore[arg-type]


@dataclass(frozen=True)
class Drawn:
    """A device drawn at random."""

    kind: str
    settings: Settings
    device: Device
    unit: int | None = None


ENDS = ("cr", "lf", "crlf")


def drawn(random: np.random.Generator, shares: Callable[[], tuple[int, str]]) -> Drawn:
    """A text device (half of them), a talker, or Modbus units; settings from `shares`."""
    rate, frame = shares()
    kind = str(random.choice(["text", "text", "talker", "modbus"]))
    think = float(random.uniform(0.01, 0.25))
    if kind == "modbus":
        frame = str(random.choice(["8E1", "8N1", "8O1"], p=[0.5, 0.4, 0.1]))
        settings, unit = Settings(rate, Frame.parse(frame)), int(random.integers(1, 11))
        how = Behaviour(protocol="modbus-rtu", source="invented", units=[unit], registers=[1, 2, 3], think_s=think / 5)
        return Drawn(kind, settings, ModbusUnits(how, settings), unit)
    settings = Settings(rate, Frame.parse(frame))
    if kind == "talker":
        talk = Talk(every_s=float(random.uniform(0.3, 1.4)), text="LEVEL {n} 1.284 M TEMP 4.5 C\r\n")
        return Drawn(kind, settings, TalkingDevice(Behaviour(protocol="nmea-0183", source="invented", talks=[talk])))
    end, echo = str(random.choice(ENDS)), bool(random.random() < 0.3)
    commands = [Command("*IDN?", "SKERROW WORKSHOP,METER,17,1.0")] if random.random() < 0.5 else []
    how = Behaviour(
        protocol="text", source="invented", end=end, echo=echo, think_s=think, commands=commands, unknown="ERR 04 UNKNOWN"
    )  # type: ignore[arg-type]
    return Drawn(kind, settings, TextDevice(how, settings))
