"""Modbus units on one pair, with registers to read (functions 3 and 4). Two with one address answer at once."""

import struct
from collections.abc import Sequence

from humble_courier.domain.received import Doubt, Heard
from humble_courier.domain.settings import Settings
from humble_courier.protocols.framer import Framer
from humble_courier.protocols.modbus_ascii import ascii_frame, ascii_line
from humble_courier.protocols.modbus_rtu import READ_HOLDING, READ_INPUT, Frames, sound, with_crc
from humble_courier.simulator.devices.behaviour import Behaviour
from humble_courier.simulator.devices.device import Device

NO_CRC = bytes(2)  # where an RTU frame has its check


class ModbusUnits(Device):
    """One or more units; `alike`: an address that two of them have."""

    def __init__(self, how: Behaviour, settings: Settings, alike: int | None = None, think_s: float | None = None) -> None:
        super().__init__()
        self._units, self._registers, self._alike = how.units, how.registers, alike
        self._think_s = how.think_s if think_s is None else think_s
        self._frames, self._others = Frames(settings), b""
        self._second = b""

    def hear(self, t: float, heard: Heard) -> None:
        """A damaged character makes the frame's CRC wrong."""
        self._frames.feed(t, heard.byte if heard.doubt is Doubt.NONE else heard.byte ^ 0xFF)

    def due(self) -> float:
        """When a frame ends, or an answer is ready."""
        return min(self._frames.deadline, self.outbox.due())

    def say(self, t: float) -> bytes:
        """Answers that are due."""
        frame = self._frames.take(t)
        if frame is not None and sound(frame) and frame[0] in self._units:
            self.outbox.put(t + self._think_s, with_crc(self._answer(frame, self._registers)))
            if frame[0] == self._alike:  # the twin has measured something else
                self._second = with_crc(self._answer(frame, [(value * 7 + 13) & 0xFFFF for value in self._registers]))
        ready = self.outbox.take(t)
        self._others = b""
        if ready and self._second:
            self._others, self._second = self._second, b""
        return ready

    def others(self) -> Sequence[bytes]:
        """The twin's answer, once."""
        others, self._others = self._others, b""
        return (others,) if others else ()

    @staticmethod
    def _answer(frame: bytes, registers: list[int]) -> bytes:
        unit, function = frame[0], frame[1]
        if function not in (READ_HOLDING, READ_INPUT) or len(frame) != 8:
            return bytes((unit, function | 0x80, 1))
        first, count = int.from_bytes(frame[2:4], "big"), int.from_bytes(frame[4:6], "big")
        if not 1 <= count <= 125 or first + count > len(registers):
            return bytes((unit, function | 0x80, 2))
        data = b"".join(value.to_bytes(2, "big") for value in registers[first : first + count])
        return bytes((unit, function, len(data))) + data


class ModbusAsciiUnits(ModbusUnits):
    """The same in lines of text, each with a longitudinal check."""

    def __init__(self, how: Behaviour, settings: Settings, alike: int | None = None, think_s: float | None = None) -> None:
        super().__init__(how, settings, alike, think_s)
        self._lines = Framer(ascii_line)

    def hear(self, t: float, heard: Heard) -> None:
        """A damaged character makes the line none."""
        for event in self._lines.feed(bytes((heard.byte if heard.doubt is Doubt.NONE else 0,))):
            if event.kind == "request" and event.fields["unit"] in self._units:
                asked = struct.pack(">BBHH", *(event.fields[key] for key in ("unit", "function", "first", "count")))
                self.outbox.put(t + self._think_s, ascii_frame(self._answer(asked + NO_CRC, self._registers)))

    def due(self) -> float:
        """When an answer is ready."""
        return self.outbox.due()

    def say(self, t: float) -> bytes:
        """Answers that are due."""
        return self.outbox.take(t)
