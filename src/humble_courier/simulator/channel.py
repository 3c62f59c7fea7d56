"""One direction of a line: bytes go in at one end's settings, characters come out as the other end hears them, in time."""

from dataclasses import dataclass

import numpy as np

from humble_courier.line.marked import Doubt, Heard
from humble_courier.line.uart import Received, receive
from humble_courier.line.wave import FINE, Wave, break_wave, encode
from humble_courier.units.settings import Settings


@dataclass(frozen=True)
class _Stretch:
    """Something sent without a pause, from `start` to `end` seconds."""

    start: float
    end: float
    wave: Wave


class Channel:
    """A conductor from one UART to another, with the settings of both.

    Waves are laid one after the other on the line, the receiver of `line.uart` reads the line, and each character is
    handed out at the time at which its stop bit has been sampled. `connected`: whether the wiring carries it at all.
    """

    def __init__(self, sender: Settings, receiver: Settings, connected: bool = True, inverted: bool = False) -> None:
        self.sender, self.receiver = sender, receiver
        self._connected, self._inverted = connected, inverted
        self._line: list[_Stretch] = []
        self._heard_until = float("-inf")
        self._pending: list[tuple[float, Heard]] | None = None
        self.free_at = float("-inf")

    def send(self, data: bytes, t: float) -> float:
        """Put bytes on the line at `t` seconds or when it is free; returns when the last stop bit ends."""
        bit = 1 / self.sender.rate
        start = max(t, self.free_at)
        wave = encode(data, self.sender, inverted=self._inverted)
        self._lay(start - bit, wave)
        self.free_at = start + wave.seconds - 2 * bit
        return self.free_at

    def send_break(self, seconds: float, t: float) -> float:
        """Hold the line at space for a while."""
        bit = 1 / self.sender.rate
        start = max(t, self.free_at)
        self._lay(start - bit, break_wave(seconds, self.sender))
        self.free_at = start + seconds
        return self.free_at

    def _lay(self, start: float, wave: Wave) -> None:
        if self._connected:
            self._line.append(_Stretch(start, start + wave.seconds, wave))
            self._pending = None

    def set_receiver(self, settings: Settings, t: float) -> None:
        """The receiver is set anew at `t`; a character that is under way is lost to it."""
        if settings != self.receiver:
            self.receiver, self._heard_until = settings, max(self._heard_until, t)
            self._pending = None

    def arrived(self, until: float) -> list[tuple[float, Heard]]:
        """Characters complete at `until`, each with the time of its completion; each is handed out once."""
        pending = self._decoded()
        done = 0
        while done < len(pending) and pending[done][0] <= until:
            done += 1
        heard, self._pending = pending[:done], pending[done:]
        if heard:
            self._heard_until = heard[-1][0]
        # A character begun in a stretch is complete one character time after its end at the latest.
        settled = until - 2 * self.receiver.character_s
        self._line = [s for s in self._line if s.end > settled]
        return heard

    def next_arrival(self) -> float | None:
        """When the next character is complete; None while nothing is on its way."""
        pending = self._decoded()
        return pending[0][0] if pending else None

    def _decoded(self) -> list[tuple[float, Heard]]:
        """What is still to be handed out. Read anew after each change, since a later edge can change what follows."""
        if self._pending is None:
            self._pending = []
            if self._line:
                wave, base = self._joined()
                got = receive(wave, self.receiver, after=max(0.0, self._heard_until - base))
                new = np.flatnonzero(got.ends + base > self._heard_until)
                self._pending = [(float(got.ends[i]) + base, _heard(got, int(i))) for i in new]
        return self._pending

    def _joined(self) -> tuple[Wave, float]:
        """All stretches as one wave, with the time of its begin. The rest between two is laid to 1/16 bit."""
        first = self._line[0]
        rate = FINE * self.sender.rate
        pieces: list[np.ndarray] = []
        at = 0
        for stretch in self._line:
            begin = round((stretch.start - first.start) * rate)
            if begin > at:
                pieces.append(np.ones(begin - at, np.uint8))
            levels = np.repeat(stretch.wave.levels, round(rate / stretch.wave.slot_rate) or 1)
            pieces.append(levels[max(0, at - begin) :])
            at = max(at, begin) + len(pieces[-1])
        return Wave(np.concatenate(pieces), float(rate)), first.start

    def _forget(self, now: float) -> None:
        """Drop what the receiver is through with: a character begun in it would be complete by now."""
        settled = now - 2 * self.receiver.character_s
        self._line = [s for s in self._line if s.end > settled or s.end > self._heard_until + 2 * s.wave.seconds > now]


def _heard(got: Received, i: int) -> Heard:
    if got.breaks[i]:
        return Heard(0, Doubt.BREAK)
    doubtful = bool(got.framing[i] or got.parity[i])
    return Heard(int(got.values[i]), Doubt.ERROR if doubtful else Doubt.NONE)
