"""What a line does to a wave: clocks that drift, edges that jitter or rise slowly, others who speak at the same time."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from humble_courier.line.wave import Wave

GRID = 64  # slots a bit of a disturbed wave: finer than a receiver's sixteen ticks
THRESHOLD = 0.5  # of the way from one level to the other


@dataclass(frozen=True)
class Disturbance:
    """What happens on the way, in bit times of the sender.

    `drift`: change of the sender's clock over the wave, as a fraction (0.01: 1 % slower at the end). `jitter`: one sigma of
    each change. `rise`: time constant of the cable with its driver, as of an RC low-pass (10 to 90 % takes 2.2 of it).
    """

    drift: float = 0.0
    jitter: float = 0.0
    rise: float = 0.0
    seed: int = 0


def disturb(wave: Wave, rate: float, how: Disturbance) -> Wave:
    """The wave as it arrives. `rate` in bit/s; the result lies on a finer grid and is as long, drift apart."""
    bit = 1 / rate
    edges = wave.edges()
    if not edges:
        return wave
    times = np.array([t for t, _ in edges])
    whole = wave.seconds
    times = times * (1 + how.drift * times / whole / 2)
    if how.jitter:
        times = np.sort(times + np.random.default_rng(how.seed).normal(0, how.jitter * bit, len(times)))
    levels = [level for _, level in edges]
    if how.rise:
        times, levels = _filtered(times, levels, how.rise * bit)
    return _gridded(times, levels, whole * (1 + how.drift / 2) + bit, rate)


def _filtered(times: NDArray[np.float64], levels: list[int], tau: float) -> tuple[NDArray[np.float64], list[int]]:
    """When an RC low-pass crosses the threshold: pulses too short for it vanish, others come late."""
    value, at, out = 1.0, 0.0, 1
    crossings, kept = [], []
    for i, (time, level) in enumerate(zip(times, levels, strict=True)):
        goal = 1.0 - level  # until this change the line went to the other level
        value = goal + (value - goal) * float(np.exp(-(time - at) / tau))
        at = float(time)
        until = float(times[i + 1]) if i + 1 < len(times) else np.inf
        if level == out:
            continue
        delay = tau * float(np.log(abs(level - value) / abs(level - THRESHOLD)))
        if at + delay < until:
            crossings.append(at + delay)
            kept.append(level)
            out = level
    return np.array(crossings), kept


def _gridded(times: NDArray[np.float64], levels: list[int], seconds: float, rate: float) -> Wave:
    slots = np.ones(int(np.ceil(seconds * rate * GRID)) + GRID, np.uint8)
    at = np.round(times * rate * GRID).astype(np.int64)
    for begin, end, level in zip(at, [*at[1:], len(slots)], levels, strict=True):
        slots[begin:end] = level
    return Wave(slots, rate * GRID)


def together(waves: list[tuple[float, Wave]]) -> Wave:
    """Several senders on one pair, each with the second at which it begins: where they differ, space wins.

    That is so by design on J1708 and other lines with a dominant level; two RS-485 drivers that meet give no level that can
    be relied upon, and space is what garbles most. One's own words heard back (echo) are a wave among the others.
    """
    rate = max(wave.slot_rate for _, wave in waves)
    length = max(begin + wave.seconds for begin, wave in waves)
    slots = np.ones(int(np.ceil(length * rate)) + 1, np.uint8)
    for begin, wave in waves:
        first = round(begin * rate)
        count = min(round(wave.seconds * rate), len(slots) - first)
        source = np.minimum((np.arange(count) * (wave.slot_rate / rate)).astype(np.int64), len(wave.levels) - 1)
        slots[first : first + count] &= wave.levels[source]
    return Wave(slots, rate)
