"""Simulated devices as machines: fed characters and times, they say what they send and when."""

import re
from pathlib import Path
from typing import Literal, Protocol

from humble_courier.catalog.models import Strict, Text
from humble_courier.catalog.strict import convert, parse, read_text
from humble_courier.errors import BadInput
from humble_courier.line.marked import Doubt, Heard
from humble_courier.protocols.lines import End
from humble_courier.protocols.modbus_rtu import READ_HOLDING, READ_INPUT, Frames, sound, with_crc
from humble_courier.units.settings import Settings

DATA = Path(__file__).parent / "data"
NEVER = float("inf")


class Command(Strict, frozen=True):
    """A command of a text device and its answer; `{name}` in the answer takes a value of the behaviour."""

    say: Text
    answer: Text


class Behaviour(Strict, frozen=True, kw_only=True):
    """How a simulated device behaves, in data (`data/ID.yaml`)."""

    kind: Literal["text", "modbus-rtu"]
    source: Text
    end: Literal["cr", "lf", "crlf"] = "crlf"
    echo: bool = False
    power_up: str | None = None
    power_up_s: float = 0.0
    think_s: float = 0.0
    commands: list[Command] = []
    unknown: str | None = None
    values: dict[str, str] = {}
    units: list[int] = []
    registers: list[int] = []


def behaviour(device: str) -> Behaviour:
    """The behaviour of a simulated device; raises BadInput where there is none."""
    path = DATA / f"{device}.yaml"
    known = sorted(file.stem for file in DATA.glob("*.yaml"))
    if device not in known:
        raise BadInput(f"no simulated device “{device}”: known are {', '.join(known)}")
    return convert(parse(read_text(path), str(path)), Behaviour)


class Machine(Protocol):
    """A device without a line: characters in, bytes out at a time."""

    def hear(self, t: float, heard: Heard) -> None:
        """A character, complete at `t` seconds after power-up."""

    def due(self) -> float:
        """When it next wants to say something; infinity for not at all."""

    def say(self, t: float) -> bytes:
        """What it says at `t`; empty where nothing is due."""


def machine(device: str, settings: Settings) -> Machine:
    """A simulated device by id, fresh from power-up at time 0."""
    how = behaviour(device)
    return TextMachine(how, settings) if how.kind == "text" else ModbusMachine(how, settings)


class TextMachine:
    """A device that is spoken to in lines of text."""

    LONGEST_LINE = 80  # what its input buffer holds; a longer line is thrown away up to the next terminator

    def __init__(self, how: Behaviour, settings: Settings) -> None:
        self._how, self._end = how, End(how.end).octets
        self._values = {**how.values, "settings": settings.spoken}
        self._line = bytearray()
        self._outbox: list[tuple[float, bytes]] = []
        self._ready = how.power_up_s
        if how.power_up:
            self._outbox.append((how.power_up_s, self._text(how.power_up)))

    def _text(self, text: str) -> bytes:
        return text.format_map(self._values).encode("ascii") + self._end

    def hear(self, t: float, heard: Heard) -> None:
        """A damaged character spoils the line it stands in; nothing is heard before the device is ready."""
        if t < self._ready:
            return
        if self._how.echo and heard.doubt is Doubt.NONE:
            self._outbox.append((t, bytes((heard.byte,))))
        self._line.append(heard.byte if heard.doubt is Doubt.NONE else 0)
        if self._line.endswith(self._end):
            line = bytes(self._line[: -len(self._end)])
            self._line.clear()
            self._answer(t + self._how.think_s, line)
        elif len(self._line) > self.LONGEST_LINE:
            del self._line[: -len(self._end)]

    def _answer(self, t: float, line: bytes) -> None:
        said = line.decode("latin-1").strip()
        for command in self._how.commands:
            if re.fullmatch(re.escape(command.say), said, re.IGNORECASE):
                self._outbox.append((t, self._text(command.answer)))
                return
        if said and self._how.unknown:
            self._outbox.append((t, self._text(self._how.unknown)))

    def due(self) -> float:
        """Time of the first line that waits."""
        return min((t for t, _ in self._outbox), default=NEVER)

    def say(self, t: float) -> bytes:
        """All lines that are due."""
        ready = b"".join(data for at, data in self._outbox if at <= t)
        self._outbox = [(at, data) for at, data in self._outbox if at > t]
        return ready


class ModbusMachine:
    """One or more Modbus RTU units with registers to read (functions 3 and 4)."""

    def __init__(self, how: Behaviour, settings: Settings) -> None:
        self._units, self._registers, self._think_s = how.units, how.registers, how.think_s
        self._frames = Frames(settings)
        self._outbox: list[tuple[float, bytes]] = []

    def hear(self, t: float, heard: Heard) -> None:
        """A damaged character makes the frame's CRC wrong."""
        self._frames.feed(t, heard.byte if heard.doubt is Doubt.NONE else heard.byte ^ 0xFF)

    def due(self) -> float:
        """When a frame ends, or an answer is ready."""
        return min(self._frames.deadline, min((t for t, _ in self._outbox), default=NEVER))

    def say(self, t: float) -> bytes:
        """Answers that are due."""
        frame = self._frames.take(t)
        if frame is not None and sound(frame) and frame[0] in self._units:
            self._outbox.append((t + self._think_s, with_crc(self._answer(frame))))
        ready = b"".join(data for at, data in self._outbox if at <= t)
        self._outbox = [(at, data) for at, data in self._outbox if at > t]
        return ready

    def _answer(self, frame: bytes) -> bytes:
        unit, function = frame[0], frame[1]
        if function not in (READ_HOLDING, READ_INPUT) or len(frame) != 8:
            return bytes((unit, function | 0x80, 1))
        first, count = int.from_bytes(frame[2:4], "big"), int.from_bytes(frame[4:6], "big")
        if not 1 <= count <= 125 or first + count > len(self._registers):
            return bytes((unit, function | 0x80, 2))
        data = b"".join(value.to_bytes(2, "big") for value in self._registers[first : first + count])
        return bytes((unit, function, len(data))) + data
