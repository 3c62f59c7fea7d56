"""Chain search against exhaustive enumeration (networkx simple paths), and against what any practitioner would take."""

from dataclasses import replace

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from humble_courier.catalog.load import Catalog
from humble_courier.domain.hardware import Conductor, Part
from humble_courier.domain.settings import Handshake
from humble_courier.wiring.findings import Verdict
from humble_courier.wiring.nets import Chain, why_not
from humble_courier.wiring.planner.search import ChainNeed, Offer, Plan, find_chains
from humble_courier.wiring.trace import trace

CATALOG = Catalog(demo=True)
RTS = frozenset({Handshake.RTS_CTS})


def need(computer: str, device: str, asked: frozenset[Handshake] = frozenset()) -> ChainNeed:
    sheet = CATALOG.has_sheet(device)
    port = CATALOG.device_port(CATALOG.device(device)) if sheet else CATALOG.port(device)
    return ChainNeed(CATALOG.port(computer), port, CATALOG.levels, asked)


def kit(words: str) -> list[Offer]:
    return [Offer(CATALOG.part(id_)) for id_ in words.split()]


def parts_of(plan: Plan) -> list[str]:
    return [offer.part.id for offer in plan.offers]


# What a practitioner would take (common practice).
TAKEN = [
    ("usb-a", "gauge-logger", "usb-rs232 straight-de9 crossover-adapter-de9", (), "usb-rs232 crossover-adapter-de9"),
    ("usb-a", "gauge-logger", "usb-rs232 crossed-de9-3wire crossed-de9-full", RTS, "usb-rs232 crossed-de9-full"),
    ("usb-a", "dce-de9", "usb-rs232 straight-de9", RTS, "usb-rs232"),
    ("dte-de9", "dte-de9", "straight-de9 gender-changer-de9-sockets crossover-adapter-de9", (), "crossover-adapter-de9"),
    ("dte-de9", "dte-de9", "straight-de9", (), ""),
    ("usb-a", "ttl-3v3-header", "usb-rs232 usb-ttl-5v converter-rs232-ttl-3v3", (), "usb-rs232 converter-rs232-ttl-3v3"),
    ("usb-a", "snow-pillow", "usb-rs232 converter-rs232-rs485", (), "usb-rs232 converter-rs232-rs485"),
    ("dte-de9", "console-8p8c", "adapter-de9-8p8c-console rolled-8p8c", RTS, "adapter-de9-8p8c-console rolled-8p8c"),
    ("usb-a", "obd-16", "usb-k-line usb-can-ascii", (), "usb-k-line"),
    ("usb-a", "j1708-6", "usb-can-ascii usb-j1708 cable-can-de9-round-9", (), "usb-j1708"),
    ("usb-a", "j1939-9", "usb-can-ascii usb-j1708 cable-can-de9-round-9", (), "usb-can-ascii cable-can-de9-round-9"),
    ("dte-db25", "dce-de9", "adapter-de9-db25 straight-db25 straight-de9", (), ""),
    ("dte-de9", "dce-db25", "adapter-de9-db25 straight-db25 straight-de9", RTS, "adapter-de9-db25"),
    ("dte-de9", "loop-20ma-passive", "converter-rs232-loop-20ma converter-rs232-rs422", (), "converter-rs232-loop-20ma"),
    ("dte-de9", "loop-20ma-active", "converter-rs232-loop-20ma", (), ""),  # both would supply the loop
    ("usb-a", "loopback-de9", "usb-rs232 usb-rs485", (), "usb-rs232"),
]  # fmt: skip


@pytest.mark.parametrize(("computer", "device", "bag", "asked", "best"), TAKEN)
def test_what_a_practitioner_takes(computer: str, device: str, bag: str, asked: frozenset[Handshake], best: str) -> None:
    outcome = find_chains(need(computer, device, frozenset(asked)), kit(bag))
    assert outcome.complete
    assert (parts_of(outcome.plans[0]) if outcome.plans else []) == best.split()
    assert (outcome.nearest is None) == bool(outcome.plans)
    if outcome.nearest is not None:
        assert outcome.nearest.trace.findings, "why the nearest fails is told"


def test_a_5v_adapter_is_not_offered_for_a_3v3_board() -> None:
    assert find_chains(need("usb-a", "ttl-3v3-header"), kit("usb-ttl-5v")).plans == ()


def test_cost_then_history_decide_between_equals() -> None:
    lead = CATALOG.part("crossed-de9-3wire")
    twin = replace(lead, id="twin")
    goal = need("dte-de9", "gauge-logger")
    dear, cheap = Offer(lead, cost=9), Offer(twin, cost=2)
    assert find_chains(goal, [dear, cheap]).plans[0].offers[0] is cheap
    tried, doubtful = Offer(lead, successes=8), Offer(twin, successes=1, failures=7)
    assert find_chains(goal, [doubtful, tried]).plans[0].offers[0] is tried


def test_no_more_of_a_part_than_there_is() -> None:
    """Two gender changers are needed to put a plug-to-plug lead between two plugs; with one the chain is not offered."""
    lead = replace(CATALOG.part("crossed-de9-full"), ends=(CATALOG.part("gender-changer-de9-plugs").ends))
    changer = CATALOG.part("gender-changer-de9-sockets")
    goal = need("dte-de9", "dte-de9")
    assert find_chains(goal, [Offer(lead), Offer(changer)]).plans == ()
    found = find_chains(goal, [Offer(lead), Offer(changer, count=2)]).plans
    assert [o.part.id for o in found[0].offers] == [changer.id, lead.id, changer.id]


@pytest.mark.parametrize("empty", [[], [Offer(CATALOG.part("crossed-de9-3wire"), count=0)]])
def test_an_empty_kit(empty: list[Offer]) -> None:
    outcome = find_chains(need("dte-de9", "gauge-logger"), empty)
    assert outcome.plans == () and outcome.nearest is not None


POOL = [
    "straight-de9", "crossed-de9-3wire", "crossed-de9-partial", "crossed-de9-full", "crossover-adapter-de9",
    "gender-changer-de9-plugs", "gender-changer-de9-sockets", "adapter-de9-db25", "crossed-db25", "straight-db25",
    "adapter-de9-8p8c-console", "rolled-8p8c", "patch-8p8c", "isolator-rs232",
]  # fmt: skip


@st.composite
def bags(draw: st.DrawFn) -> list[Offer]:
    """Up to five parts of the catalog, some with two conductors exchanged, each with a cost of its own."""
    found = []
    for i in range(draw(st.integers(1, 5))):
        part = CATALOG.part(draw(st.sampled_from(POOL)))
        if part.conductors and draw(st.booleans()):
            far = [w.b for w in part.conductors]
            a, b = draw(st.integers(0, len(far) - 1)), draw(st.integers(0, len(far) - 1))
            far[a], far[b] = far[b], far[a]
            wires = tuple(Conductor(w.a, f) for w, f in zip(part.conductors, far, strict=True))
            part = replace(part, conductors=wires)
        found.append(Offer(replace(part, id=f"{part.id}#{i}"), cost=draw(st.integers(0, 9))))
    return found


def exhaustive(goal: ChainNeed, offers: list[Offer], most: int) -> list[tuple[int, int, float]]:
    """Every chain that mates, by networkx: nodes are parts laid one way, edges join halves that go together."""
    graph = nx.DiGraph()
    ways: dict[str, tuple[int, Part]] = {}
    for i, offer in enumerate(offers):
        for way, part in (("", offer.part), ("~", offer.part.turned())):
            if not (way and offer.part.active):
                ways[f"{i}{way}"] = (i, part)
    for name, (_, part) in ways.items():
        if part.ends[0].connector.why_not_into(goal.computer.connector) is None:
            graph.add_edge("computer", name)
        if part.ends[1].connector.why_not_into(goal.device.connector) is None:
            graph.add_edge(name, "device")
        for other, (_, after) in ways.items():
            if other.rstrip("~") != name.rstrip("~") and why_not(part.ends[1], after.ends[0]) is None:
                graph.add_edge(name, other)
    if goal.computer.connector.why_not_into(goal.device.connector) is None:
        graph.add_edge("computer", "device")
    found = []
    graph.add_nodes_from(["computer", "device"])
    for path in nx.all_simple_paths(graph, "computer", "device", cutoff=most + 1):
        members = [ways[name] for name in path[1:-1]]
        if len({i for i, _ in members}) == len(members):
            verdict = trace(Chain(goal.computer, tuple(p for _, p in members), goal.device), goal.levels, goal.asked).verdict
            found.append((verdict.rank, len(members), sum(offers[i].cost for i, _ in members)))
    return found


@settings(max_examples=60, deadline=None)
@given(bags(), st.sampled_from(["gauge-logger", "dce-de9", "dte-de9", "dce-db25", "console-8p8c"]), st.booleans())
def test_the_best_chain_is_the_best_of_all(offers: list[Offer], device: str, with_handshake: bool) -> None:
    goal = need("dte-de9", device, RTS if with_handshake else frozenset())
    outcome = find_chains(goal, offers, k=3, most_parts=4)
    every = [one for one in exhaustive(goal, offers, 4) if one[0] <= Verdict.WITHOUT_HANDSHAKE.rank]
    assert outcome.complete
    assert bool(outcome.plans) == bool(every)
    if every:
        assert outcome.plans[0].rank[:3] == min(every)
        assert {plan.rank[:3] for plan in outcome.plans} <= set(every)
        assert list(outcome.plans) == sorted(outcome.plans, key=lambda p: p.rank)
