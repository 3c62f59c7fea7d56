"""Naming a cable by meter: each cable of the catalog, faults, wrong readings; Bayes against a plain recomputation."""

import random
from math import prod

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from humble_courier.app.wire.meter import cable_line_up
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.named import ends_named
from humble_courier.domain.hardware import EndContact
from humble_courier.wiring.identify.cable import FALSE_BEEP, MISSED, Named, Reading, identify
from humble_courier.wiring.identify.suspects import UNKNOWN, LineUp

CATALOG = Catalog()
ENDS = ["D9,D9", "D9,D25", "D25,D25", "8P8C,8P8C", "D9,8P8C"]
LINE_UPS = {text: cable_line_up(ends_named(text, CATALOG), CATALOG) for text in ENDS}
CASES = [(text, n) for text, line_up in LINE_UPS.items() for n in range(len(line_up.names))]
SMALL = [case for case in CASES if "25" not in case[0]]


def row_of(line_up: LineUp, name: int, fault: str = "") -> int:
    wanted = (s.name == name and (str(s.fault.where) if s.fault else "") == fault for s in line_up.suspects)
    return next(i for i, hit in enumerate(wanted) if hit)


def measure(
    line_up: LineUp, row: int, most: int = 80, wrong: random.Random | None = None
) -> tuple[list[Named], list[Reading]]:
    """Touch what is asked for, until nothing is; with `wrong` three readings in a hundred are not true."""
    readings: list[Reading] = []
    said = [identify(line_up, readings)]
    while (touch := said[-1].next_touch) is not None and len(readings) < most:
        beep = bool(line_up.joined[row, line_up.column[touch]])
        readings.append(Reading(*touch, beep != (wrong is not None and wrong.random() < 0.03)))
        said.append(identify(line_up, readings))
    return said, readings


def touches_to_name(said: list[Named], name: str) -> int:
    return next(i for i, one in enumerate(said) if one.name == name)


def test_eight_touches_or_fewer_on_average_name_any_cable() -> None:
    """The aim: 8 on average to 99 %. A full table of D 9 is 81 touches and more."""
    counts = []
    for text, n in CASES:
        line_up = LINE_UPS[text]
        said, _ = measure(line_up, row_of(line_up, n), most=12)
        counts.append(touches_to_name(said, line_up.names[n]))
    assert sum(counts) / len(counts) <= 8
    assert max(counts) <= 8


@pytest.mark.parametrize(("text", "n"), SMALL)
def test_twenty_touches_prove_it_whole(text: str, n: int) -> None:
    line_up = LINE_UPS[text]
    said, readings = measure(line_up, row_of(line_up, n))
    assert said[-1].name == line_up.names[n] and said[-1].proven and said[-1].faults == ()
    assert len(readings) <= 20
    tried = {r.touch for r in readings}
    column = line_up.column
    joined = nx.Graph(t for t in tried if line_up.joined[row_of(line_up, n), column[t]])
    joined.add_nodes_from(line_up.contacts)
    assert all(nx.has_path(joined, *wire) for wire in line_up.wires[n]), "every conductor has beeped"


@pytest.mark.parametrize(("text", "n"), SMALL)
@pytest.mark.parametrize("seed", range(3))
def test_wrong_readings_are_survived(text: str, n: int, seed: int) -> None:
    line_up = LINE_UPS[text]
    said, _ = measure(line_up, row_of(line_up, n), wrong=random.Random(seed))
    assert said[-1].suspects[0][0] == line_up.names[n]


def test_a_short_that_is_told_whole_is_among_what_nobody_touched() -> None:
    line_up = LINE_UPS["D9,D9"]
    n = line_up.names.index("straight-de9")
    shorts = [i for i, s in enumerate(line_up.suspects) if s.name == n and s.fault is not None and s.fault.code == "short"]
    told_whole = 0
    for row in shorts:
        said, _ = measure(line_up, row)
        fault = line_up.suspects[row].fault
        if said[-1].proven and not said[-1].faults and fault is not None:
            told_whole += 1
            likely = line_up.suspects[row].prior >= 0.1 * max(line_up.suspects[i].prior for i in shorts)
            assert fault.where in said[-1].untouched or not likely
    assert told_whole
    whole = measure(line_up, row_of(line_up, n))[0][-1]
    assert whole.proven and 0 < len(whole.untouched) < len(identify(line_up, []).untouched)


@pytest.mark.parametrize("code", ["open", "swapped", "short"])
def test_each_single_fault_of_a_straight_cable_is_found(code: str) -> None:
    line_up = LINE_UPS["D9,D9"]
    name = line_up.names.index("straight-de9")
    rows = [i for i, s in enumerate(line_up.suspects) if s.name == name and s.fault and s.fault.code == code]
    if code == "short":  # those between neighbours: the others are rare, and cost more touches than they are worth
        rows = [i for i in rows if line_up.suspects[i].prior > 1e-4]
    hits = 0
    for row in rows:
        said, _ = measure(line_up, row)
        hits += line_up.suspects[row].fault in {fault for fault, _ in said[-1].faults}
    # “Whole” means 97 %: a short that nobody touched may stay unseen, an open or swapped conductor may not.
    assert hits >= (0.75 if code == "short" else 1.0) * len(rows)


def contact(text: str) -> EndContact:
    return EndContact.parse(text)


def read(text: str) -> list[Reading]:
    """`A2-B3 beep, A5-B5 12` and so on."""
    found = []
    for word in text.split(", "):
        pair, result = word.split()
        a, b = pair.split("-")
        ohm = float(result) if result.replace(".", "").isdecimal() else None
        found.append(Reading(contact(a), contact(b), result != "silent", ohm))
    return found


def test_contradictory_readings_are_told() -> None:
    line_up = LINE_UPS["D9,D9"]
    said = identify(line_up, read("A2-B2 beep, B2-A2 silent")).contradictions
    assert len(said) == 1 and "both ways" in said[0] and "A2–B2" in said[0]
    said = identify(line_up, read("A1-B4 beep, A1-B6 beep, B4-B6 silent")).contradictions
    assert len(said) == 1 and "B4–B6" in said[0]


def test_a_resistance_is_a_fault_of_its_own() -> None:
    named = identify(LINE_UPS["D9,D9"], read("A2-B2 0.3, A3-B3 47, A5-B5 0.2, A7-B7 0.2"))
    assert [(f.code, f.where) for f, _ in named.faults] == [("high-resistance", "A3-B3")]
    assert not named.proven


def test_a_cable_of_no_catalog_is_called_unknown_with_what_it_joins() -> None:
    named = identify(LINE_UPS["D9,D9"], read("A1-B9 beep, A2-B8 beep, A3-B7 beep, A4-B6 beep, A5-B5 silent"))
    assert named.suspects[0][0] == UNKNOWN
    assert [f"{a}-{b}" for a, b in named.connects] == ["A1-B9", "A2-B8", "A3-B7", "A4-B6"]


def test_ten_thousand_readings() -> None:
    line_up = LINE_UPS["D9,D9"]
    row = row_of(line_up, line_up.names.index("crossed-de9-full"))
    touches = [line_up.touches[i % len(line_up.touches)] for i in range(10_000)]
    named = identify(line_up, [Reading(*t, bool(line_up.joined[row, line_up.column[t]])) for t in touches])
    assert named.name == "crossed-de9-full" and named.proven and named.next_touch is None


PAIRS = st.tuples(st.sampled_from(LINE_UPS["8P8C,8P8C"].touches), st.booleans())


@settings(max_examples=30, deadline=None)
@given(st.lists(PAIRS, max_size=12, unique_by=lambda p: p[0]))
def test_bayes_by_hand(pairs: list[tuple[tuple[EndContact, EndContact], bool]]) -> None:
    """Odds between cables recomputed from their conductors alone: networkx components and plain products."""
    line_up = LINE_UPS["8P8C,8P8C"]
    named = dict(identify(line_up, [Reading(*t, beep) for t, beep in pairs], choose=False).suspects)
    weight = {}
    for n, name in enumerate(line_up.names):
        total = 0.0
        for row, suspect in enumerate(line_up.suspects):
            if suspect.name != n:
                continue
            if suspect.fault is None:
                graph = nx.Graph(line_up.wires[n])
                joined = [graph.has_node(a) and graph.has_node(b) and nx.has_path(graph, a, b) for (a, b), _ in pairs]
            else:
                joined = [bool(line_up.joined[row, line_up.column[t]]) for t, _ in pairs]
            hit = [1 - MISSED if j else FALSE_BEEP for j in joined]
            total += suspect.prior * prod(h if beep else 1 - h for h, (_, beep) in zip(hit, pairs, strict=True))
        weight[name] = total
    known = 1 - named[UNKNOWN]
    for name, value in weight.items():
        assert named[name] == pytest.approx(known * value / sum(weight.values()), rel=1e-6, abs=1e-12)
