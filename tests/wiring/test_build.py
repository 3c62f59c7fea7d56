"""Build sheets: every designed cable is traced, and its acceptance table is held against the cable itself (networkx)."""

from itertools import combinations

import networkx as nx
import pytest

from humble_courier.catalog.load import Catalog
from humble_courier.domain.hardware import EndContact
from humble_courier.domain.settings import Handshake
from humble_courier.wiring.build import BuildSheet, design
from humble_courier.wiring.findings import Verdict
from humble_courier.wiring.nets import Chain
from humble_courier.wiring.trace import Trace, trace

CATALOG = Catalog()
RTS, DTR = Handshake.RTS_CTS, Handshake.DTR_DSR
SCHEMES = list(CATALOG.colours.values())

PAIRS = [
    ("dte-de9", "dce-de9", {"A3-B3", "A2-B2", "A5-B5"}),
    ("dte-de9", "dte-de9", {"A3-B2", "A2-B3", "A5-B5"}),
    ("dte-de9", "dce-db25", {"A3-B2", "A2-B3", "A5-B7"}),
    ("dte-de9", "dte-db25", {"A3-B3", "A2-B2", "A5-B7"}),
    ("dte-de9", "console-8p8c", {"A3-B6", "A2-B3", "A5-B4"}),
    ("dte-de9", "tia561-8p8c", {"A3-B5", "A2-B6", "A5-B4"}),
    ("rs485-2w", "rs485-2w", {"A1-B1", "A2-B2", "A3-B3"}),
    ("rs422-4w", "rs422-4w", {"A1-B3", "A2-B4", "A3-B1", "A4-B2", "A5-B5"}),
    ("ttl-3v3-header", "ttl-3v3-header", {"A2-B3", "A3-B2", "A1-B1"}),
    ("j1939-9", "obd-16", {"AC", "AD", "AA"}),
]


def make(near: str, far: str, asked: frozenset[Handshake], scheme: int = 0) -> tuple[BuildSheet, Trace]:
    sheet = design(CATALOG.port(near), CATALOG.port(far), CATALOG.levels, asked, SCHEMES[scheme])
    return sheet, trace(Chain(CATALOG.port(near), (sheet.part(),), CATALOG.port(far)), CATALOG.levels, asked)


@pytest.mark.parametrize(("near", "far", "wires"), PAIRS)
@pytest.mark.parametrize("scheme", [0, 1])
def test_the_fewest_conductors_that_serve(near: str, far: str, wires: set[str], scheme: int) -> None:
    """Contacts after the standards of the ports (TIA-574, ISO 2110, TIA-561, TIA-422-B, TIA-485-A)."""
    sheet, result = make(near, far, frozenset(), scheme)
    assert not sheet.missing
    assert result.verdict is Verdict.WORKS, result.findings
    if "AC" not in wires:
        assert {str(w) for w in sheet.part().conductors} == wires
    supplies = [o for o in sheet.open if "supply" in o.why]
    assert len(supplies) == sum(s.role == "power" for p in (near, far) for s in CATALOG.port(p).signals.values())


@pytest.mark.parametrize(
    ("near", "far"), [(n, f) for n, f in combinations(["dte-de9", "dce-de9", "dte-db25", "console-8p8c"], 2)]
)
@pytest.mark.parametrize("asked", [frozenset({RTS}), frozenset({DTR}), frozenset({RTS, DTR})])
def test_the_handshake_that_is_asked_for_is_wired(near: str, far: str, asked: frozenset[Handshake]) -> None:
    _, result = make(near, far, asked)
    possible = far != "console-8p8c" or DTR not in asked or near != "dce-de9"
    assert result.verdict is Verdict.WORKS or not possible, result.findings


@pytest.mark.parametrize(("near", "far", "_"), PAIRS)
def test_the_acceptance_table_accepts_the_cable_and_nothing_else(near: str, far: str, _: set[str]) -> None:
    sheet, _result = make(near, far, frozenset({RTS, DTR}))
    graph: nx.Graph = nx.Graph((w.a, w.b) for w in sheet.part().conductors)
    for a, b in sheet.beep:
        assert nx.has_path(graph, EndContact.parse(a), EndContact.parse(b))
    for a, b in sheet.silent:
        assert not nx.has_path(graph, EndContact.parse(a), EndContact.parse(b))
    tested: nx.Graph = nx.Graph((EndContact.parse(a), EndContact.parse(b)) for a, b in sheet.beep)
    nets, proven = list(nx.connected_components(graph)), list(nx.connected_components(tested))
    assert sorted(map(sorted, nets)) == sorted(map(sorted, proven)), "what must beep joins all contacts of each net"
    owner = {c: i for i, net in enumerate(nets) for c in net}
    apart = {frozenset((owner[EndContact.parse(a)], owner[EndContact.parse(b)])) for a, b in sheet.silent}
    assert len(apart) == len(nets) * (len(nets) - 1) // 2, "each two nets are held apart once"


def test_pairs_share_a_twist() -> None:
    sheet, _ = make("rs422-4w", "rs422-4w", frozenset(), 1)
    together = {frozenset((w.at_a, v.at_a)) for w, v in combinations(sheet.wires, 2) if w.pair == v.pair}
    assert together == {frozenset(("TXA", "TXB")), frozenset(("RXA", "RXB"))}
    sheet, _ = make("dte-de9", "dte-de9", frozenset(), 1)
    assert {w.pair for w in sheet.wires if w.at_a == "GND"} == {w.pair for w in sheet.wires if w.at_a in ("TXD", "RXD")}


def test_a_modular_plug_keeps_the_colours_of_its_contacts() -> None:
    """TIA-568, scheme B: contact 3 is white-green, 4 blue, 6 green (from memory)."""
    sheet, _ = make("dte-de9", "console-8p8c", frozenset(), 1)
    assert {w.b: w.colour.rpartition(" ")[0] for w in sheet.wires} == {"3": "white-green", "4": "blue", "6": "green"}


@pytest.mark.parametrize(("near", "far"), [("dte-de9", "ttl-3v3-header"), ("rs485-2w", "dte-de9"), ("usb-a", "dte-de9")])
def test_no_cable_translates_levels(near: str, far: str) -> None:
    sheet, _ = make(near, far, frozenset())
    assert sheet.missing


def test_colours_are_told_apart_by_name() -> None:
    for scheme in SCHEMES:
        assert len({c.split()[0] for c in scheme.colours}) == len(scheme.colours)
