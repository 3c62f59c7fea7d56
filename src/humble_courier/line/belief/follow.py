"""Which senders explain received characters in their order: the forward pass over the hypotheses that are worth it.

Few hypotheses are tried on the first characters, and only those that stay near the best are refined: by the kind of
traffic and of pauses, then by the clocks' error and where in a bit the receiver reads. What comes out is the logarithm of
how likely the characters are for each rate and frame. A hypothesis that was left behind goes on losing as it did.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import product

import numpy as np
from numpy.typing import NDArray

from humble_courier.domain.settings import Frame
from humble_courier.line.belief.bit_schedule import READINGS, reading_times, unsure
from humble_courier.line.belief.forward import Forward, Hypotheses

SLOWEST, FASTEST = 1 / 11, 1.05  # ratio sender to receiver that is followed
FIRST, SECOND, AT_A_TIME = 16, 32, 8  # characters in the first two rounds, and after how many the worst are left behind
WITHIN = (17.0, 12.0, 10.0)  # nats behind the best in each round
MOST_TRIED = (24, 32)  # of the best that are refined after the first and the second round
SYMBOL_BREAK = 256
MOST = 128  # characters that are followed
FIRST_KINDS = {"log text": 0.5, "any bytes": 0.5}
KINDS = {"log text": 0.3, "sentences": 0.2, "binary messages": 0.25, "any bytes": 0.15, "mostly one byte": 0.1}
# How likely the next character follows at once, how likely a pause ends in a quarter of a bit: how often (common practice).
FIRST_PAUSES = {(0.6, 0.1): 1.0}
PAUSES = {(0.95, 0.05): 0.5, (0.2, 0.05): 0.25, (0.2, 0.5): 0.25}
CLOCKS = (-0.015, -0.005, 0.005, 0.015)  # of both ends together
UNSURE = 0.05  # chance that a reading falls on another bit, from which on it is kept apart
CENTRES = (7.0, 8.0, 9.0)

TO_NEXT_EDGE, SPARE = 0.2, 0.08  # share of a character up to the next fall; nats that chance may add to each character

Key = tuple[int, str]


@dataclass(frozen=True)
class Followed:
    """One hypothesis: the sender's rate and frame, the receiver's rule after a low stop bit, and what refines them.

    `weight`: natural logarithm of how often it is met.
    """

    rate: int
    frame: str
    low_is_start: bool
    kind: str = ""
    pause: tuple[float, float] = (0.0, 0.0)
    clock: float = 0.0
    centre: float = 8.0
    weight: float = 0.0

    @property
    def key(self) -> Key:
        return self.rate, self.frame


def follow(symbols: NDArray[np.int64], receiver: int, rates: Iterable[int], frames: Sequence[str]) -> dict[Key, float]:
    """Log likelihood of characters received with 8N1 at a rate, for each rate and frame of a sender.

    `symbols`: the byte, plus 256 with an error, in the order in which they came. Rates outside SLOWEST to FASTEST of the
    receiver's are not followed and left out.
    """
    near = [rate for rate in rates if SLOWEST <= rate / receiver <= FASTEST]
    symbols = symbols[:MOST]
    if not near or not len(symbols):
        return {}
    behind: dict[Key, float] = {}
    tried = [Followed(rate, frame, rule) for rate, frame, rule in product(near, frames, rules(symbols))]
    found = _round(_by_traffic(tried, FIRST_KINDS, FIRST_PAUSES), symbols[:FIRST], receiver, WITHIN[0], behind)
    tried = list(dict.fromkeys(replace(one, kind="", weight=0.0) for one in _best(found, MOST_TRIED[0])))
    found = _round(_by_traffic(tried, KINDS, PAUSES), symbols[:SECOND], receiver, WITHIN[1], behind)
    tried = _best(found, MOST_TRIED[1])
    last = _round(_by_receiver(tried, receiver), symbols, receiver, WITHIN[2], behind)
    joined: dict[Key, float] = {}
    for one, log in last.items():
        joined[one.key] = float(np.logaddexp(joined.get(one.key, -np.inf), log))
    best = max(joined.values())
    return {key: best - lost * len(symbols) for key, lost in behind.items()} | joined


def explains(told: dict[Key, float], receiver: int, count: int) -> bool:
    """Whether the likeliest of what was followed can be the sender: what its characters are may surprise, each of its data
    bits by one bit, but not more. Where a faster sender is taken for a slow one, noise has to explain the rest.
    """
    rate, frame = best = max(told, key=lambda key: told[key])
    covered = min(1.0, rate / receiver + TO_NEXT_EDGE)  # of a character of the sender, by one of the receiver
    return bool(told[best] / count >= -(Frame.parse(frame).data_bits * np.log(2) * covered + SPARE))


def rules(symbols: NDArray[np.int64]) -> tuple[bool, ...]:
    """The rules after a low stop bit between which the characters tell: a break is treated alike by both."""
    return (False, True) if bool((symbols > SYMBOL_BREAK).any()) else (False,)


def _by_traffic(tried: list[Followed], kinds: dict[str, float], pauses: dict[tuple[float, float], float]) -> list[Followed]:
    return [
        replace(one, kind=kind, pause=pause, weight=float(np.log(often * pauses[pause])))
        for one, (kind, often), pause in product(tried, kinds.items(), pauses)
    ]


def _by_receiver(tried: list[Followed], receiver: int) -> list[Followed]:
    """Refined by clock and centre; those whose readings fall on the same bits are one."""
    kinds = {rate: _patterns(rate / receiver) for rate in {one.rate for one in tried}}
    return [
        replace(one, clock=clock, centre=centre, weight=one.weight + weight)
        for one in tried
        for clock, centre, weight in kinds[one.rate]
    ]


@lru_cache(maxsize=512)
def _patterns(ratio: float) -> tuple[tuple[float, float, float], ...]:
    """Clocks and centres that make a difference, with the logarithm of how many of all they stand for."""
    pairs = list(product(CLOCKS, CENTRES))
    ratios, centres = np.array([ratio * (1 + clock) for clock, _ in pairs]), np.array([centre for _, centre in pairs])
    times = reading_times(ratios, centres, READINGS)
    bits = np.floor(times) + 0.5 * (unsure(times, ratios) > UNSURE)
    alike: dict[bytes, list[int]] = {}
    for i, column in enumerate(bits.T):
        alike.setdefault(column.tobytes(), []).append(i)
    middles = [(same[len(same) // 2], len(same)) for same in alike.values()]
    return tuple((*pairs[i], float(np.log(count / len(pairs)))) for i, count in middles)


def _best(found: dict[Followed, float], most: int) -> list[Followed]:
    return sorted(found, key=lambda one: -found[one])[:most]


def _round(
    tried: list[Followed], symbols: NDArray[np.int64], receiver: int, within: float, behind: dict[Key, float]
) -> dict[Followed, float]:
    """Those that stay near the best, with their logarithms; `behind` is told what the others lost with each character."""
    tried = sorted(tried, key=lambda one: (one.low_is_start, one.frame, one.kind))
    runs = [[one for one in tried if one.low_is_start is rule] for rule in (False, True)]
    passes = [(run, Forward(_hypotheses(run, receiver), run[0].low_is_start)) for run in runs if run]
    for at in range(0, len(symbols), AT_A_TIME):
        for _, forward in passes:
            forward.feed(symbols[at : at + AT_A_TIME])
        logs = [forward.logs + np.array([one.weight for one in run]) for run, forward in passes]
        best = max(float(log.max()) for log in logs)
        gone = at + len(symbols[at : at + AT_A_TIME])
        lost: dict[Key, float] = {}
        for (run, _), log in zip(passes, logs, strict=True):
            for one, less in zip(run, (best - log) / gone, strict=True):
                lost[one.key] = min(float(less), lost.get(one.key, np.inf))
        behind |= lost
        passes = [_left(run, forward, log >= best - within) for (run, forward), log in zip(passes, logs, strict=True)]
        passes = [(run, forward) for run, forward in passes if run]
    return {one: float(log) + one.weight for run, forward in passes for one, log in zip(run, forward.logs, strict=True)}


def _left(run: list[Followed], forward: Forward, near: NDArray[np.bool_]) -> tuple[list[Followed], Forward]:
    if near.any() and not near.all():
        forward.keep(np.flatnonzero(near))
    return [one for one, kept in zip(run, near, strict=True) if kept], forward


def _hypotheses(tried: list[Followed], receiver: int) -> Hypotheses:
    return Hypotheses(
        np.array([one.rate / receiver * (1 + one.clock) for one in tried]),
        np.array([one.centre for one in tried]),
        tuple(one.frame for one in tried),
        tuple(one.kind for one in tried),
        np.array([one.pause[0] for one in tried], np.float32),
        np.array([one.pause[1] for one in tried], np.float32),
    )
