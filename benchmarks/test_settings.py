"""Settings out of recordings and out of bytes: speed against a pass over the same array, accuracy on other traffic."""

import time
from collections.abc import Callable

import numpy as np
import pytest
from numpy.typing import NDArray
from tests.line.belief.other_traffic import OTHER
from tests.line.belief.test_belief import listened
from tests.line.recordings import recorded

from humble_courier.domain.settings import Frame, Settings
from humble_courier.errors import BadInput
from humble_courier.line.belief import cells
from humble_courier.line.belief.belief import Belief, in_order
from humble_courier.line.belief.listening import Listening
from humble_courier.line.edges import Edges, from_samples
from humble_courier.line.from_edges import infer_edges
from humble_courier.line.rates import FRAME_PRIORS, RATE_PARTS
from humble_courier.line.uart import Resync
from humble_courier.line.wave import encode

RATES = (300, 600, 1200, 2400, 4800, 9600, 14400, 19200, 28800, 38400, 57600, 76800, 115200, 230400, 460800)
FRAMES = ("8N1", "7E1", "7O1", "8E1", "8O1", "8N2", "7N2")
SAME = {"8N2": "8N1", "7E2": "7E1", "7O2": "7O1"}


def shares(usual: bool) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """How often frames and rates are drawn."""
    frames = np.array([FRAME_PRIORS[f] if usual else 1.0 for f in FRAMES])
    rates = np.array([RATE_PARTS.get(r, 1) if usual else 1 for r in RATES], float)
    return frames / frames.sum(), rates / rates.sum()


def levels(count: int) -> NDArray[np.uint8]:
    data = np.random.default_rng(1).integers(0, 128, count // 176 + 100, np.uint8).tobytes()
    return np.repeat(encode(data, Settings.parse("9600,8N1"), 1).levels, 8)[:count]


def passes(array: NDArray[np.uint8]) -> float:
    """Seconds of one pass of NumPy over the array."""
    begin = time.perf_counter()
    np.flatnonzero(array[1:] != array[:-1])
    return time.perf_counter() - begin


def test_ten_million_samples(benchmark: Callable[..., object]) -> None:
    array = levels(10_000_000)
    benchmark(lambda: infer_edges(from_samples(array, 1 / 9600 / 16)))
    took = benchmark.stats.stats.median  # type: ignore[attr-defined]
    print(f"\n10 million samples: {took * 1e3:.0f} ms, {took / passes(array):.0f} times one pass")


def test_a_million_edges(benchmark: Callable[..., object]) -> None:
    edges = from_samples(levels(30_000_000), 1 / 9600 / 16)
    million = Edges(edges.times[:1_000_000], edges.first, float(edges.times[1_000_000]))
    benchmark(lambda: infer_edges(million))
    took = benchmark.stats.stats.median  # type: ignore[attr-defined]
    begin = time.perf_counter()
    np.diff(million.times)
    print(f"\n1 million edges: {took * 1e3:.0f} ms, {took / (time.perf_counter() - begin):.0f} times one pass")


def test_sixty_four_bytes(benchmark: Callable[..., object]) -> None:
    random = np.random.default_rng(2)
    heard = listened(random, "licence_text", Settings.parse("4800,7E1"), Settings(9600), 64, Resync.WAIT_FOR_MARK)
    symbols = in_order(*heard)

    def infer() -> None:
        belief = Belief()
        belief.listen_in_order(Settings(9600), symbols)
        belief.told()

    infer()  # loads the tables
    benchmark(infer)
    print(f"\n64 bytes: {benchmark.stats.stats.median * 1e3:.1f} ms")  # type: ignore[attr-defined]


@pytest.mark.parametrize(("count", "usual"), [(16, False), (64, False), (256, False), (64, True)])
def test_one_listen(benchmark: Callable[..., object], count: int, usual: bool) -> None:
    """Settings all as likely, or as usual; receivers from a quarter of the rate up, of each kind; traffic of other kinds."""
    random, told = np.random.default_rng(count), []
    frame_shares, rate_shares = shares(usual)

    def trial() -> None:
        rate, frame = int(random.choice(RATES, p=rate_shares)), str(random.choice(FRAMES, p=frame_shares))
        near = [r for r in RATES if rate / 4 <= r <= 10.5 * rate]
        opened, resync = Settings(int(random.choice(near))), list(Resync)[int(random.integers(0, 2))]
        centre = cells.CENTRES[int(random.integers(0, len(cells.CENTRES)))]
        clock, sent = 1 + random.uniform(-0.015, 0.015), Settings(rate, Frame.parse(frame))
        heard = listened(random, str(random.choice(list(OTHER))), sent, opened, count, resync, clock, centre)
        belief = Belief(even=not usual)
        belief.listen_in_order(opened, in_order(*heard))
        best = belief.told()[0]
        whole = best.rate == rate and str(best.frame) == SAME.get(frame, frame)
        kind = f"read at {centre[0]}{' three times' if centre[1] else ''}, {resync}"
        told.append((rate / opened.rate, kind, best.probability, best.rate == rate, whole))

    benchmark.pedantic(trial, rounds=400)  # type: ignore[attr-defined]
    print(f"\n{count} bytes, {'usual' if usual else 'any'} settings")
    for low, high in ((0, 20), (0, 0.3), (0.3, 1.01), (1.01, 20)):
        some = [one for one in told if low <= one[0] < high]
        print(f"  sender to receiver {low} to {high}, {len(some)}: {summed(some)}")
    for kind in sorted({one[1] for one in told}):
        print(f"  {kind}: {summed([one for one in told if one[1] == kind])}")


def summed(told: list[tuple[float, str, float, bool, bool]]) -> str:
    """How often rate and whole setting were right, and claims above 95 %."""
    if not told:
        return "none"
    right, whole = np.mean([one[3] for one in told]), np.mean([one[4] for one in told])
    sure = [one[4] for one in told if one[2] > 0.95]
    claims = f"claims above 95 %: {len(sure)}" + (f", right {np.mean(sure):.1%}" if sure else "")
    return f"rate right {right:.0%}, whole setting {whole:.0%}; {claims}"


@pytest.mark.parametrize(("count", "usual"), [(64, False), (16, False), (64, True)])
def test_listening_until_certain(benchmark: Callable[..., object], count: int, usual: bool) -> None:
    """Against going through all rates and frames in order, 8N1 first, until one is read without errors."""
    random, listens, right, certain = np.random.default_rng(count), [], 0, []
    frame_shares, rate_shares = shares(usual)

    def trial() -> None:
        nonlocal right
        rate, frame = int(random.choice(RATES, p=rate_shares)), str(random.choice(FRAMES, p=frame_shares))
        kind, resync = str(random.choice(list(OTHER))), list(Resync)[int(random.integers(0, 2))]
        sent, clock = Settings(rate, Frame.parse(frame)), 1 + random.uniform(-0.015, 0.015)
        listening, settled = Listening(), None
        centre = cells.CENTRES[int(random.integers(0, len(cells.CENTRES)))]
        while listening.answer is None and not listening.given_up:
            opened = listening.next()
            listening.heard(opened, *listened(random, kind, sent, opened, count, resync, clock, centre))
            if settled is None and max(listening.belief.rates().values()) >= 0.99:
                settled = listening.listens
        found = listening.answer
        listens.append(listening.listens)
        certain.append(settled or listening.listens)
        right += (
            found is not None and found.settings.rate == rate and frame in {str(found.settings.frame), *found.equivalent}
        )

    benchmark.pedantic(trial, rounds=300)  # type: ignore[attr-defined]
    grid = len(RATES) * len(FRAMES) / 2
    most = np.quantile(listens, 0.95)
    told = f"rate certain after {np.mean(certain):.2f}, all after {np.mean(listens):.2f} (95 %: {most:.0f})"
    print(f"\n{count} bytes, {'usual' if usual else 'any'} settings: {told} of {grid:.0f} in order; right {right / 300:.1%}")


@pytest.mark.parametrize("length", [4, 16, 120])
def test_recordings(benchmark: Callable[..., object], length: int) -> None:
    """Recordings of other traffic, settings as usual: clocks 2 % off, jitter, edges that lean, pauses of each kind.

    A frame that is told as one that cannot be told apart counts as right.
    """
    random, told = np.random.default_rng(length), []
    frame_shares, rate_shares = shares(usual=True)

    def trial() -> None:
        rate, frame = int(random.choice(RATES, p=rate_shares)), str(random.choice(FRAMES, p=frame_shares))
        sent, kind = Settings(rate, Frame.parse(frame)), str(random.choice(["none", "steady", "scattered"]))
        data, clock = OTHER[str(random.choice(list(OTHER)))](random, length)[:length], 1 + random.uniform(-0.02, 0.02)
        data = bytes(byte & (1 << sent.frame.data_bits) - 1 for byte in data)
        inverted, lean = bool(random.random() < 0.1), random.uniform(-0.1, 0.1)
        edges = recorded(random, data, sent, kind, clock, random.uniform(0, 0.04), inverted, lean)
        try:
            found = infer_edges(edges)
        except BadInput:  # too few changes to judge by is an answer
            told.append((0.0, kind, 0.0, False, False))
            return
        alike = {str(found.best.frame), *(str(one) for one in found.equivalent)}
        right = found.best.rate == rate
        same = frame in alike or SAME.get(frame, frame) in alike
        told.append((0.0, kind, found.best.probability, right, right and same and found.best.inverted is inverted))

    benchmark.pedantic(trial, rounds=300)  # type: ignore[attr-defined]
    print(f"\nrecordings of {length} characters: {summed(told)}")
    for kind in ("none", "steady", "scattered"):
        print(f"  pauses {kind}: {summed([one for one in told if one[1] == kind])}")
