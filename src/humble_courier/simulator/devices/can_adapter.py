"""An ASCII CAN adapter on a vehicle's bus: opened and set by short lines, then it hands over what it hears."""

from humble_courier.domain.received import Heard
from humble_courier.protocols.slcan import RATES, CanFrame, read
from humble_courier.simulator.devices.behaviour import Behaviour
from humble_courier.simulator.devices.device import NEVER, Device

YES, NO = b"\r", b"\x07"


class CanAdapter(Device):
    """The adapter and the bus behind it. At another rate than the bus it hears nothing, and opened to send it disturbs."""

    own_rate = False

    def __init__(self, how: Behaviour, key_on: bool = True) -> None:
        super().__init__()
        self._how, self._key_on = how, key_on
        self._line = bytearray()
        self._step: int | None = None
        self._open = ""
        self._next = [NEVER for _ in how.talks]

    def hear(self, t: float, heard: Heard) -> None:
        """Characters of a line that ends with CR."""
        if heard.byte != 0x0D:
            self._line.append(heard.byte)
            del self._line[:-64]
            return
        line, self._line = bytes(self._line).decode("latin-1"), bytearray()
        self.outbox.put(t, self._answer(t, line))

    def _answer(self, t: float, line: str) -> bytes:
        if line == "":
            return YES
        match line[0]:
            case "V":
                return b"V1013\r"
            case "N":
                return b"NSKC4\r"
            case "S" if line[1:] in set(map(str, range(9))) and not self._open:
                self._step = int(line[1:])
                return YES
            case "C":
                self._open, self._next = "", [NEVER for _ in self._next]
                return YES
            case "O" | "L" if self._step is not None and not self._open:
                self._begin(t, line[0])
                return YES
            case "t" | "T" | "r" | "R" if self._open == "O" and read(line.encode()):
                self.alarms.append((t, "a frame was sent on the vehicle's bus"))
                return (b"z" if line[0] in "tr" else b"Z") + YES
        return NO

    def _begin(self, t: float, how: str) -> None:
        self._open = how
        if self._key_on and self._step == RATES.get(self._how.rate):
            self._next = [t + 0.05 + 0.011 * i for i, _ in enumerate(self._how.talks)]
        elif how == "O":
            self.alarms.append((t, "opened to send at a wrong rate: the bus is disturbed"))

    def due(self) -> float:
        """When the next frame is heard, or an answer is ready."""
        return min([self.outbox.due(), *self._next])

    def say(self, t: float) -> bytes:
        """Answers and frames that are due."""
        made = self.outbox.take(t)
        for i, talk in enumerate(self._how.talks):
            if self._next[i] <= t:
                identifier, data = talk.hex.split(" ", 1)
                made += CanFrame(int(identifier, 16), len(identifier) == 8, bytes.fromhex(data)).line()
                self._next[i] += talk.every_s
        return made
