"""One cell of the tables: how often each symbol is received when a sender and a receiver are set in a certain way.

Only the ratio of the two rates matters. A symbol is the byte with a flag for framing or parity error: 512 of them; the
break is the byte 0 with its flag.
"""

import numpy as np
from numpy.typing import NDArray

from humble_courier.domain.settings import Frame, Settings
from humble_courier.line.belief.traffic import Make
from humble_courier.line.uart import Resync, receive
from humble_courier.line.wave import COARSE, Wave, character_bits

SYMBOLS = 512  # 256 byte values, each with and without an error flag
RECEIVER = 9600  # any rate would do
RUNS, RUN_SYMBOLS = 24, 256  # 6 144 symbols a cell: a dozen of each of the 512 on average
CLOCK_ERROR = 0.02  # either way
# Where in a bit receivers in the field read it, in ticks of 16, and whether three times (common practice).
CENTRES = ((8, False), (7, False), (9, False), (8, True))
SLOWEST, FASTEST = 1 / 14, 9.0  # ratio sender to receiver: beyond, all cells look like these


def gaps(random: np.random.Generator, count: int) -> NDArray[np.int64]:
    """Pauses after characters in half bits: none, steady, or scattered over a decade, with messages apart."""
    kind = random.random()
    if kind < 0.35:
        made = np.zeros(count)
    elif kind < 0.6:
        made = np.full(count, 10 ** random.uniform(-0.3, 1.3))
    else:
        made = random.exponential(10 ** random.uniform(-0.3, 1.5), count)
    ends = random.random(count) < 1 / random.uniform(6, 80)
    made[ends] += random.uniform(20, 400)
    return np.round(made * COARSE).astype(np.int64)


def wave_of(data: bytes, frame: Frame, pauses: NDArray[np.int64], inverted: bool, rate: float) -> Wave:
    """Characters with a pause after each (half bits), two slots a bit."""
    bits = np.repeat(character_bits(data, Settings(RECEIVER, frame)), COARSE, axis=1)
    columns = bits.shape[1]
    lengths = columns + np.round(frame.stop_bits * COARSE).astype(np.int64) + pauses
    ends = np.cumsum(lengths)
    levels = np.ones(int(ends[-1]) + 2 * COARSE, np.uint8)
    starts = ends - lengths + COARSE
    for i in range(columns):
        levels[starts + i] = bits[:, i]
    return Wave(levels ^ np.uint8(1) if inverted else levels, rate * COARSE)


def symbols(values: NDArray[np.uint8], errors: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Received bytes as symbols."""
    return values.astype(np.int64) + 256 * errors


def simulate(
    random: np.random.Generator, ratio: float, frame: Frame, inverted: bool, make: Make, heard_as: Frame, runs: int = RUNS,
    length: int = RUN_SYMBOLS,
) -> NDArray[np.int64]:  # fmt: skip
    """Counts of symbols (shape: runs, 512), as many runs with each kind of receiver: where it reads, and what it does after
    a low stop bit.
    """
    counts = np.zeros((runs, SYMBOLS), np.int64)
    ratio = min(max(ratio, SLOWEST), FASTEST)
    size = int(length * max(1.0, 1.3 * ratio)) if ratio >= 0.5 else length // 2
    for run in range(runs):
        speed = RECEIVER * ratio * random.uniform(1 - CLOCK_ERROR, 1 + CLOCK_ERROR)
        wave = wave_of(make(random, size), frame, gaps(random, size), inverted, speed)
        centre, majority = CENTRES[run // 2 % len(CENTRES)]
        got = receive(wave, Settings(RECEIVER, heard_as), list(Resync)[run % 2], majority=majority, centre=centre)
        found = symbols(got.values, got.framing | got.parity)[:length]
        counts[run] = np.bincount(found, minlength=SYMBOLS)
    return counts


def mixture(runs: NDArray[np.int64], kinds: int, rounds: int = 12) -> NDArray[np.float64]:
    """Runs sorted into `kinds` of them that are alike (shape: kinds, 512): a clock at one edge of its error, a rule after
    a low stop bit, a spacing. Expectation and maximisation over multinomials (Dempster, Laird, Rubin 1977, from memory).
    """
    shares = (runs + 1e-3) / (runs + 1e-3).sum(axis=1, keepdims=True)
    far = np.linalg.norm(np.sqrt(shares) - np.sqrt(shares.mean(axis=0)), axis=1)
    centres = [int(far.argmax())]
    while len(centres) < kinds:  # each next centre is the run farthest from those that are taken
        apart = np.linalg.norm(np.sqrt(shares)[:, None] - np.sqrt(shares)[centres], axis=2).min(axis=1)
        centres.append(int(apart.argmax()))
    pooled = runs.sum(axis=0) + 0.02
    made: NDArray[np.float64] = shares[centres] + 0.05 * pooled / pooled.sum()
    belongs = np.full((len(runs), kinds), 1.0 / kinds)
    for _ in range(rounds):
        weights = belongs.mean(axis=0) + 1e-6
        logs = np.log(weights) + runs @ np.log(made / made.sum(axis=1, keepdims=True)).T
        belongs = np.exp(logs - logs.max(axis=1, keepdims=True))
        belongs /= belongs.sum(axis=1, keepdims=True)
        made = belongs.T @ runs + 0.5 * pooled / pooled.sum()
    return made
