"""A sender: characters as levels over time.

A wave is an array of levels (1 mark, 0 space) on an even grid of slots. All edges of a UART fall on half bits of the
sender's clock, so two slots a bit are exact; idle times that are no multiple of half a bit take a finer grid.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from humble_courier.domain.settings import Parity, Settings

Levels = NDArray[np.uint8]
COARSE, FINE = 2, 16  # slots a bit


@dataclass(frozen=True)
class Wave:
    """Levels (shape: slots; 1 mark, 0 space) and slots per second. Before and after it the line is at mark."""

    levels: Levels
    slot_rate: float

    @property
    def seconds(self) -> float:
        """How long the wave lasts."""
        return len(self.levels) / self.slot_rate

    def edges(self) -> list[tuple[float, int]]:
        """Times in seconds at which the level changes, with the level from then on."""
        before = np.concatenate(([1], self.levels[:-1]))
        changes = np.flatnonzero(self.levels != before)
        return [(float(i) / self.slot_rate, int(self.levels[i])) for i in changes]


def parity_bit(values: NDArray[np.uint8], parity: Parity) -> NDArray[np.uint8]:
    """The parity bit that goes with each value (data bits above the frame already masked off).

    Even: the count of ones with the parity bit is even (ISO 1177); mark is always 1, space always 0.
    """
    if parity in (Parity.MARK, Parity.SPACE):
        return np.full(len(values), 1 if parity is Parity.MARK else 0, np.uint8)
    folded = values ^ (values >> 4)
    folded ^= folded >> 2
    folded ^= folded >> 1
    odd = (folded & 1).astype(np.uint8)
    return odd if parity is Parity.EVEN else odd ^ np.uint8(1)


def character_bits(data: bytes, settings: Settings) -> Levels:
    """Start, data and parity bits of each byte; shape (characters, bits), without stop bits."""
    frame = settings.frame
    values = np.frombuffer(data, np.uint8) & np.uint8((1 << frame.data_bits) - 1)
    columns = 1 + frame.data_bits + (frame.parity is not Parity.NONE)
    bits = np.zeros((len(values), columns), np.uint8)
    for i in range(frame.data_bits):
        bits[:, 1 + i] = (values >> i) & 1
    if frame.parity is not Parity.NONE:
        bits[:, -1] = parity_bit(values, frame.parity)
    return bits


def encode(data: bytes, settings: Settings, idle_bits: float = 0.0, inverted: bool = False) -> Wave:
    """The wave of `data` as a sender with `settings` puts it on the line.

    `idle_bits`: mark between characters beyond the stop bits, in bit times (0 or more). One bit of mark leads and
    closes the wave. `inverted`: mark and space exchanged, as on a line taken before its level converter.
    """
    stop = settings.frame.stop_bits + idle_bits
    grid = COARSE if float(stop * COARSE).is_integer() else FINE
    bits = character_bits(data, settings)
    rows = np.ones((len(bits), bits.shape[1] * grid + round(stop * grid)), np.uint8)
    rows[:, : bits.shape[1] * grid] = np.repeat(bits, grid, axis=1)
    mark = np.ones(grid, np.uint8)
    levels = np.concatenate((mark, rows.ravel(), mark))
    return Wave(levels ^ np.uint8(1) if inverted else levels, float(settings.rate * grid))


def break_wave(seconds: float, settings: Settings) -> Wave:
    """A break: the line held at space, with a bit of mark before and after."""
    mark = np.ones(COARSE, np.uint8)
    low = np.zeros(max(1, round(seconds * settings.rate * COARSE)), np.uint8)
    return Wave(np.concatenate((mark, low, mark)), float(settings.rate * COARSE))
