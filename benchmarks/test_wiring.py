"""The wiring engine: trace, chain search, next touch; each as a ratio to a named reference in the same run."""

import random
import time
from collections.abc import Callable
from dataclasses import replace
from itertools import permutations

import pytest
from pytest_benchmark.fixture import BenchmarkFixture

from humble_courier.app.wire.meter import cable_line_up
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.named import ends_named
from humble_courier.domain.hardware import Conductor, Connector, Gender, Part
from humble_courier.domain.settings import Handshake
from humble_courier.wiring.identify.cable import Reading, identify
from humble_courier.wiring.identify.suspects import line_up
from humble_courier.wiring.nets import Chain
from humble_courier.wiring.planner.search import ChainNeed, Offer, find_chains
from humble_courier.wiring.trace import trace

CATALOG = Catalog()
SIX = ("straight-de9", "gender-changer-de9-sockets", "crossover-adapter-de9", "straight-de9", "straight-de9", "straight-de9")


def seconds(act: Callable[[], object], times: int = 1) -> float:
    begun = time.perf_counter()
    for _ in range(times):
        act()
    return (time.perf_counter() - begun) / times


def told(benchmark: BenchmarkFixture, name: str, reference: float) -> None:
    mine = benchmark.stats.stats.median
    benchmark.extra_info.update(milliseconds=round(mine * 1e3, 3), ratio=round(reference / mine, 1))
    print(f"\n{name}: {mine * 1e3:.2f} ms, reference {reference * 1e3:.2f} ms, ratio {reference / mine:.1f}")


def test_trace_of_six_parts(benchmark: BenchmarkFixture) -> None:
    """Aim: under 2 ms. Reference: networkx's connected components of the same contacts, the joining alone."""
    import networkx as nx

    parts = tuple(CATALOG.part(id_) for id_ in SIX)
    port = CATALOG.port("dte-de9")
    benchmark(lambda: trace(Chain(port, parts, port), CATALOG.levels))

    def components() -> int:
        graph: nx.Graph = nx.Graph()
        for node, part in enumerate(parts, start=1):
            graph.add_edges_from(((node, w.a.end, w.a.contact), (node, w.b.end, w.b.contact)) for w in part.conductors)
            graph.add_edges_from(((node - 1, int(node > 1), str(c)), (node, 0, str(c))) for c in range(1, 10))
        return nx.number_connected_components(graph)

    told(benchmark, "trace of six parts", seconds(components, 50))


def kit(size: int) -> list[Offer]:
    """Parts of the catalog, half of the passive ones with two conductors exchanged: leads of one's own."""
    dice, base = random.Random(1), [CATALOG.part(id_) for id_ in CATALOG.part_entries]
    made: list[Offer] = []
    while len(made) < size:
        part = dice.choice(base)
        if part.conductors and dice.random() < 0.5:
            part = _exchanged(part, dice, len(made))
        made.append(Offer(part, 1, dice.randrange(50), dice.randrange(9), dice.randrange(3)))
    return made


def _exchanged(part: Part, dice: random.Random, number: int) -> Part:
    far = [w.b for w in part.conductors]
    i, j = dice.randrange(len(far)), dice.randrange(len(far))
    far[i], far[j] = far[j], far[i]
    wires = tuple(Conductor(w.a, f) for w, f in zip(part.conductors, far, strict=True))
    return replace(part, id=f"own-{number}", conductors=wires)


@pytest.mark.parametrize("size", [200, 2000])
@pytest.mark.parametrize("asked", [frozenset(), frozenset({Handshake.RTS_CTS})], ids=["data", "rts-cts"])
def test_chain_search(benchmark: BenchmarkFixture, size: int, asked: frozenset[Handshake]) -> None:
    """Aim: 200 parts under 100 ms, 2 000 under 1 s. Reference: every chain of up to two parts traced, on a twentieth of
    the kit, and grown by the square of the size (the whole would take minutes)."""
    offers = kit(size)
    device = CATALOG.device_port(CATALOG.device("gauge-logger"))
    need = ChainNeed(CATALOG.port("usb-a"), device, CATALOG.levels, asked)
    outcome = benchmark.pedantic(lambda: find_chains(need, offers), rounds=5)
    assert outcome.plans and outcome.complete
    sample = offers[: max(10, size // 20)]

    def enumerate_all() -> int:
        return sum(
            trace(Chain(need.computer, (a.part, b.part), device), need.levels, asked).verdict.usable
            for a, b in permutations(sample, 2)
        )

    told(benchmark, f"search, {size} parts", seconds(enumerate_all) * (size / len(sample)) ** 2)


def test_next_touch_with_forty_suspects(benchmark: BenchmarkFixture) -> None:
    """Aim: under 100 ms. Reference: building the line-up of suspects once."""
    dice, straight = random.Random(2), CATALOG.part("straight-de9")
    parts = [straight, *(_exchanged(_exchanged(straight, dice, i), dice, i) for i in range(120))]
    nine = Connector("D", 9, Gender.EITHER)
    suspects = line_up((nine, nine), parts, CATALOG.shapes)
    forty = parts
    for count in range(len(parts), 0, -1):
        forty = parts[:count]
        suspects = line_up((nine, nine), forty, CATALOG.shapes)
        if len(suspects.names) <= 40:
            break
    assert len(suspects.names) == 40
    readings = [Reading(*suspects.touches[0], beep=False)]
    benchmark(lambda: identify(suspects, readings))
    told(benchmark, "next touch, 40 suspects", seconds(lambda: line_up((nine, nine), forty, CATALOG.shapes)))


def test_touches_against_a_fixed_order(benchmark: BenchmarkFixture) -> None:
    """Average touches until a cable is named, over all catalog cables; the fixed order goes A1-B1, A1-B2, … as by hand."""

    def average(fixed: bool) -> float:
        counts = []
        for text in ("D9,D9", "D9,D25", "D25,D25", "8P8C,8P8C", "D9,8P8C"):
            suspects = cable_line_up(ends_named(text, CATALOG), CATALOG)
            order = [t for t in suspects.touches if t[0].end != t[1].end]
            for n, name in enumerate(suspects.names):
                row = next(i for i, s in enumerate(suspects.suspects) if s.name == n and s.fault is None)
                readings: list[Reading] = []
                while (said := identify(suspects, readings, choose=not fixed)).name != name and len(readings) < len(order):
                    touch = order[len(readings)] if fixed else said.next_touch
                    assert touch is not None
                    readings.append(Reading(*touch, bool(suspects.joined[row, suspects.column[touch]])))
                counts.append(len(readings))
        return sum(counts) / len(counts)

    chosen = benchmark.pedantic(lambda: average(fixed=False), rounds=1)
    fixed = average(fixed=True)
    benchmark.extra_info.update(touches=round(chosen, 2), fixed_order=round(fixed, 2))
    print(f"\ntouches to name a cable: {chosen:.2f}, in a fixed order {fixed:.2f}, ratio {fixed / chosen:.1f}")
