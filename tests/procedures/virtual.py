"""A port in virtual time on a simulated bench, and devices drawn at random: for searches that would take hours."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from humble_courier.domain.clock import ManualClock
from humble_courier.domain.settings import Frame, Settings
from humble_courier.errors import MachineRefused, Refusal
from humble_courier.port.permit import Permit
from humble_courier.port.port import OpenLines
from humble_courier.procedures.runner import Runner
from humble_courier.simulator.bench import Bench, Wires
from humble_courier.simulator.devices.behaviour import Behaviour, Command, Talk
from humble_courier.simulator.devices.device import Device
from humble_courier.simulator.devices.talkers import TalkingDevice
from humble_courier.simulator.devices.text import TextDevice
from humble_courier.simulator.devices.units import ModbusUnits
from humble_courier.simulator.virtual_port import VirtualPort


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
