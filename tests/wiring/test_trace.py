"""Tracing against an independent union of contacts (networkx), against known outcomes of the trade, and its symmetries."""

from dataclasses import replace

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from humble_courier.catalog.load import Catalog
from humble_courier.domain.hardware import Conductor, Connector, End, EndContact, Gender, Part, Port
from humble_courier.domain.settings import Handshake
from humble_courier.domain.signals import Signal
from humble_courier.wiring.findings import Verdict
from humble_courier.wiring.nets import Chain
from humble_courier.wiring.paths import Carried
from humble_courier.wiring.trace import Trace, trace

CATALOG = Catalog(demo=True)
RTS, DTR = Handshake.RTS_CTS, Handshake.DTR_DSR


def judge(computer: str, parts: list[str], device: str, *asked: Handshake) -> Trace:
    sheet = CATALOG.has_sheet(device)
    port = CATALOG.device_port(CATALOG.device(device)) if sheet else CATALOG.port(device)
    chain = Chain(CATALOG.port(computer), tuple(CATALOG.part(p) for p in parts), port)
    return trace(chain, CATALOG.levels, frozenset(asked))


W, H, N, D = Verdict.WORKS, Verdict.WITHOUT_HANDSHAKE, Verdict.WILL_NOT_WORK, Verdict.MAY_DAMAGE

# Outcomes that any practitioner expects (common practice), with the codes that must be told.
KNOWN = [
    ("dte-de9", "straight-de9", "dce-de9", (), W, ""),
    ("dte-de9", "", "dce-de9", (), W, ""),
    ("dte-de9", "straight-de9", "dce-de9", (RTS, DTR), W, ""),
    ("dte-de9", "straight-de9", "gauge-logger", (), N, "output-meets-output input-undriven"),
    ("dte-de9", "crossed-de9-3wire", "gauge-logger", (), W, ""),
    ("dte-de9", "crossed-de9-3wire", "gauge-logger", (RTS,), H, "handshake-open"),
    ("dte-de9", "crossed-de9-looped", "gauge-logger", (RTS,), H, "handshake-looped"),
    ("dte-de9", "crossed-de9-partial", "gauge-logger", (RTS,), W, ""),
    ("dte-de9", "crossed-de9-partial", "gauge-logger", (DTR,), H, "handshake-looped"),
    ("dte-de9", "crossed-de9-full", "gauge-logger", (RTS, DTR), W, ""),
    ("dte-de9", "straight-de9 crossover-adapter-de9", "gauge-logger", (RTS, DTR), W, ""),
    ("dte-de9", "crossed-de9-full crossed-de9-full", "gauge-logger", (), N, "output-meets-output"),
    ("usb-a", "usb-rs232 crossed-de9-3wire", "gauge-logger", (), W, ""),
    ("usb-a", "usb-rs232", "dce-de9", (RTS,), W, ""),
    ("dte-de9", "adapter-de9-8p8c-console rolled-8p8c", "console-8p8c", (RTS, DTR), W, ""),
    ("dte-de9", "adapter-de9-8p8c-console patch-8p8c", "console-8p8c", (), N, "output-meets-output"),
    ("dte-de9", "adapter-de9-db25 straight-db25", "dce-db25", (RTS, DTR), W, ""),
    ("dte-de9", "straight-de9", "dte-de9", (), N, "does-not-mate"),
    ("dte-de9", "patch-8p8c", "console-8p8c", (), N, "does-not-mate"),
    ("dte-de9", "gender-changer-de9-sockets gender-changer-de9-plugs", "dce-de9", (), W, ""),
    ("usb-a", "usb-rs485", "rs485-2w", (), W, ""),
    ("usb-a", "usb-rs422", "rs422-4w", (), W, ""),
    ("usb-a", "usb-gpib gpib-cable gpib-cable", "gpib-24", (), W, ""),  # their plugs stack (IEEE 488.1, from memory)
]


@pytest.mark.parametrize(("computer", "parts", "device", "asked", "verdict", "codes"), KNOWN)
def test_known_outcomes(
    computer: str, parts: str, device: str, asked: tuple[Handshake, ...], verdict: Verdict, codes: str
) -> None:
    result = judge(computer, parts.split(), device, *asked)
    assert result.verdict is verdict
    assert set(codes.split()) <= {f.code for f in result.findings}
    if verdict is W:
        assert result.findings == ()


def test_straight_and_crossover_adapter_equal_a_crossed_cable() -> None:
    one = judge("dte-de9", ["crossed-de9-full"], "gauge-logger")
    two = judge("dte-de9", ["straight-de9", "crossover-adapter-de9"], "gauge-logger")
    assert _joined(one) == _joined(two)
    assert (one.verdict, one.rts_cts, one.dtr_dsr) == (two.verdict, two.rts_cts, two.dtr_dsr)


def test_crossed_twice_is_straight() -> None:
    two = judge("dte-de9", ["crossed-de9-3wire", "crossed-de9-3wire"], "dce-de9")
    assert two.verdict is W
    assert _joined(two) == {frozenset({("c", c), ("d", c)}) for c in "235"}


def _joined(result: Trace) -> set[frozenset[tuple[str, str]]]:
    """Which contacts of computer and device are joined, without the parts between."""
    last = result.chain.last
    sides = {0: "c", last: "d"}
    nets = ({(sides[s.node], s.contact) for s in net.spots if s.node in sides} for net in result.nets)
    return {frozenset(net) for net in nets if len(net) > 1}


def _port(signals: dict[str, str], gender: Gender = Gender.PLUG) -> Port:
    return Port("p", "port", Connector("D", 9, gender), {c: Signal.parse(text) for c, text in signals.items()})


BOARD = {"2": "TXD out cmos-3v3", "3": "RXD in cmos-3v3", "5": "GND"}
PAIR = {"1": "A both rs485", "2": "B both rs485", "5": "GND"}


@pytest.mark.parametrize(
    ("near", "far", "verdict", "code"),
    [
        ({"3": "TXD out rs232", "2": "RXD in rs232", "5": "GND"}, BOARD, D, "level-damage"),
        ({"3": "TXD out ttl-5v", "2": "RXD in ttl-5v", "5": "GND"}, BOARD, D, "level-damage"),
        ({"3": "TXD out cmos-3v3", "2": "RXD in cmos-3v3", "5": "GND"}, BOARD, W, None),
        ({"3": "TXD out cmos-3v3", "2": "RXD in ttl-5v", "5": "GND"}, BOARD, W, None),
        ({"3": "TXD out cmos-3v3", "2": "RXD in rs232", "5": "GND"}, BOARD, N, "level-mismatch"),
        ({"3": "TXD out cmos-3v3", "2": "RXD in cmos-3v3", "6": "GND"}, BOARD, N, "no-signal-ground"),
        ({"3": "VCC out power-12v", "2": "RXD in cmos-3v3", "5": "GND"}, BOARD, D, "power-into-signal"),
        ({"3": "TXD out cmos-3v3", "2": "RXD in cmos-3v3", "5": "VCC out power-5v"}, BOARD, D, "power-into-signal"),
        ({"1": "A both rs485", "2": "B both rs485", "5": "GND"}, PAIR, W, None),
        ({"1": "B both rs485", "2": "A both rs485", "5": "GND"}, PAIR, N, "pair-swapped"),
        ({"1": "A both rs485", "2": "B both rs485"}, PAIR, W, "no-signal-ground"),
        ({"1": "TXD out rs232", "2": "RXD in rs232", "5": "GND"}, PAIR, D, "level-damage"),
    ],
)
def test_levels_and_supplies(near: dict[str, str], far: dict[str, str], verdict: Verdict, code: str | None) -> None:
    """Limits: TIA-232-F ±15 V, JESD8C 3.3 V, TIA-485-A −7 to 12 V (levels.yaml)."""
    result = trace(Chain(_port(near), (), _port(far, Gender.SOCKET)), CATALOG.levels)
    assert result.verdict is verdict
    assert code is None or code in {f.code for f in result.findings}


def test_two_supplies_are_told() -> None:
    a = {"3": "TXD out ttl-5v", "2": "RXD in ttl-5v", "5": "GND", "9": "VCC out power-5v"}
    b = {"3": "RXD in ttl-5v", "2": "TXD out ttl-5v", "5": "GND", "9": "VCC out power-5v"}
    result = trace(Chain(_port(a), (), _port(b, Gender.SOCKET)), CATALOG.levels)
    assert [f.code for f in result.findings] == ["power-feedback"]


contacts = st.sampled_from([str(i) for i in range(1, 10)])
conductors = st.lists(st.tuples(st.integers(0, 1), contacts, st.integers(0, 1), contacts), max_size=12)


def _cable(wires: list[tuple[int, str, int, str]], name: str) -> Part:
    ends = (End(Connector("D", 9, Gender.SOCKET)), End(Connector("D", 9, Gender.PLUG)))
    made = tuple(Conductor(EndContact(e, c), EndContact(f, d)) for e, c, f, d in wires)
    return Part(name, name, ends, made)


chains = st.lists(conductors, min_size=1, max_size=5).map(
    lambda cables: tuple(_cable(wires, f"cable {i}") for i, wires in enumerate(cables))
)


@settings(max_examples=150, deadline=None)
@given(chains)
def test_nets_are_the_connected_components(parts: tuple[Part, ...]) -> None:
    """Outside reference: networkx connected_components over contacts as nodes."""
    chain = Chain(CATALOG.port("dte-de9"), parts, CATALOG.port("dce-de9"))
    graph: nx.Graph = nx.Graph()
    for node, part in enumerate(parts, start=1):
        graph.add_edges_from(((node, w.a.end, w.a.contact), (node, w.b.end, w.b.contact)) for w in part.conductors)
    for node in range(len(parts) + 1):
        graph.add_edges_from(((node, int(node > 0), str(c)), (node + 1, 0, str(c))) for c in range(1, 10))
    ours = {frozenset((s.node, s.end, s.contact) for s in net.spots) for net in chain.nets}
    theirs = {frozenset(component) for component in nx.connected_components(graph)}
    # Contacts that neither lead anywhere nor carry a signal are left out of our nets.
    for net in ours:
        assert any(net <= component for component in theirs)
    joined = {frozenset(s for s in c if s[0] in (0, chain.last)) for c in theirs}
    kept = {frozenset(s for s in n if s[0] in (0, chain.last)) for n in ours}
    assert {j for j in joined if j} == {k for k in kept if k}


@settings(max_examples=150, deadline=None)
@given(chains, st.sets(st.sampled_from([RTS, DTR])))
def test_reversing_a_chain_keeps_the_verdict(parts: tuple[Part, ...], asked: set[Handshake]) -> None:
    computer, device = CATALOG.port("dte-de9"), CATALOG.port("dce-de9")
    there = trace(Chain(computer, parts, device), CATALOG.levels, frozenset(asked))
    turned = tuple(part.turned() for part in reversed(parts))
    back = trace(Chain(device, turned, computer), CATALOG.levels, frozenset(asked))
    assert there.verdict is back.verdict
    assert sorted(f.code for f in there.findings) == sorted(f.code for f in back.findings)
    assert (there.rts_cts, there.dtr_dsr) == (back.rts_cts, back.dtr_dsr)


@settings(max_examples=100, deadline=None)
@given(chains, st.sets(st.sampled_from([RTS, DTR])))
def test_a_straight_extension_changes_nothing(parts: tuple[Part, ...], asked: set[Handshake]) -> None:
    computer, device = CATALOG.port("dte-de9"), CATALOG.port("dce-de9")
    plain = trace(Chain(computer, parts, device), CATALOG.levels, frozenset(asked))
    longer = trace(Chain(computer, (*parts, CATALOG.part("straight-de9")), device), CATALOG.levels, frozenset(asked))
    assert plain.verdict is longer.verdict
    assert sorted(f.code for f in plain.findings) == sorted(f.code for f in longer.findings)


def test_a_part_sold_with_either_gender_takes_the_one_that_mates() -> None:
    for device, gender in (("dte-de9", Gender.SOCKET), ("gauge-logger", Gender.PLUG)):
        result = judge("dte-de9", ["crossed-de9-3wire"], device)
        assert result.chain.parts[0].ends[1].connector.gender is gender
        assert result.verdict is W


def test_rs232_is_too_much_for_an_rs422_receiver_by_the_receivers_limits() -> None:
    near = {"1": "TXD out rs232", "2": "GND"}
    far = {"1": "RXA in rs422", "2": "GND"}
    over = trace(Chain(_port(near), (), _port(far, Gender.SOCKET)), CATALOG.levels)
    assert any(one.code == "level-damage" and "-10 to 10 V" in one.text for one in over.findings)


def test_handshake_words() -> None:
    assert judge("dte-de9", ["crossed-de9-full"], "gauge-logger").rts_cts is Carried.THROUGH
    assert judge("dte-de9", ["crossed-de9-looped"], "gauge-logger").rts_cts is Carried.LOOPED
    assert judge("dte-de9", ["crossed-de9-3wire"], "gauge-logger").rts_cts is Carried.OPEN


def test_a_device_without_signals_hears_nothing() -> None:
    device = replace(_port({}, Gender.SOCKET), signals={})
    result = trace(Chain(CATALOG.port("dte-de9"), (), device), CATALOG.levels)
    assert result.verdict is N


def test_a_split_pair_is_told_and_carries_all_the_same() -> None:
    """TIA-568: contacts 4-5 share a pair, 3-4 do not."""
    ends = {"near": "A both rs485", "far": "B both rs485"}
    for contacts, split in ((("4", "5"), False), (("3", "4"), True)):
        signals = {contacts[0]: ends["near"], contacts[1]: ends["far"], "8": "GND"}
        socket = Connector("8P8C", 8, Gender.SOCKET)
        port = Port("p", "port", socket, {c: Signal.parse(text) for c, text in signals.items()})
        result = trace(Chain(port, (CATALOG.part("patch-8p8c"),), port), CATALOG.levels)
        assert result.verdict is W
        assert [f.code for f in result.findings] == (["pair-split"] if split else [])


def test_a_supply_that_feeds_back_through_a_driver() -> None:
    """Contact 9 carries 5 V out on some ports; a straight cable brings it to the other side's ring output."""
    powered = _port({"3": "TXD out rs232", "2": "RXD in rs232", "5": "GND", "9": "VCC out power-5v"})
    result = trace(Chain(powered, (CATALOG.part("straight-de9"),), CATALOG.port("dce-de9")), CATALOG.levels)
    assert {f.code for f in result.findings} == {"power-into-signal", "power-feedback"}
    three = trace(Chain(powered, (CATALOG.part("crossed-de9-3wire"),), CATALOG.port("dte-de9")), CATALOG.levels)
    assert three.findings == (), "with three wires the supply goes nowhere"


@pytest.mark.parametrize(
    ("near", "far", "verdict", "code"),
    [
        ("loop-20ma-active", "loop-20ma-passive", W, None),
        ("loop-20ma-passive", "loop-20ma-passive", N, "input-undriven"),
        ("loop-20ma-active", "loop-20ma-active", N, "output-meets-output"),
    ],
)
def test_somebody_has_to_supply_the_loop(near: str, far: str, verdict: Verdict, code: str | None) -> None:
    end = End(Connector("terminal", 4, Gender.PLUG))
    wires = tuple(Conductor.parse(text) for text in ("A1-B3", "A2-B4", "A3-B1", "A4-B2"))
    result = trace(Chain(CATALOG.port(near), (Part("l", "l", (end, end), wires),), CATALOG.port(far)), CATALOG.levels)
    assert result.verdict is verdict
    assert [f.code for f in result.findings] == ([code] if code else [])


@pytest.mark.parametrize("parts", ["", "straight-de9", "crossed-de9-full", "straight-de9 crossover-adapter-de9"])
def test_a_loop_back_plug_returns_what_is_sent(parts: str) -> None:
    assert judge("usb-a", ["usb-rs232", *parts.split()], "loopback-de9").verdict is W


def test_an_open_loop_is_told() -> None:
    result = judge("usb-a", ["usb-can-ascii"], "loopback-de9")
    assert result.verdict is N and {f.code for f in result.findings} == {"input-undriven"}


def test_loose_leads_join_where_they_are_put() -> None:
    lead = CATALOG.part("lead-de9")
    port = CATALOG.port("loop-20ma-passive")
    loose = trace(Chain(CATALOG.port("dte-de9"), (lead,), port), CATALOG.levels)
    assert "say which colour" in loose.findings[0].text
    serial = Port("p", "p", Connector("terminal", 3, Gender.SOCKET), {
        "1": Signal.parse("TXD out rs232"), "2": Signal.parse("RXD in rs232"), "3": Signal.parse("GND")})  # fmt: skip
    for lands, verdict in (({"BN": "1", "WH": "2", "GN": "3"}, W), ({"WH": "1", "BN": "2", "GN": "3"}, N)):
        put = replace(lead, ends=(lead.ends[0], replace(lead.ends[1], lands=lands)))
        assert trace(Chain(CATALOG.port("dte-de9"), (put,), serial), CATALOG.levels).verdict is verdict


def test_a_breakout_lets_everything_through_and_shows_it() -> None:
    result = judge("dte-de9", ["breakout-de9"], "dce-de9", RTS, DTR)
    assert result.verdict is W
    assert any(s.end == 2 for net in result.nets for s in net.spots)


@pytest.mark.parametrize(
    ("a", "b", "told"), [("screws", "posts", None), ("screws", "screws", "screws"), ("posts", "posts", "posts")]
)
def test_screws_go_into_posts(a: str, b: str, told: str | None) -> None:
    from humble_courier.domain.hardware import Fixing

    near = replace(CATALOG.port("dte-de9"), connector=replace(CATALOG.port("dte-de9").connector, fixing=Fixing(a)))
    far = replace(CATALOG.port("dce-de9"), connector=replace(CATALOG.port("dce-de9").connector, fixing=Fixing(b)))
    result = trace(Chain(near, (), far), CATALOG.levels)
    assert result.verdict is W
    assert [told in f.text for f in result.findings] == ([True] if told else [])


def test_of_a_socket_with_several_buses_one_is_meant() -> None:
    assert judge("usb-a", ["usb-k-line"], "obd-16").verdict is W
    assert judge("usb-a", ["usb-can-ascii", "cable-can-de9-obd-16"], "obd-16").verdict is W
    assert judge("usb-a", ["usb-j1708"], "obd-16").verdict is N
