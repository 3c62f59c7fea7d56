"""A receiver: what a UART with its own settings makes of a wave.

Sixteen ticks a bit. The first tick that sees space after mark begins a character; the start bit is verified at its
centre (tick 8), every bit is read 16 ticks on, the first stop bit must be mark, a second one is not looked at. After
the centre of the stop bit the receiver waits for the next fall from mark to space. This is the receiver of the 16550
family (data sheet, receiver section; from memory) and of the bridge chips that follow it.

The work is done for all falling edges at once, whether the receiver will begin a character there or not; a walk along
"which edge comes next" then picks those at which it does.
"""

from array import array
from bisect import bisect_right
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from humble_courier.domain.settings import Parity, Settings
from humble_courier.line.disturbed import Disturbance, disturb
from humble_courier.line.wave import Wave, encode, parity_bit

TICKS = 16  # the rule of the 16550 family (data sheet; from memory)
CENTRE = TICKS // 2  # the middle of a bit
# Ticks and slots often fall on the same instant; a tick that meets an edge sees the level after it. The rounding of
# doubles stays below this for waves of up to 10^9 slots.
_TIE = 1e-6
_CHUNK = 1 << 16  # edges treated at once: keeps the work inside the processor's cache


class Resync(StrEnum):
    """What a receiver does after a stop bit that was low; both kinds of chips are in the field."""

    WAIT_FOR_MARK = "wait-for-mark"
    LOW_IS_START = "low-is-start"


@dataclass(frozen=True)
class Received:
    """Characters as the receiver hands them over, all arrays of one length.

    `values` hold the data bits; `framing`, `parity`, `breaks` are error flags (a break is a character of all zeros
    with its stop bit low: it has the framing flag too); `starts` and `ends` are seconds from the begin of the wave to
    the tick that saw the start, and to the sample of the stop bit, at which the character is complete.
    """

    values: NDArray[np.uint8]
    framing: NDArray[np.bool_]
    parity: NDArray[np.bool_]
    breaks: NDArray[np.bool_]
    starts: NDArray[np.float64]
    ends: NDArray[np.float64]

    def __len__(self) -> int:
        return len(self.values)


class _Line:
    """A wave looked at in ticks of the receiver. `ratio`: slots a tick; `bits`: data, parity and stop bits together."""

    def __init__(self, wave: Wave, ratio: float, bits: int, centre: int, majority: bool) -> None:
        self._levels, self._ratio, self._bits, self._centre, self._majority = wave.levels, ratio, bits, centre, majority

    def at(self, ticks: NDArray[np.int64], offset: int) -> NDArray[np.uint8]:
        """Levels some ticks later; past the end the line stays as it was last."""
        return self._levels.take((ticks * self._ratio + (offset * self._ratio + _TIE)).astype(np.int64), mode="clip")

    def read(self, ticks: NDArray[np.int64], offset: int) -> NDArray[np.uint8]:
        """The level that the receiver takes for a bit: of one tick, or of three in their majority."""
        if not self._majority:
            return self.at(ticks, offset)
        votes = self.at(ticks, offset - 1) + self.at(ticks, offset) + self.at(ticks, offset + 1)
        return (votes >= 2).astype(np.uint8)

    def looks(self, ticks: NDArray[np.int64]) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """Whether a fall is seen at each tick, and whether the line is still low at the start bit's centre."""
        seen = self.at(ticks, 0) == 0
        if self._ratio > 1:  # pulses may be shorter than a tick: the fall must show between two ticks
            seen &= (ticks == 0) | (self.at(ticks, -1) == 1)
        return seen, seen & (self.read(ticks, self._centre) == 0)

    def words(self, ticks: NDArray[np.int64]) -> NDArray[np.uint16]:
        """The bits of characters that start at these ticks: data, then parity if any, then stop, from bit 0 up."""
        words = np.zeros(len(ticks), np.uint16)
        for i in range(self._bits):
            words |= self.read(ticks, self._centre + TICKS * (i + 1)).astype(np.uint16) << i
        return words


def receive(
    wave: Wave, settings: Settings, resync: Resync = Resync.WAIT_FOR_MARK, clock: float = 1.0, after: float = 0.0,
    majority: bool = False, centre: int = CENTRE,
) -> Received:  # fmt: skip
    """What a receiver with `settings` hands over for `wave`.

    `clock`: the receiver's clock as a multiple of the nominal one (1.02 is 2 % fast). `after`: seconds from the begin
    of the wave before which the receiver was busy and looks for no start. `majority`: each bit is read three times, at its
    middle and one tick before and after, as some receivers do. `centre`: the tick of a bit, of 16, that is read; receivers
    in the field take the seventh to the ninth.
    """
    ratio = wave.slot_rate / (TICKS * settings.rate * clock)  # slots a tick
    bits = settings.frame.data_bits + (settings.frame.parity is not Parity.NONE) + 1
    length = centre + TICKS * bits  # ticks from the start to the sample of the stop bit
    falls = np.flatnonzero((wave.levels[:-1] == 1) & (wave.levels[1:] == 0)) + 1
    if len(wave.levels) and wave.levels[0] == 0:
        falls = np.concatenate(([0], falls))
    ticks = np.ceil(falls / ratio - _TIE).astype(np.int64)
    ticks = ticks[ticks >= after / ratio * wave.slot_rate - _TIE]
    line = _Line(wave, ratio, bits, centre, majority)
    looked = [line.looks(ticks[i : i + _CHUNK]) for i in range(0, len(ticks), _CHUNK)] or [line.looks(ticks)]
    seen, verified = (np.concatenate(parts) for parts in zip(*looked, strict=True))
    busy = np.where(verified, length, np.where(seen, centre, 0))
    following = np.searchsorted(ticks, ticks + busy, side="right")
    if resync is Resync.LOW_IS_START:
        starts, words = _walk_low_is_start(line, ticks, verified, following, bits, length)
    else:
        picked = walk(following)
        starts = ticks[picked[verified[picked]]]
        words = np.concatenate([line.words(starts[i : i + _CHUNK]) for i in range(0, len(starts) or 1, _CHUNK)])
    return _symbols(starts, words, settings, length, TICKS * settings.rate * clock)


def walk(following: NDArray[np.int64]) -> NDArray[np.int64]:
    """The edges at which the receiver looks: from the first, each time the next one after it is free again."""
    picked, i, count = array("q"), 0, len(following)
    view, add = following.data, picked.append  # no list: making a number of each edge would take most of the time
    while i < count:
        add(i)
        i = view[i]
    return np.frombuffer(picked, np.int64) if picked else np.zeros(0, np.int64)


def _walk_low_is_start(
    line: _Line, ticks: NDArray[np.int64], verified: NDArray[np.bool_], following: NDArray[np.int64], bits: int, length: int
) -> tuple[NDArray[np.int64], NDArray[np.uint16]]:
    """As `walk`, for receivers that take a low stop bit for the next start bit, centre on centre."""
    starts: list[int] = []
    words: list[int] = []
    all_ticks, all_words = ticks.tolist(), line.words(ticks).tolist()
    after, begins = following.tolist(), verified.tolist()
    stop, i, count = 1 << (bits - 1), 0, len(all_ticks)
    while i < count:
        if not begins[i]:
            i = after[i]
            continue
        tick, word = all_ticks[i], all_words[i]
        starts.append(tick)
        words.append(word)
        if word & stop or word == 0:  # a good stop bit, or a break: both wait for mark
            i = after[i]
            continue
        while not (word & stop or word == 0):
            tick += TICKS * bits  # the low stop bit's centre is the new start bit's centre
            word = int(line.words(np.array([tick]))[0])
            starts.append(tick)
            words.append(word)
        i = bisect_right(all_ticks, tick + length)
    return np.array(starts, np.int64), np.array(words, np.uint16)


def _symbols(
    starts: NDArray[np.int64], words: NDArray[np.uint16], settings: Settings, length: int, tick_rate: float
) -> Received:
    frame = settings.frame
    values = (words & ((1 << frame.data_bits) - 1)).astype(np.uint8)
    rest = words >> frame.data_bits
    wrong_parity = np.zeros(len(words), np.bool_)
    if frame.parity is not Parity.NONE:
        wrong_parity = (rest & 1) != parity_bit(values, frame.parity)
        rest = rest >> 1
    framing = (rest & 1) == 0
    return Received(values, framing, wrong_parity, words == 0, starts / tick_rate, (starts + length) / tick_rate)


def hear(
    sent: Settings, heard_as: Settings, data: bytes, idle_bits: float = 0.0, inverted: bool = False,
    resync: Resync = Resync.WAIT_FOR_MARK, way: Disturbance | None = None, majority: bool = False,
) -> Received:  # fmt: skip
    """What a receiver set to `heard_as` hands over when `data` is sent with `sent`; `way`: what happens on the line."""
    wave = encode(data, sent, idle_bits, inverted)
    return receive(disturb(wave, sent.rate, way) if way else wave, heard_as, resync, majority=majority)
