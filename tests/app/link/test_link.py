"""What the window is given: the map, the comparison, the next step, the looks; as properties over many links."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from humble_courier.app.kit.contents import EMPTY
from humble_courier.app.link import choices
from humble_courier.app.link.changes import new_link
from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.facts import newest
from humble_courier.app.link.listening import read
from humble_courier.app.link.places import places
from humble_courier.app.link.proof import make_proof
from humble_courier.app.link.road import next_step
from humble_courier.app.link.seen import LinkSeen
from humble_courier.app.link.shown import answered
from humble_courier.app.records.link_sheet import sheet
from humble_courier.app.settings.hearing import compare
from humble_courier.app.talk.traffic import Traffic, looks_like
from humble_courier.app.wire.tracing import asked_handshakes, trace_link
from humble_courier.app.wire.wire_map import wire_map
from humble_courier.catalog.links import Link, resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link_changes import with_settings
from humble_courier.domain.facts import Fact, Provenance, State
from humble_courier.domain.received import Doubt, Heard
from humble_courier.domain.settings import Handshake, Parity, Settings
from humble_courier.line.marked import stuff
from humble_courier.line.uart import hear
from humble_courier.port.session import Session
from humble_courier.wiring.trace import Severity

CATALOG = Catalog()
adapters = st.sampled_from([id_ for id_, _ in choices.adapters(CATALOG)])
cables = st.lists(st.sampled_from([id_ for id_, _ in choices.between(CATALOG)]), max_size=3)
devices = st.sampled_from([id_ for id_, _ in choices.devices(CATALOG)])


@st.composite
def links(draw: st.DrawFn) -> Link:
    parts = [part for part in (draw(adapters), *draw(cables)) if part]
    model = new_link(draw(devices), parts, "sim://bench/gauge-logger", CATALOG)
    handshake = draw(st.sampled_from(Handshake))
    return resolve_link(with_settings(model, computer=Settings.parse(f"9600,8N1,{handshake}")), CATALOG)


@settings(max_examples=150, deadline=None)
@given(links())
def test_every_link_can_be_shown(link: Link) -> None:
    trace = trace_link(link, CATALOG)
    wiring = wire_map(trace)
    for side in (wiring.near, wiring.far):
        assert len({c.row for c in side}) == len(side), "two contacts in one row"
        assert all(c.row < wiring.rows for c in side)
    assert all(max(w.row_a, w.row_b) < wiring.rows for w in wiring.wires)
    assert wiring.headline
    assert wiring.reason
    shown = places(link, trace, Evidence(), simulated=True)
    marked = {p.id for p in shown if p.state is State.CONTRADICTED}
    blamed = {f.where for f in trace.findings if f.severity is not Severity.NOTE}
    if any(f.severity in (Severity.ERROR, Severity.DAMAGE) for f in trace.findings):
        assert marked & blamed, "what is wrong has its mark on the line"
    else:
        assert "works" in wiring.headline or "Data flows" in wiring.headline
    assert len({p.id for p in shown}) == len(shown)


@settings(max_examples=60, deadline=None)
@given(links())
def test_every_link_has_a_next_step_and_a_sheet(link: Link) -> None:
    trace = trace_link(link, CATALOG)
    step = next_step(LinkSeen(link, trace, Evidence(), CATALOG, EMPTY, listening=False, armed=False))
    assert step.text.strip()
    assert step.button
    if step.chain is not None:
        better = trace_link(resolve_link(step.chain, CATALOG), CATALOG)
        assert better.verdict in ("works", "works-without-handshake")
    content = sheet(link, CATALOG, make_proof(link, Evidence(shown=answered("ID", {"station": "X"})), [], [], at=0.0))
    assert content.proven
    assert any(row.value == "X" for row in content.rows)


STEPS = [
    (Evidence(), False, False, "listen"),
    (Evidence(opened=True), True, False, "arm"),
    (Evidence(opened=True), True, True, "say"),
    (Evidence(opened=True, heard=Traffic.WRONG_SETTINGS), True, False, "show-settings"),
    (Evidence(refusal="no"), False, False, "listen"),
    (Evidence(shown=answered("ID", {"a": "b"})), True, True, "keep-proof"),
    (Evidence(shown=answered("ID", {"a": "b"}), proof_kept=True), True, True, "paper"),
]


@pytest.mark.parametrize(("evidence", "listening", "armed", "action"), STEPS)
def test_the_first_thing_in_the_way_comes_first(evidence: Evidence, listening: bool, armed: bool, action: str) -> None:
    link = resolve_link(
        new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], "sim://bench/gauge-logger", CATALOG), CATALOG
    )
    assert next_step(LinkSeen(link, trace_link(link, CATALOG), evidence, CATALOG, EMPTY, listening, armed)).action == action


def test_without_a_port_or_a_sheet() -> None:
    bare = resolve_link(new_link("dce-de9", ["usb-rs232", "straight-de9"], None, CATALOG), CATALOG)
    trace = trace_link(bare, CATALOG)
    assert next_step(LinkSeen(bare, trace, Evidence(), CATALOG, EMPTY, listening=False, armed=False)).action == "choose-port"
    ported = resolve_link(new_link("dce-de9", ["usb-rs232", "straight-de9"], "/dev/ttyUSB0", CATALOG), CATALOG)
    assert (
        next_step(LinkSeen(ported, trace, Evidence(opened=True), CATALOG, EMPTY, listening=True, armed=True)).action
        == "type"
    )


ends = st.builds(
    lambda rate, bits, parity: Settings.parse(f"{rate},{bits}{parity}1"),
    st.sampled_from([1200, 2400, 9600]), st.integers(7, 8), st.sampled_from(Parity),
)  # fmt: skip


@settings(max_examples=100, deadline=None)
@given(ends, ends, st.binary(min_size=1, max_size=6))
def test_the_comparison_is_the_receivers_own(sent: Settings, heard_as: Settings, data: bytes) -> None:
    both = compare(sent, heard_as, data)
    assert [one.byte for one in both.appears] == list(hear(sent, heard_as, data).values)
    assert all(sample.wanted for sample in both.sender)
    assert all(0 <= s.t <= both.seconds for s in (*both.sender, *both.receiver))
    if sent == heard_as:
        assert both.clean


@pytest.mark.parametrize(
    ("heard", "expected"),
    [
        ([], "nothing"),
        ([Heard(b) for b in b"LEVEL\r\n"], "text"),
        ([Heard(b) for b in bytes(range(128, 160))], "binary"),
        ([Heard(65, Doubt.ERROR), Heard(66)], "wrong-settings"),
        ([Heard(65)] * 40 + [Heard(65, Doubt.ERROR)], "text"),  # one error in forty is noise, not settings
    ],
)
def test_looks(heard: list[Heard], expected: str) -> None:
    assert looks_like(bytes(h.byte for h in heard), sum(h.doubt is not Doubt.NONE for h in heard)) == expected


@settings(max_examples=80, deadline=None)
@given(st.lists(st.binary(max_size=40), max_size=10), st.booleans())
def test_evidence_takes_any_bytes(pieces: list[bytes], asked: bool) -> None:
    """Whatever arrives, nobody is taken for the logger unless it answered the question in the words of the sheet."""
    link = resolve_link(new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], None, CATALOG), CATALOG)
    session, evidence = Session(Settings.parse("1200,7E1")), Evidence()
    session.arm("test")
    if asked:
        session.utterances.clear()
    for i, piece in enumerate(pieces):
        session.hear(float(i), stuff([Heard(b) for b in piece]))
        read(evidence, session, link, float(i), CATALOG)
    read(evidence, session, link, 1e9, CATALOG)
    assert not evidence.proven


def test_an_answer_without_a_question_proves_nothing() -> None:
    link = resolve_link(new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], None, CATALOG), CATALOG)
    session, evidence = Session(Settings.parse("1200,7E1")), Evidence()
    session.hear(0.0, b"ID SKW-GH-07 FW3.1 SN 20418\r\n")
    read(evidence, session, link, 1.0, CATALOG)
    assert not evidence.proven


def test_facts_newest_first_and_contradictions_before_all() -> None:
    old = Fact("a", "old", Provenance.ASSUMED, "s", 1.0)
    new = Fact("a", "new", Provenance.MEASURED, "s", 2.0)
    other = Fact("b", "other", Provenance.OBSERVED, "s", 3.0)
    against = Fact("c", "against", Provenance.COMPUTED, "s", 0.5, holds=False)
    assert newest([old, new, other, against]) == [against, other, new]
    assert (new.state, old.state, against.state) == (State.PROVEN, State.ASSUMED, State.CONTRADICTED)


def test_handshakes_asked_by_either_end() -> None:
    model = new_link("gauge-logger", ["crossed-de9-full"], None, CATALOG)
    model = with_settings(model, computer=Settings.parse("1200,7E1,rts-cts"), device=Settings.parse("1200,7E1,dtr-dsr"))
    assert asked_handshakes(resolve_link(model, CATALOG)) == {Handshake.RTS_CTS, Handshake.DTR_DSR}


def test_a_line_that_was_read_late_is_still_one_line() -> None:
    link = resolve_link(new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], None, CATALOG), CATALOG)
    session, evidence = Session(Settings.parse("1200,7E1")), Evidence()
    session.hear(0.0, b"LEVEL LOGGER FW 3")
    read(evidence, session, link, 0.9, CATALOG)
    session.hear(1.0, b".1 READY\r\n")
    read(evidence, session, link, 2.0, CATALOG)
    assert len(session.utterances) == 2
    assert evidence.greeting == {"firmware": "3.1"}
