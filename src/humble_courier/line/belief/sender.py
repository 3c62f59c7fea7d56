"""The sender as a machine that gives one bit after another: its states, and how likely each next bit is.

A state is how many bits of the character have gone since its start bit, the last few of them, and their parity; then a
parity bit after eight of data, and the stop bits. The kind of traffic says how likely the next data bit is a one; parity
and stop bits follow from the frame. States are rows, those at space first: a level that was read weighs two blocks.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from humble_courier.domain.settings import Frame, Parity
from humble_courier.line.belief.traffic import FAMILIES

LAST_BITS = 3  # of a character that are remembered: they shape the next one enough
MOST_DATA = 8  # bits after the start bit that are kept apart; a parity bit after seven of data is one of them
SAMPLE = 6000  # characters of each kind of traffic from which its bits are counted
SELDOM = 2.0  # of each next bit, added to what was counted
SEED = 5

Weights = NDArray[np.float32]


@dataclass(frozen=True)
class BitState:
    """`gone` bits since the start bit (0: in the start bit), the last few of them, and the parity of all."""

    gone: int
    last: tuple[int, ...] = ()
    odd: bool = False

    @property
    def level(self) -> int:
        """1 at mark."""
        return self.last[-1] if self.last else 0

    def then(self, bit: int) -> "BitState":
        """The state a bit later."""
        return BitState(self.gone + 1, (*self.last, bit)[-LAST_BITS:], self.odd ^ bool(bit))


def _before() -> dict[BitState, list[BitState]]:
    """All states within a character, each with those that it can follow."""
    level, found = [BitState(0)], {BitState(0): [BitState(0)]}
    for _ in range(MOST_DATA):
        following: dict[BitState, list[BitState]] = {}
        for one in level:
            for bit in (0, 1):
                following.setdefault(one.then(bit), []).append(one)
        found |= following
        level = list(following)
    return found


BEFORE = _before()
_AT_SPACE = sorted((s for s in BEFORE if s.level == 0), key=lambda s: (s.gone, s.last, s.odd))
_AT_MARK = sorted((s for s in BEFORE if s.level == 1), key=lambda s: (-s.gone, s.last, s.odd))
START = 0
SPACES = len(_AT_SPACE) + 1  # rows before this are at space; the last of them is a parity bit, as the first at mark is
PARITY_SPACE, PARITY_MARK = SPACES - 1, SPACES
ROWS = len(BEFORE) + 4
STOP, SECOND = ROWS - 2, ROWS - 1
ROW = {s: i for i, s in enumerate(_AT_SPACE)} | {s: i for i, s in enumerate(_AT_MARK, SPACES + 1)}
"""The row of each state within a character."""
_LATE = [row for state, row in ROW.items() if state.gone >= MOST_DATA - 1]
LATE = slice(min(_LATE), max(_LATE) + 1)
"""The rows, side by side, after which a stop or parity bit may come."""
PARENTS = np.zeros((2, ROWS), np.intp)
for _state, _row in ROW.items():
    PARENTS[0, _row], PARENTS[1, _row] = ROW[BEFORE[_state][0]], ROW[BEFORE[_state][-1]]


@dataclass(frozen=True)
class Sender:
    """How a sender of one frame and one kind of traffic goes on.

    `follows`: chance of each row after each of its two parents (shape 2, rows); `ends`: rows after which the stop bit
    comes, 1 or 0; `parity`: rows after which the parity bit comes at space, and at mark (shape 2, rows); `two`: 1 where
    a second stop bit follows.
    """

    follows: Weights
    ends: Weights
    parity: Weights
    two: float


@lru_cache(maxsize=256)
def sender(frame: Frame, family: str) -> Sender:
    """The sender of a frame and a kind of traffic; FAMILIES names the kinds."""
    follows, parity = np.zeros((2, ROWS), np.float32), np.zeros((2, ROWS), np.float32)
    ends = np.zeros(ROWS, np.float32)
    ones = ones_after(family, frame.data_bits)
    last = frame.data_bits + (frame.parity is not Parity.NONE and frame.data_bits < MOST_DATA)
    for state, row in ROW.items():
        for k, before in enumerate(BEFORE[state] if 0 < state.gone <= last else ()):
            one = ones[ROW[before]] if before.gone < frame.data_bits else float(_parity_of(before, frame))
            follows[k, row] = one if state.level else 1 - one
        if state.gone == last and last < frame.data_bits + (frame.parity is not Parity.NONE):
            parity[_parity_of(state, frame), row] = 1
        elif state.gone == last:
            ends[row] = 1
    ends[[PARITY_SPACE, PARITY_MARK]] = 1
    return Sender(follows, ends, parity, float(frame.stop_bits > 1))


def _parity_of(state: BitState, frame: Frame) -> int:
    return int(state.odd ^ (frame.parity is Parity.ODD))


@lru_cache(maxsize=32)
def ones_after(family: str, data_bits: int) -> NDArray[np.float64]:
    """How likely a one is after each row (shape: rows), counted in a sample of that kind of traffic."""
    make, _ = FAMILIES[family]
    random = np.random.default_rng(SEED)
    data = b"".join(make(random, SAMPLE // 20) for _ in range(20))
    bits = (np.frombuffer(data, np.uint8)[:, None] >> np.arange(data_bits)) & 1
    counts = np.full((ROWS, 2), SELDOM)
    for gone in range(data_bits):
        rows = np.array([ROW[_state_of(word, gone)] for word in range(1 << gone)])
        words = (bits[:, :gone] << np.arange(gone)).sum(axis=1)
        np.add.at(counts, (rows[words], bits[:, gone]), 1)
    shares: NDArray[np.float64] = counts[:, 1] / counts.sum(axis=1)
    return shares


def _state_of(word: int, gone: int) -> BitState:
    bits = tuple(word >> i & 1 for i in range(gone))
    return BitState(gone, bits[-LAST_BITS:] if gone else (), sum(bits) % 2 == 1)


@lru_cache(maxsize=256)
def next_edge(frame: Frame, family: str) -> Weights:
    """At which row the next fall from mark to space leads, from each row: shape (rows from, rows to), rows add up to 1.

    From a row at space the line goes to mark first. Pauses cost nothing: sooner or later a start bit comes.
    """
    step = one_bit(sender(frame, family))
    marks = np.arange(ROWS) >= SPACES
    to_mark, to_space = step * marks, step * ~marks
    reach = np.linalg.inv(np.eye(ROWS) - np.where(marks[:, None], to_mark, 0))  # all ways along marks
    falls = reach @ to_space
    rises = np.linalg.inv(np.eye(ROWS) - np.where(~marks[:, None], to_space, 0)) @ to_mark
    edges: Weights = np.where(marks[:, None], falls, rises @ falls).astype(np.float32)
    return edges


def one_bit(made: Sender) -> NDArray[np.float64]:
    """From each row to each row one bit later (shape rows, rows), a start bit following the stop bits at once."""
    step = np.zeros((ROWS, ROWS))
    for row in range(1, ROWS):
        for k in (0, 1):
            step[PARENTS[k, row], row] += made.follows[k, row]
    step[:, PARITY_SPACE] += made.parity[0]
    step[:, PARITY_MARK] += made.parity[1]
    step[:, STOP] += made.ends
    step[STOP, SECOND], step[STOP, START], step[SECOND, START] = made.two, 1 - made.two, 1
    return step
