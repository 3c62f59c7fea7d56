"""A device that is spoken to in lines of text: echo, prompt, power-up text that a key stops, a buffer that can overflow."""

import re

from humble_courier.domain.received import Doubt, Heard
from humble_courier.domain.settings import Handshake, Settings
from humble_courier.domain.text import XOFF, XON, Terminator
from humble_courier.simulator.devices.behaviour import Behaviour, Command
from humble_courier.simulator.devices.device import Device

LONGEST_LINE = 80  # what its input buffer holds; a longer line is thrown away up to the next terminator


class TextDevice(Device):
    """Lines in, lines out."""

    def __init__(self, how: Behaviour, settings: Settings, think_s: float | None = None) -> None:
        super().__init__()
        self._how, self._end = how, Terminator(how.end).octets
        self._values = {**how.values, "settings": settings.spoken}
        self._think_s = how.think_s if think_s is None else think_s
        self._line, self._fill, self._fill_at = bytearray(), 0.0, 0.0
        self._ready = how.power_up_s
        self._stopped = False
        self._boot_until = how.boot.stop_within_s if how.boot else 0.0
        self._says_stop, self._off = settings.handshake is Handshake.XON_XOFF, False
        self.lost = 0
        if how.power_up:
            at = how.power_up_s if not how.boot else 0.0
            self.outbox.put(at, self._text(how.power_up))
        if how.prompt:
            self.outbox.put(how.power_up_s, how.prompt.encode())

    def _text(self, text: str, n: int = 1) -> bytes:
        return text.format_map({**self._values, "n": f"{n:04d}"}).encode("ascii") + self._end

    def hear(self, t: float, heard: Heard) -> None:
        """A damaged character spoils the line it stands in; nothing is heard before the device is ready."""
        if self._how.boot and t < self._boot_until and not self._stopped:
            self._stopped = True
            self.outbox.clear()
            self.outbox.put(t, self._end + self._how.boot.stopped.encode() + b"> ")
            return
        if t < self._ready or self._stopped or self._overflows(t):
            return
        if self._how.echo and heard.doubt is Doubt.NONE:
            self.outbox.put(t, bytes((heard.byte,)))
        self._line.append(heard.byte if heard.doubt is Doubt.NONE else 0)
        if self._line.endswith(self._end):
            line = bytes(self._line[: -len(self._end)])
            self._line.clear()
            self._answer(t + self._think_s, line)
        elif len(self._line) > LONGEST_LINE:
            del self._line[: -len(self._end)]

    def _overflows(self, t: float) -> bool:
        """A small buffer is emptied at its own pace; what does not fit is lost."""
        if not self._how.buffer:
            return False
        self._drain(t)
        if self._fill >= self._how.buffer:
            self.lost += 1
            if self.lost == 1:
                self.alarms.append((t, "buffer full: characters are lost"))
            return True
        self._fill += 1
        if self._says_stop and not self.ready(t) and not self._off:
            self._off = True
            self.outbox.put(t, bytes((XOFF,)))
        return False

    def due(self) -> float:
        """When the next line is said, or it has room again and says so."""
        if not self._off:
            return self.outbox.due()
        room = self._fill_at + max(0.0, self._fill - 0.25 * self._how.buffer) / self._how.takes_per_s
        return min(self.outbox.due(), room)

    def say(self, t: float) -> bytes:
        """All that is due."""
        if self._off and self.outbox.due() > t:
            self._off = False
            return bytes((XON,))
        return self.outbox.take(t)

    def _drain(self, t: float) -> None:
        self._fill = max(0.0, self._fill - (t - self._fill_at) * self._how.takes_per_s)
        self._fill_at = t

    def ready(self, t: float) -> bool:
        """Not ready from three quarters of the buffer on."""
        if not self._how.buffer:
            return True
        return self._fill - (t - self._fill_at) * self._how.takes_per_s < 0.75 * self._how.buffer

    def _answer(self, t: float, line: bytes) -> None:
        said = line.decode("latin-1").strip(" \n")  # a CR left over is part of the word
        found = next(((c, m) for c in self._how.commands if (m := _matches(c, said))), None)
        if found:
            command, match = found
            self._values |= {name: value.replace("*", (match.groups() or ("",))[0]) for name, value in command.sets.items()}
            answers = [self._text(command.answer, n + 1) for n in range(command.lines)] if command.answer else []
            self.outbox.put(t, b"".join(answers))
        elif said and self._how.unknown:
            self.outbox.put(t, self._text(self._how.unknown))
        if self._how.prompt:
            self.outbox.put(t, self._how.prompt.encode())


def _matches(command: Command, said: str) -> re.Match[str] | None:
    """A command with `*` at its end takes the rest of the line."""
    pattern = re.escape(command.say).replace(r"\*", "(.+)") if command.say.endswith(" *") else re.escape(command.say)
    return re.fullmatch(pattern, said, re.IGNORECASE)
