"""A line as its level changes, as a logic recorder or an oscilloscope saves them, and a receiver that reads them."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from humble_courier.domain.settings import Frame, Parity
from humble_courier.line.uart import walk
from humble_courier.line.wave import parity_bit

Times = NDArray[np.floating]


@dataclass(frozen=True)
class Edges:
    """`times` in seconds, rising, at each of which the level changes; before the first it is `first` (0 or 1).

    `end`: when the recording ends. `resolution`: seconds between two samples, 0 where changes were saved as such.
    """

    times: Times
    first: int
    end: float
    resolution: float = 0.0

    def __len__(self) -> int:
        return len(self.times)

    @property
    def runs(self) -> tuple[Times, NDArray[np.uint8]]:
        """Lengths in seconds of the stretches between two changes, and the level of each."""
        lengths = np.diff(self.times)
        levels = (self.first ^ ((np.arange(len(lengths)) + 1) & 1)).astype(np.uint8)
        return lengths, levels

    def without(self, shorter: float) -> "Edges":
        """The same without stretches shorter than that (seconds): a glitch has two edges, and both go."""
        times = self.times
        while len(times) > 1:
            short = np.flatnonzero(np.diff(times) < shorter)
            if not len(short):
                break
            alone = short[np.concatenate(([True], np.diff(short) > 1))]  # of glitches side by side the first goes first
            times = np.delete(times, np.concatenate((alone, alone + 1)))
        return Edges(times, self.first, self.end, self.resolution)

    def inverted(self) -> "Edges":
        """The same with mark and space exchanged."""
        return Edges(self.times, 1 - self.first, self.end, self.resolution)

    def head(self, count: int) -> "Edges":
        """The first so many changes."""
        if len(self.times) <= count:
            return self
        return Edges(self.times[:count], self.first, float(self.times[count - 1]), self.resolution)


@dataclass(frozen=True)
class Read:
    """Characters read from edges: values, error flags, and the second at which each start bit fell."""

    values: NDArray[np.uint8]
    framing: NDArray[np.bool_]
    parity: NDArray[np.bool_]
    starts: Times

    def __len__(self) -> int:
        return len(self.values)


def from_samples(levels: NDArray[np.uint8], interval: float) -> Edges:
    """Edges of evenly spaced samples (0 or 1), `interval` seconds apart."""
    changes = np.flatnonzero(levels[1:] != levels[:-1]) + 1
    # The level changed somewhere between two samples: the middle is the best guess.
    return Edges((changes - 0.5) * interval, int(levels[0]) if len(levels) else 1, len(levels) * interval, interval)


def read(edges: Edges, bit: float, frame: Frame) -> Read:
    """Read characters with bits of `bit` seconds: from each fall, in the middle of each bit; waits for mark after errors.

    The first stop bit is looked at, as receivers do.
    """
    falls = edges.times[_falls(edges)]
    bits = frame.data_bits + (frame.parity is not Parity.NONE) + 1
    # The next start may come half a bit before the stop bit is over: clocks differ.
    following = np.searchsorted(falls, falls + (bits + 0.5) * bit, side="left")
    starts = falls[walk(following)]
    starts = starts[starts + (bits + 0.5) * bit <= edges.end + bit]
    words = np.zeros(len(starts), np.uint16)
    for i in range(bits):
        at = np.searchsorted(edges.times, starts + (1.5 + i) * bit, side="right")
        words |= (edges.first ^ (at & 1)).astype(np.uint16) << i
    values = (words & ((1 << frame.data_bits) - 1)).astype(np.uint8)
    rest = words >> frame.data_bits
    wrong = np.zeros(len(words), np.bool_)
    if frame.parity is not Parity.NONE:
        wrong = (rest & 1) != parity_bit(values, frame.parity)
        rest = rest >> 1
    return Read(values, (rest & 1) == 0, wrong, starts)


def _falls(edges: Edges) -> slice:
    """Every second change leads from mark to space."""
    return slice(0 if edges.first == 1 else 1, None, 2)
