"""The length of a bit, from the lengths of the stretches between level changes.

Within a character every stretch is a whole number of bits (a stop bit of 1.5 apart), between characters it is anything.
Slow edges make all marks a little longer and all spaces a little shorter or the other way round: that is fitted too.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from humble_courier.line.edges import Edges, Times
from humble_courier.line.rates import USUAL_RATES

LONGEST_BITS = 10.6  # within a character no stretch is longer: start, eight data bits, parity
NEAR_BITS = 0.2  # a stretch this near to a whole number of bits speaks for the bit time
SINGLES = 0.02  # at least this share of stretches is one bit long, or the bit is in truth longer
LOOKED_AT = 4000  # stretches that are enough to find the bit time; it is refined within characters
NO_SINGLES = 2.0  # nats a stretch for a bit that never stands alone
CLOSE = 0.3  # nats a stretch within which another bit time is worth a look
BINS_PER_OCTAVE = 24  # 3 % a bin: as fine as clocks in the field are true
CANDIDATES = 6  # lengths of a stretch that are tried as the length of a bit, the commonest first


@dataclass(frozen=True)
class BitTime:
    """Seconds a bit lasts, how much longer a mark is than it should be, and the score: nats a stretch."""

    seconds: float
    lean: float
    score: float


def bit_times(edges: Edges) -> list[BitTime]:
    """Bit times that may be, the best first; empty where there are no stretches to judge by."""
    lengths, levels = edges.runs
    if not len(lengths):
        return []
    short, short_levels = lengths[:LOOKED_AT], levels[:LOOKED_AT]
    found: list[BitTime] = []
    for guess in _guesses(short):
        fitted = _fit(short, short_levels, guess)
        if fitted is not None and not any(abs(f.seconds / fitted.seconds - 1) < 0.01 for f in found):
            found.append(fitted)
    found.sort(key=lambda f: -f.score)
    return [f for f in found if f.score > found[0].score - CLOSE]


def _guesses(lengths: Times) -> list[float]:
    """The commonest lengths and small fractions of them, and the usual rates around the shortest."""
    logs = np.log2(lengths[lengths > 0])
    if not len(logs):
        return []
    bins = np.round(logs * BINS_PER_OCTAVE).astype(np.int64)
    kinds, counts = np.unique(bins, return_counts=True)
    common = kinds[np.argsort(-counts)][:CANDIDATES]
    guesses = [float(np.median(lengths[bins_of(lengths) == kind])) / part for kind in common for part in (1, 2, 3, 9)]
    low = float(np.quantile(lengths, 0.05))
    guesses += [1 / rate for rate in USUAL_RATES if 0.5 * low < 1 / rate < 1.5 * low]
    return guesses


def bins_of(lengths: Times) -> NDArray[np.int64]:
    """Lengths in classes of a 24th of an octave."""
    return np.round(np.log2(np.maximum(lengths, 1e-12)) * BINS_PER_OCTAVE).astype(np.int64)


def _fit(lengths: Times, levels: NDArray[np.uint8], guess: float) -> BitTime | None:
    """Least squares of length against whole bits and level, from a guess on; None where the guess explains nothing."""
    bit, lean = guess, 0.0
    side = levels.astype(np.float64) * 2 - 1  # +1 for a mark
    for _ in range(6):
        own = lengths - lean * side
        whole = np.round(own / bit)
        within = (own < LONGEST_BITS * bit) & (whole >= 1)
        fits = within & (np.abs(own - whole * bit) < NEAR_BITS * bit)
        if fits.sum() < 1 or within.sum() == 0:
            return None
        n, s, d = whole[fits], side[fits], lengths[fits]
        nn, ns, ss = float(n @ n), float(n @ s), float(s @ s)
        determinant = nn * ss - ns * ns
        if determinant > 1e-9 * nn * ss:
            nd, sd = float(n @ d), float(s @ d)
            bit, lean = (nd * ss - sd * ns) / determinant, (sd * nn - nd * ns) / determinant
        else:
            bit, lean = float(n @ d) / nn, 0.0
        if bit <= 0 or abs(lean) > 0.4 * bit:
            return None
    # Density of each stretch: whole bits within the width of jitter, or anything within a character's length.
    score = float(
        np.where(fits, -np.log(10 * NEAR_BITS * bit), np.where(within, -np.log(200 * bit), -np.log(20 * bit))).mean()
    )
    singles = float((n == 1).sum()) / len(n)
    return BitTime(bit, lean, score - (NO_SINGLES if singles < SINGLES else 0.0))
