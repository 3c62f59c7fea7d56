"""When a receiver reads a sender's line, in the sender's bits: which bits end between two readings, and how sure each is."""

from dataclasses import dataclass
from math import ceil

import numpy as np
from numpy.typing import NDArray

from humble_courier.line.belief.sender import Weights

TRACKS = 4
READINGS = 10  # of a character: start bit, eight of data, stop bit
NOISE = 0.001  # of a reading
LATE_BY = 1 / 32  # of a bit of the receiver, either way, that a reading is early or late: it sees a fall a tick late at most
CLOCK_STEP = 0.005  # half of the distance between two clock errors that are tried


@dataclass(frozen=True)
class BetweenReadings:
    """What happens before a reading; of each track one bit at most ends in a step.

    `ending`: tracks of which a bit ends, and for which hypotheses; `leaving`: tracks into which a pause may be left, and for
    which; `count`: into how many.
    """

    ending: list[tuple[int, NDArray[np.bool_]]]
    leaving: list[tuple[int, NDArray[np.bool_]]]
    count: Weights


@dataclass(frozen=True)
class Schedule:
    """The steps before each reading, and the chance that a reading is not the level of a track (readings, tracks,
    hypotheses).
    """

    steps: list[list[BetweenReadings]]
    wrong: Weights


def schedule(ratios: NDArray[np.float64], centres: NDArray[np.float64], readings: int) -> Schedule:
    """The times of `readings` for each hypothesis, in the sender's bits since the fall.

    A receiver of 16 ticks sees the fall half a tick late in the mean, and reads at its centre, a bit of its own apart.
    """
    times = reading_times(ratios, centres, readings)
    steps = max(1, ceil(float(ratios.max()) - 1e-9))
    before = np.concatenate((np.zeros((1, len(ratios))), times[:-1]))
    parts = np.arange(steps + 1)[:, None, None] / steps
    at = np.swapaxes(before + (times - before) * parts, 0, 1)  # readings, steps + 1, hypotheses
    offsets = np.arange(TRACKS)[:, None]
    ending = np.diff(np.floor(at[:, :, None] - offsets / TRACKS + 1e-9), axis=1) > 0
    quarters = np.floor(at * TRACKS + 1e-9)
    leaving = np.diff(np.floor((quarters[:, :, None] - offsets) / TRACKS), axis=1) > 0
    count = np.diff(quarters, axis=1).astype(np.float32)
    wrong = unsure(times[:, None] - offsets / TRACKS, ratios)
    made = [
        [BetweenReadings(_tracks(ending[i, j]), _tracks(leaving[i, j]), count[i, j]) for j in range(steps)]
        for i in range(readings)
    ]
    return Schedule(made, wrong.astype(np.float32))


def _tracks(which: NDArray[np.bool_]) -> list[tuple[int, NDArray[np.bool_]]]:
    return [(track, which[track]) for track in range(TRACKS) if which[track].any()]


def unsure(times: NDArray[np.float64], ratios: NDArray[np.float64]) -> NDArray[np.float64]:
    """How likely a reading is not at the level of the bit into which it falls: it may fall into the one beside, which is at
    another level as often as not.
    """
    width = LATE_BY * ratios + CLOCK_STEP * np.abs(times)
    beside = np.clip((width - np.abs(times - np.round(times))) / (2 * width), 0, 0.5)
    chance: NDArray[np.float64] = NOISE + beside / 2
    return chance


def reading_times(ratios: NDArray[np.float64], centres: NDArray[np.float64], readings: int) -> NDArray[np.float64]:
    """When a receiver reads (shape: readings, hypotheses), in the sender's bits since the fall."""
    times: NDArray[np.float64] = ratios * (np.arange(readings)[:, None] + centres / 16 + 1 / 32)
    return times
