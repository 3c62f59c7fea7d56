"""How likely a run of received characters is from a sender, as a sum over all that it may have sent: a forward pass.

Theory of operation. Each character that is received begins at a fall from mark to space of the sender, so there its
bits begin at time 0; which of its falls it was is not known, and a weight on each state (`sender`) says so. The
receiver then reads the line ten times, a bit of its own apart. Between two readings the sender gives none, one or more
bits, which is known beforehand from the ratio of the rates; a reading keeps the states at its level. After the last the
line is followed, without time, to its next fall. A pause is left at any quarter of a sender's bit: four tracks, each
with its own times at which bits end, hold what was sent after one. Readings that fall on the end of a bit are weak. Senders
up to somewhat above the receiver's rate are meant: of faster ones a start bit may be over before it is verified.

The logarithms of what is left after each character add up to the likelihood of all. All hypotheses go together: a
weight has the shape (states, tracks, hypotheses).
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from humble_courier.domain.settings import Frame
from humble_courier.line.belief.bit_schedule import NOISE, READINGS, TRACKS, BetweenReadings, schedule
from humble_courier.line.belief.sender import (
    LATE,
    PARENTS,
    PARITY_MARK,
    PARITY_SPACE,
    ROWS,
    SECOND,
    SPACES,
    START,
    STOP,
    Weights,
    next_edge,
    sender,
)

CHAINED = 5  # characters that follow each other without a fall, when a low stop bit is taken for a start bit
IMPOSSIBLE = np.float32(1e-37)  # a hypothesis that cannot have sent this falls behind for good
BEGIN = 0.6  # that the first character heard began with a start bit


@dataclass(frozen=True)
class Hypotheses:
    """What is tried, all of one length: the ratio of sender's to receiver's rate with the error of the clocks, the tick of
    16 that is read, frame and traffic, how likely the next character follows at once, and how likely a pause is left in a
    quarter of a bit.
    """

    ratios: NDArray[np.float64]
    centres: NDArray[np.float64]
    frames: tuple[str, ...]
    families: tuple[str, ...]
    at_once: Weights
    leave: Weights

    def __len__(self) -> int:
        return len(self.ratios)

    def those(self, which: NDArray[np.intp]) -> "Hypotheses":
        """Some of them."""
        names = [tuple(getattr(self, name)[i] for i in which) for name in ("frames", "families")]
        rest = [getattr(self, name)[which] for name in ("ratios", "centres", "at_once", "leave")]
        return Hypotheses(rest[0], rest[1], names[0], names[1], rest[2], rest[3])


class Forward:
    """Feed it characters; `logs` says how likely all were, for each hypothesis."""

    def __init__(self, tried: Hypotheses, low_is_start: bool = False) -> None:
        """`low_is_start`: the receiver takes a low stop bit for the next start bit; else it waits for mark."""
        self.tried = tried
        self.logs = np.zeros(len(tried))
        self._low_is_start = low_is_start
        self._set_up()
        edges = np.zeros((ROWS, len(tried)), np.float32)
        edges[START] = 1
        rest = self._to_edges(np.full((ROWS, len(tried)), 1 / ROWS, np.float32))
        self._begin_at(BEGIN * edges + (1 - BEGIN) * rest / rest.sum(axis=0))

    def _set_up(self) -> None:
        tried, count = self.tried, len(self.tried)
        kinds = list(zip(tried.frames, tried.families, strict=True))
        made = {kind: sender(Frame.parse(kind[0]), kind[1]) for kind in dict.fromkeys(kinds)}
        self._follows = np.stack([made[kind].follows for kind in kinds], axis=2)
        last = [np.stack((made[kind].ends, *made[kind].parity))[:, LATE] for kind in kinds]
        self._last = np.stack(last, axis=2)  # stop bit, parity bit at space, parity bit at mark; rows; hypotheses
        self._two = np.array([made[kind].two for kind in kinds], np.float32)
        edges = {kind: next_edge(Frame.parse(kind[0]), kind[1]).T for kind in made}
        self._groups = [(edges[kind], np.array([i for i, k in enumerate(kinds) if k == kind])) for kind in made]
        self._schedule = schedule(tried.ratios, tried.centres, 1 + (READINGS - 1) * (CHAINED if self._low_is_start else 1))
        self._after, self._other = np.empty((2, ROWS, count), np.float32)

    def _begin_at(self, edges: Weights) -> None:
        """All weight is at falls, where time is 0."""
        self._tracks = [edges, *(np.zeros_like(edges) for _ in range(TRACKS - 1))]
        self._idle = np.zeros(edges.shape[1], np.float32)
        self._alive = [True, False, False, False]  # tracks into which no pause was left yet are empty
        self._reading = 0

    def keep(self, which: NDArray[np.intp]) -> None:
        """Go on with some hypotheses only."""
        self.tried, self.logs = self.tried.those(which), self.logs[which]
        self._tracks = [np.ascontiguousarray(weights[:, which]) for weights in self._tracks]
        self._idle = self._idle[which]
        self._set_up()

    def feed(self, symbols: NDArray[np.int64]) -> None:
        """Characters as they came: the byte, plus 256 where the stop bit was low."""
        for symbol in symbols.tolist():
            self._character(symbol & 0xFF, 0 if symbol >= 256 else 1)

    def _character(self, value: int, stop: int) -> None:
        first = self._reading
        for k in range(1, READINGS):
            for step in self._schedule.steps[first + k]:
                self._bits_go(step)
            self._read(self._schedule.wrong[first + k], stop if k == READINGS - 1 else value << 1 >> k & 1)
        whole = self._all_tracks()
        left = np.maximum(whole.sum(axis=0) + self._idle, IMPOSSIBLE)
        self.logs += np.log(left)
        self._reading = first + READINGS - 1  # the low stop bit is the start bit that was read already
        if self._low_is_start and not stop and value and self._reading < (READINGS - 1) * CHAINED:
            for weights in (*self._tracks, self._idle):
                weights /= left
        else:
            edges = self._to_edges(whole)
            edges[START] += self._idle
            self._begin_at(edges / left)

    def _all_tracks(self) -> Weights:
        whole = self._tracks[0]
        for weights, alive in zip(self._tracks[1:], self._alive[1:], strict=True):
            whole = whole + weights if alive else whole
        return whole

    def _bits_go(self, step: BetweenReadings) -> None:
        """Tracks of which a bit ends go on by it; then pauses may end."""
        for track, ending in step.ending:
            if self._alive[track]:
                self._bit_goes(self._tracks[track], ending)
        if step.leaving and self._idle.any():
            stay = (1 - self.tried.leave) ** step.count
            share = self._idle * (1 - stay) / np.maximum(step.count, 1)
            for track, leaving in step.leaving:
                self._tracks[track][START] += leaving * share
                self._alive[track] = True
            self._idle *= stay

    def _bit_goes(self, before: Weights, ending: NDArray[np.bool_]) -> None:
        after, other = self._after, self._other
        np.take(before, PARENTS[0], axis=0, out=after, mode="clip")
        after *= self._follows[0]
        np.take(before, PARENTS[1], axis=0, out=other, mode="clip")
        other *= self._follows[1]
        after += other
        after[STOP], after[PARITY_SPACE], after[PARITY_MARK] = np.einsum("rh,krh->kh", before[LATE], self._last)
        after[SECOND] = before[STOP] * self._two
        over = before[STOP] * (1 - self._two) + before[SECOND]
        after[START] = over * self.tried.at_once
        self._idle += ending * over * (1 - self.tried.at_once)
        np.copyto(before, after, where=ending)

    def _read(self, wrong: Weights, bit: int) -> None:
        for weights, unsure, alive in zip(self._tracks, wrong, self._alive, strict=True):
            if alive:
                weights[:SPACES] *= unsure if bit else 1 - unsure
                weights[SPACES:] *= 1 - unsure if bit else unsure
        self._idle *= 1 - NOISE if bit else NOISE

    def _to_edges(self, weights: Weights) -> Weights:
        """Weights at the next falls; `weights` has the shape (states, hypotheses)."""
        edges = np.empty_like(weights)
        for leads, which in self._groups:
            edges[:, which] = leads @ weights[:, which]
        return edges
