"""Settings from level changes: bit time, polarity and frame, with honest candidates where the data cannot tell.

Each frame is weighed by how well it explains the recording: characters that break its rules are rare, each different
value costs its data bits (a parity bit that always fits is cheaper than a data bit that happens to), and pauses that are
exactly one stop bit long again and again are rather stop bits.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from humble_courier.domain.settings import Frame
from humble_courier.errors import BadInput
from humble_courier.line.bit_time import BitTime, bit_times
from humble_courier.line.edges import Edges, Read, read
from humble_courier.line.rates import FRAMES, named, usual

FEWEST_EDGES = 4  # two characters at least
GLITCH_BITS = 0.2  # shorter stretches than this are no bits
FITTED_EDGES = 100_000  # a fit over more only takes time
NEAR_FIT = 0.05  # a second fit that is further away than this has gone astray
JUDGED_EDGES = 6000  # some hundred characters; more only take time
SEARCHED_EDGES = 50_000  # among which so many are that are no glitches
MOST_EDGES = 4_000_000  # read in all: more would only cost memory
WRONG = np.log(0.01)  # of a character that breaks the frame's rules
SHARES_AT_ONCE = (0.01, 0.1, 0.3, 0.6, 0.9, 0.99)  # how often the next character may follow at once, all as likely
AT_ONCE_BITS = 0.12  # width of “at once”: clocks and jitter
PAUSE_SCALES = (1.0, 3.0, 10.0, 30.0, 100.0)  # bits: of what order pauses are, all as likely
STEADY = float(np.log(0.05 / PAUSE_SCALES[-1]))  # a steady pause, and this one of all that could be
EARLY = 1e-5  # density of a start before the frame's end
TEXT_SHARE = 0.6  # belief that bytes are text, of which none is above 127
NINE_BITS = 9 * float(np.log(2))  # what a character of nine bits costs in nats where nothing is known of it
LIKELY = 1e-4  # candidates below this are not told
IDLE_IS_MARK = np.log(0.98)
SAMPLES_A_BIT = 2.0  # the least at which an edge can be placed within a bit (Nyquist)


@dataclass(frozen=True)
class Candidate:
    """A setting that may be: rate (bit/s, usual one where near), frame, polarity, probability."""

    rate: int
    frame: Frame
    inverted: bool
    probability: float


@dataclass(frozen=True)
class FromEdges:
    """What a recording says. `measured_rate` in bit/s; `glitches` short stretches left out; `read` as the best reads it."""

    best: Candidate
    measured_rate: float
    candidates: tuple[Candidate, ...]
    equivalent: tuple[Frame, ...]
    read: Read
    glitches: int
    judged: int
    left_out: bool


def infer_edges(edges: Edges) -> FromEdges:
    """Settings from a recording. Raises BadInput where there is nothing to judge by, with what to do."""
    left_out = len(edges) > MOST_EDGES
    edges = edges.head(MOST_EDGES)
    if len(edges) < FEWEST_EDGES:
        raise BadInput(f"{len(edges)} level changes: too few to judge by; record while something is sent")
    weighed: list[tuple[float, BitTime, Frame, bool]] = []
    for bit in bit_times(edges):
        met = np.log(usual(1 / bit.seconds))
        clean = _cleaned(edges.head(SEARCHED_EDGES), bit).head(JUDGED_EDGES)
        for inverted in (False, True):
            side = clean.inverted() if inverted else clean
            for frame, prior in FRAMES.items():
                weight = np.log(prior) + met + _weight(side, bit, frame) + bit.score * min(len(edges), JUDGED_EDGES)
                weighed.append((float(weight), bit, frame, inverted))
    if not weighed:
        raise BadInput("no stretch of the recording looks like bits: record nearer to the sender, or with more samples")
    weighed.sort(key=lambda w: -w[0])
    _, bit, frame, inverted = weighed[0]
    side = _cleaned(edges, bit)
    side = side.inverted() if inverted else side
    seconds, lean = refined(side.head(FITTED_EDGES), bit.seconds, frame)
    side = _levelled(side, -lean)
    if edges.resolution and seconds < SAMPLES_A_BIT * edges.resolution:
        wanted = f"{4 / seconds:.0f}"
        raise BadInput(f"sampled too seldom for these bits: record with {wanted} samples a second or more")
    scale = weighed[0][0]
    fine = replace(bit, seconds=seconds)
    candidates = _told([(np.exp(w - scale), fine if b is bit else b, f, i) for w, b, f, i in weighed])
    equivalent = tuple(c.frame for c in candidates[1:] if c.rate == candidates[0].rate and c.probability > 0.01)
    glitches = (len(edges) - len(side)) // 2
    return FromEdges(
        candidates[0],
        1 / seconds,
        candidates,
        equivalent,
        read(side, seconds, frame),
        glitches,
        len(edges),
        left_out,
    )


def refined(edges: Edges, bit: float, frame: Frame) -> tuple[float, float]:
    """Bit time and lean of the rises (seconds), from changes within characters only: pauses do not disturb these.

    Least squares of the time since the start bit against whole bits, and whether the change is a rise.
    """
    starts = read(edges, bit, frame).starts
    if not len(starts):
        return bit, 0.0
    character = np.searchsorted(starts, edges.times, side="right") - 1
    offsets = edges.times - starts[np.maximum(character, 0)]
    whole = np.round(offsets / bit)
    last = frame.bits - frame.stop_bits
    within = (character >= 0) & (whole >= 1) & (whole <= last) & (np.abs(offsets - whole * bit) < 0.35 * bit)
    rises = ((np.arange(len(offsets)) + (edges.first == 0)) & 1).astype(np.float64)
    table = np.stack((whole[within], rises[within]), axis=1)
    if len(table) < FEWEST_EDGES or np.linalg.matrix_rank(table.T @ table) < 2:
        return bit, 0.0
    fitted, lean = np.linalg.solve(table.T @ table, table.T @ offsets[within])
    return (float(fitted), float(lean)) if abs(fitted / bit - 1) < NEAR_FIT else (bit, 0.0)


def _told(weighed: list[tuple[float, BitTime, Frame, bool]]) -> tuple[Candidate, ...]:
    """Candidates with probabilities, those of one rate and frame joined."""
    joined: dict[tuple[int, Frame, bool], float] = {}
    for weight, bit, frame, inverted in weighed:
        for rate, share in named(1 / bit.seconds).items():
            joined[rate, frame, inverted] = joined.get((rate, frame, inverted), 0.0) + weight * share
    whole = sum(joined.values())
    ordered = sorted(joined.items(), key=lambda item: -item[1])
    return tuple(Candidate(*key, weight / whole) for key, weight in ordered if weight / whole > LIKELY)


def _cleaned(edges: Edges, bit: BitTime) -> Edges:
    """Without glitches, and with marks as long as they should be."""
    return _levelled(edges.without(GLITCH_BITS * bit.seconds), bit.lean)


def _levelled(edges: Edges, lean: float) -> Edges:
    """The same with marks as long as they should be: each fall comes that much earlier."""
    times = edges.times.copy()
    times[0 if edges.first == 1 else 1 :: 2] -= lean
    return Edges(times, edges.first, edges.end, edges.resolution)


def _weight(edges: Edges, bit: BitTime, frame: Frame) -> float:
    """Logarithm of how well a frame explains the recording."""
    got = read(edges, bit.seconds, frame)
    if not len(got):
        return -1e9
    wrong = got.framing | got.parity
    weight = float(wrong.sum()) * float(WRONG)
    weight += _values(np.unique(got.values[~wrong]), frame)
    weight -= len(np.unique(got.values[wrong])) * NINE_BITS  # what breaks the rules has to be told all the same
    lengths, levels = edges.runs
    longest = int(np.argmax(lengths)) if len(lengths) else 0
    if len(lengths) and lengths[longest] > 10.5 * bit.seconds:
        weight += IDLE_IS_MARK if levels[longest] == 1 else np.log(0.02)
    return weight + _pauses(got, bit.seconds, frame)


def _values(values: NDArray[np.uint8], frame: Frame) -> float:
    """What the different values cost: their data bits; text of eight bits costs seven."""
    count = len(values)
    plain = -count * frame.data_bits * np.log(2)
    if frame.data_bits < 8:
        return float(plain)
    high = int((values > 127).sum())
    text = float(np.log(TEXT_SHARE)) - count * 7 * np.log(2) + high * float(np.log(1e-3))
    return float(np.logaddexp(text, np.log(1 - TEXT_SHARE) + plain))


def _pauses(got: Read, bit: float, frame: Frame) -> float:
    """What the pauses after characters say: at once, later, or earlier than the frame allows."""
    pauses = np.diff(got.starts) / bit - frame.bits
    if not len(pauses):
        return 0.0
    at_once = _narrow(pauses)
    sums = []
    for scale in PAUSE_SCALES:
        later = np.where(pauses > 0, np.exp(-np.clip(pauses, 0, None) / scale) / scale, 0.0)
        sums += [_total(share * at_once + (1 - share) * later) for share in SHARES_AT_ONCE]
    # Some senders make the same pause after each character: one that is told once, then holds.
    steady = float(np.median(pauses))
    if steady > 2 * AT_ONCE_BITS:
        sums.append(_total(0.99 * _narrow(pauses - steady) + 0.01 * later) + STEADY)
    return float(np.logaddexp.reduce(sums)) - float(np.log(len(SHARES_AT_ONCE) * len(PAUSE_SCALES)))


def _narrow(bits: NDArray[np.floating]) -> NDArray[np.floating]:
    """Density of a difference that clocks and jitter make."""
    density: NDArray[np.floating] = np.exp(-0.5 * (bits / AT_ONCE_BITS) ** 2) / (AT_ONCE_BITS * np.sqrt(2 * np.pi))
    return density


def _total(densities: NDArray[np.floating]) -> float:
    return float(np.log(np.maximum(densities, EARLY)).sum())
