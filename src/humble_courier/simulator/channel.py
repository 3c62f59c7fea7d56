"""One direction of a line: bytes go in at one end's settings, characters come out as the other end hears them, in time."""

from dataclasses import dataclass

import numpy as np

from humble_courier.domain.received import Doubt, Heard
from humble_courier.domain.settings import Settings
from humble_courier.line.uart import TICKS, Received, receive
from humble_courier.line.wave import FINE, Levels, Wave, break_wave, encode


@dataclass(frozen=True)
class _Stretch:
    """Something sent without a pause, from its first start bit at `start` seconds to the end of its last stop bit."""

    start: float
    end: float
    levels: Levels
    slot_rate: float


class Channel:
    """A conductor from one UART to another, with the settings of both.

    Waves are laid one after the other on the line, the receiver of `line.uart` reads the line, and each character is
    handed out at the time at which its stop bit has been sampled. `connected`: whether the wiring carries it at all.
    """

    def __init__(self, sender: Settings, receiver: Settings, connected: bool = True) -> None:
        self.sender, self.receiver = sender, receiver
        self._connected = connected
        self._line: list[_Stretch] = []
        self._heard_until = float("-inf")
        self._pending: list[tuple[float, Heard]] | None = None
        self.free_at = float("-inf")
        self._noise, self._inverted = 0.0, False
        self._random = np.random.default_rng(1)

    def disturb(self, noise: float, inverted: bool, seed: int = 1) -> None:
        """From now on this share of the bits is turned over, and mark is space at the other end where `inverted`."""
        self._noise, self._inverted, self._random = noise, inverted, np.random.default_rng(seed)

    def send(self, data: bytes, t: float) -> float:
        """Put bytes on the line at `t` seconds or when it is free; returns when the last stop bit ends."""
        self.free_at = self._lay(encode(data, self.sender), max(t, self.free_at))
        return self.free_at

    def send_over(self, data: bytes, t: float) -> None:
        """Another sender on the same pair begins at `t`, whoever speaks: where they differ, space wins."""
        free = self.free_at
        self.free_at = max(free, self._lay(encode(data, self.sender), t))

    def send_break(self, seconds: float, t: float) -> float:
        """Hold the line at space for a while, and at mark for a bit, so that the next start can be seen."""
        self.free_at = self._lay(break_wave(seconds, self.sender), max(t, self.free_at)) + 1 / self.sender.rate
        return self.free_at

    def _lay(self, wave: Wave, start: float) -> float:
        """Put a wave on the line without the bit of mark before and after it; returns when it ends."""
        bit = round(wave.slot_rate / self.sender.rate)
        levels = self._disturbed(wave.levels[bit:-bit], bit)
        end = start + len(levels) / wave.slot_rate
        if self._connected:
            self._line.append(_Stretch(start, end, levels, wave.slot_rate))
            self._pending = None
        return end

    def _disturbed(self, levels: Levels, bit: int) -> Levels:
        if not self._noise:
            return levels
        turned = np.repeat(self._random.random(len(levels) // bit + 1) < self._noise, bit)[: len(levels)]
        return levels ^ turned.astype(np.uint8)

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
                # A quarter of a tick earlier: at large clock values an edge of this very moment would be rounded away.
                busy = self._heard_until - base - 0.25 / (TICKS * self.receiver.rate)
                got = receive(wave, self.receiver, after=max(0.0, busy))
                new = np.flatnonzero(got.ends + base > self._heard_until)
                self._pending = [(float(got.ends[i]) + base, _heard(got, int(i))) for i in new]
        return self._pending

    def _joined(self) -> tuple[Wave, float]:
        """All stretches as one wave, with the time of its begin. The rest between two is laid to 1/16 bit."""
        rate = FINE * self.sender.rate
        base = self._line[0].start - 1 / self.sender.rate
        last = max(stretch.end for stretch in self._line)
        canvas = np.ones(round((last - base) * rate) + 2 * FINE, np.uint8)
        for stretch in self._line:
            levels = np.repeat(stretch.levels, round(rate / stretch.slot_rate) or 1)
            begin = round((stretch.start - base) * rate)
            canvas[begin : begin + len(levels)] &= levels[: len(canvas) - begin]
        return Wave(canvas ^ np.uint8(self._inverted), float(rate)), base


def _heard(got: Received, i: int) -> Heard:
    if got.breaks[i]:
        return Heard(0, Doubt.BREAK)
    doubtful = bool(got.framing[i] or got.parity[i])
    return Heard(int(got.values[i]), Doubt.ERROR if doubtful else Doubt.NONE)
