"""The tables: made once (`python -m humble_courier.line.belief.tables FILE`), shipped, looked up by ratio of rates."""

import sys
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from humble_courier.domain.settings import Frame, Parity, Settings
from humble_courier.line.belief.cells import FASTEST, SLOWEST, SYMBOLS, mixture, simulate
from humble_courier.line.belief.traffic import FAMILIES
from humble_courier.line.wave import parity_bit

FILE = Path(__file__).with_name("tables.npz")
FRAMES = ("8N1", "8N2", "8E1", "8O1", "7E1", "7O1", "7N2", "7E2", "7O2", "7N1")
RATES = (
    110, 150, 300, 600, 1200, 1800, 2400, 4800, 9600, 10400, 14400, 19200, 28800, 31250, 38400, 57600, 76800, 115200,
    230400, 250000, 460800, 500000, 921600, 1000000,
)  # fmt: skip
STEP = 0.012  # ratios nearer than this (natural logarithm) share a cell
KINDS = 3  # of runs, in each cell and family
NATS = 4  # steps of the stored logarithms: finer ones change no answer, and the file must stay small
SMOOTHED = 40.0  # symbols of the pooled distribution that are added to each cell
FLOOR = 2e-6  # of a symbol that was never met: less than one in all runs of a cell
QUICK, QUICK_SYMBOLS = ("log text", "binary messages", "any bytes"), 192
LIKE = (0, 0, 0, 1, 2, 2, 1)  # which of these each family is taken for
SEED = 20_261_124  # so that the tables can be made again, bit by bit


@dataclass(frozen=True)
class Tables:
    """-log probabilities in quarters of a nat; kinds of runs are kept apart for upright lines only.

    `upright`: shape (ratios, frames, families * KINDS, symbols); `inverted`: (ratios, frames, families, symbols).
    """

    logs: NDArray[np.float64]
    upright: NDArray[np.uint8]
    inverted: NDArray[np.uint8]

    def nearest(self, ratio: float) -> int:
        """The cell of a ratio sender to receiver."""
        return int(np.abs(self.logs - np.log(min(max(ratio, SLOWEST), FASTEST))).argmin())

    def at(self, ratios: Sequence[float]) -> NDArray[np.uint8]:
        """Cells of ratios: shape (ratios, frames, polarities, families * KINDS, symbols)."""
        cells = [self.nearest(ratio) for ratio in ratios]
        return np.stack((self.upright[cells], np.repeat(self.inverted[cells], KINDS, axis=2)), axis=2)


@lru_cache(maxsize=32)
def heard_at(receiver: Settings) -> NDArray[np.float32]:
    """Log probabilities for a receiver: shape (rates, frames, polarities, families * KINDS, symbols).

    From the shipped tables where the receiver's character is as long as 8N1 (with seven bits and parity the same ten bits
    are read, and only named otherwise); else simulated now, from fewer families, which takes seconds.
    """
    frame = receiver.frame
    eight, seven = (8, False), (7, True)
    shape = (frame.data_bits, frame.parity is not Parity.NONE)
    if shape not in (eight, seven):
        made = [_quick_cell(rate / receiver.rate, frame, rate) for rate in RATES]
        return np.array(made).astype(np.float32) / np.float32(-NATS)
    stored = load().at([rate / receiver.rate for rate in RATES])
    logs = stored.astype(np.float32) / np.float32(-NATS)
    return logs if shape == eight else _as_seven(logs, frame)


def _as_seven(logs: NDArray[np.float32], frame: Frame) -> NDArray[np.float32]:
    """What a receiver of seven bits and parity makes of the ten bits that one of eight reads."""
    symbols = np.arange(SYMBOLS)
    values = (symbols & 0x7F).astype(np.uint8)
    top = (symbols >> 7 & 1).astype(np.uint8)
    wrong = (top != parity_bit(values, frame.parity)) | (symbols >= 256)
    goal = values.astype(np.int64) + 256 * wrong
    named = np.zeros((SYMBOLS, SYMBOLS), np.float32)  # from a symbol of eight bits to one of seven
    named[symbols, goal] = 1.0
    shares: NDArray[np.float32] = np.log(np.maximum(np.exp(logs) @ named, np.float32(FLOOR)))
    return shares


def _quick_cell(ratio: float, heard_as: Frame, seed: int) -> NDArray[np.uint8]:
    """A cell from few runs of three kinds of traffic; the other families are taken to be like one of them.

    One run only, and so one rule of what happens after a low stop bit.
    """
    random = np.random.default_rng((SEED, seed))
    makes = [FAMILIES[name][0] for name in QUICK]
    counts = np.zeros((len(FRAMES), 2, len(FAMILIES), SYMBOLS))
    for i, text in enumerate(FRAMES):
        for inverted in (False, True):
            few = [
                simulate(random, ratio, Frame.parse(text), inverted, make, heard_as, 1, QUICK_SYMBOLS)[0] for make in makes
            ]
            counts[i, int(inverted)] = [few[at] for at in LIKE]
    return np.repeat(smoothed(counts), KINDS, axis=2)


def ratios() -> NDArray[np.float64]:
    """All ratios that pairs of rates make, as natural logarithms, those that are near each other joined."""
    found = sorted({round(np.log(s / r) / STEP) for s in RATES for r in RATES if SLOWEST <= s / r <= FASTEST})
    ends = {round(np.log(SLOWEST) / STEP), round(np.log(FASTEST) / STEP)}
    return np.array(sorted(ends | set(found))) * STEP


def cell(random: np.random.Generator, ratio: float) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """What is stored for a ratio: upright (frames, families * KINDS, symbols), inverted (frames, families, symbols)."""
    counts = np.zeros((len(FRAMES), 2, len(FAMILIES), KINDS, SYMBOLS))
    for i, text in enumerate(FRAMES):
        for inverted in (False, True):
            for k, (make, _) in enumerate(FAMILIES.values()):
                runs = simulate(random, ratio, Frame.parse(text), inverted, make, Frame())
                counts[i, int(inverted), k] = mixture(runs, KINDS)
    upright = smoothed(counts[:, :1].reshape(len(FRAMES), 1, -1, SYMBOLS))
    turned = smoothed(counts[:, 1:].sum(axis=3))
    return upright[:, 0], turned[:, 0]


def smoothed(counts: NDArray[np.float64]) -> NDArray[np.uint8]:
    """Counts as stored: smoothed towards what all frames and families of that polarity give together."""
    pooled = counts.sum(axis=(0, 2), keepdims=True) + 0.5
    pooled = pooled / pooled.sum(axis=-1, keepdims=True)
    shares = (counts + SMOOTHED * pooled) / (counts.sum(axis=-1, keepdims=True) + SMOOTHED)
    stored: NDArray[np.uint8] = np.clip(np.round(-np.log(np.maximum(shares, FLOOR)) * NATS), 0, 255).astype(np.uint8)
    return stored


@lru_cache(maxsize=1)
def load() -> Tables:
    """The shipped tables."""
    with np.load(FILE) as file:
        return Tables(file["logs"], file["upright"], file["inverted"])


def main(path: Path) -> None:
    """Make the tables anew: some minutes on two cores."""
    logs = ratios()
    with ProcessPoolExecutor() as workers:
        made: list[tuple[NDArray[np.uint8], NDArray[np.uint8]]] = []
        for i, stored in enumerate(workers.map(_numbered_cell, enumerate(np.exp(logs)))):
            made.append(stored)
            sys.stderr.write(f"\r{i + 1} of {len(logs)}")
    sys.stderr.write("\n")
    one, other = (np.array(parts) for parts in zip(*made, strict=True))
    np.savez_compressed(path, logs=logs, upright=one, inverted=other)


def _numbered_cell(numbered: tuple[int, float]) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    return cell(np.random.default_rng((SEED, numbered[0])), numbered[1])


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else FILE)
