"""The kit, chains out of it, the meter at the link, and what is asked about the line."""

import msgspec
import pytest

from humble_courier.app.amounts import Budget
from humble_courier.app.demo.records import demo_kit
from humble_courier.app.kit.contents import (
    EMPTY,
    credited,
    found_in,
    individual,
    link_part,
    listed,
    load_kit,
    mating,
    own_lead,
    parts_of,
    read_kit_text,
    save_kit,
    with_count,
    with_item,
)
from humble_courier.app.link.changes import new_link
from humble_courier.app.link.facts import documented
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.wire import line_load
from humble_courier.app.wire.build_table import table
from humble_courier.app.wire.chains import advice, better_chain, chain_line, chains, with_plan
from humble_courier.app.wire.meter import MeterBench, may_carry
from humble_courier.app.wire.tracing import trace_link
from humble_courier.catalog.links import link_from_text, resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.named import ends_named
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.documents.link import LinkPart
from humble_courier.documents.link_changes import yaml_text
from humble_courier.domain.facts import Provenance
from humble_courier.domain.hardware import Connector, Gender
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput
from humble_courier.records.store import Store
from humble_courier.wiring.build import BuildSheet, Wire


def test_counting_parts(catalog: Catalog) -> None:
    kit = with_item(EMPTY, KitItem(part="usb-rs232"), catalog)
    kit = with_item(kit, KitItem(part="usb-rs232"), catalog)
    assert [(i.part, i.count) for i in kit.items] == [("usb-rs232", 2)]
    assert with_count(kit, 0, 0).items == []


def test_the_kit_is_kept_and_written_as_yaml(store: Store, catalog: Catalog) -> None:
    kit = demo_kit()
    save_kit(store, kit, load_kit(store))
    assert load_kit(store) == kit
    assert read_kit_text(yaml_text(kit), "kit.yaml", catalog) == kit


def test_a_lead_of_ones_own_in_words(catalog: Catalog) -> None:
    item = own_lead("grey", "D9 socket", "DB-25 plug", "2-3, 3-2; 5-7, A7-A8", catalog)
    assert item.conductors == ["A2-B3", "A3-B2", "A5-B7", "A7-A8"]
    assert [(e.family, e.contacts, e.gender) for e in item.ends or []] == [("D", 9, "socket"), ("D", 25, "plug")]


def test_leads_by_colour_several_ends_and_an_end_that_speaks(catalog: Catalog) -> None:
    lead = own_lead("float lead", "D9 socket", "leads", "2-brown, 3-white, 5-BK", catalog)
    assert lead.conductors == ["A2-B:BN", "A3-B:WH", "A5-B:BK"]
    assert [(e.family, e.contacts) for e in lead.ends or []] == [("D", 9), ("lead", 3)]
    split = own_lead("one to two", "D9 socket", "D9 plug and D9 plug", "A2-B2, A2-C2, A5-B5, A5-C5", catalog)
    assert len(split.ends or []) == 3 and (split.conductors or [])[1] == "A2-C2"
    active = own_lead("converter", "D9 socket with 2 TXD out rs232; 3 RXD in rs232; 5 GND", "D9 plug", "5-5", catalog)
    assert (active.ends or [])[0].signals == {"2": "TXD out rs232", "3": "RXD in rs232", "5": "GND"}
    kit = with_item(with_item(EMPTY, split, catalog), active, catalog)
    assert [part.part.active for part in parts_of(kit, catalog)] == [False, True]


def test_an_adapter_is_told_apart_and_credited_for_itself(catalog: Catalog) -> None:
    kit = with_count(with_item(EMPTY, KitItem(part="usb-rs232"), catalog), 0, 3)
    kit = individual(kit, 0, "ftdi_sio", " SK0003 ")
    assert [(one.count, one.module, one.serial) for one in kit.items] == [(2, "", ""), (1, "ftdi_sio", "SK0003")]
    assert "ftdi_sio, serial SK0003" in listed(kit, catalog)[1].told
    with pytest.raises(BadInput, match="in the kit already"):
        individual(kit, 0, "ftdi_sio", "SK0003")
    part = [LinkPart(part="usb-rs232")]
    known = credited(kit, part, served=True, serial="SK0003")
    assert [one.successes for one in known.items] == [0, 1]
    assert [one.failures for one in credited(kit, part, served=False, serial="SK0009").items] == [1, 0]
    more = with_item(kit, KitItem(part="usb-rs232"), catalog)
    assert [one.count for one in more.items] == [3, 1], "a further one is not that very piece"


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (("x", "D9 plug", "leads", "2-mauve 2"), "MAUVE"),
        (("", "D9 plug", "D9 plug", "2-2"), "needs a name"),
        (("x", "D9", "D9 plug", "2-2"), "expected a connector and plug or socket"),
        (("x", "Q9 plug", "D9 plug", "2-2"), "unknown connector"),
        (("x", "D9 plug", "D9 plug", "2"), "expected two contacts"),
        (("x", "D9 plug", "D9 plug", "2-12"), "has no contact 12"),
    ],
)
def test_a_wrong_word_is_told(words: tuple[str, str, str, str], told: str, catalog: Catalog) -> None:
    with pytest.raises(BadInput, match=told):
        own_lead(*words, catalog)


def test_a_proof_is_credited_to_its_parts(link: OpenLink) -> None:
    before = {i.part: i.successes for i in link.bag.kit.items}
    kit = credited(link.bag.kit, link.document.model.chain, served=True)
    after = {i.part: i.successes for i in kit.items}
    assert {k for k in after if after[k] != before[k]} == {"usb-rs232", "crossed-de9-3wire"}


def test_chains_of_the_demo_kit_and_one_with_a_lead_turned_about(catalog: Catalog) -> None:
    link = resolve_link(new_link("gauge-logger", ["usb-rs232"], None, catalog), catalog)
    found = chains(link, demo_kit(), catalog)
    assert [p.trace.verdict.usable for p in found.outcome.plans] == [True] * len(found.outcome.plans)
    assert "served" in chain_line(1, found.outcome.plans[0]) and advice(found) == ""
    for plan in found.outcome.plans:
        model = with_plan(link.model, plan, demo_kit().items)
        assert trace_link(resolve_link(model, catalog), catalog).verdict is plan.trace.verdict
    lead = own_lead("short one", "D9 plug", "D9 socket", "2-3, 3-2, 5-5", catalog)
    kit = with_item(with_item(EMPTY, KitItem(part="usb-rs232"), catalog), lead, catalog)
    turned = chains(link, kit, catalog).outcome.plans[0]
    assert turned.members[-1] == (1, True)
    assert trace_link(resolve_link(with_plan(link.model, turned, kit.items), catalog), catalog).verdict.usable
    nothing = chains(link, EMPTY, catalog)
    assert "To buy" in advice(nothing) and "Nearest" in advice(nothing)
    assert len(parts_of(kit, catalog)) == 2


def test_the_meter_takes_readings_back(catalog: Catalog) -> None:
    meter = MeterBench(catalog, ends_named("D9,D9", catalog))
    assert "Which cable" in meter.headline(meter.named())[0]
    first = meter.named().next_touch
    assert first is not None
    meter.say(first, beep=False)
    assert meter.named().next_touch != first
    assert meter.back() and not meter.back()
    assert meter.named().next_touch == first
    assert sum(p for _, p in meter.rows(meter.named())) == pytest.approx(1)


def test_what_is_asked_about_the_line(catalog: Catalog) -> None:
    link = resolve_link(new_link("snow-pillow", ["usb-rs485"], None, catalog), catalog)
    keys = [key for key, _, _ in line_load.asked(link, trace_link(link, catalog))]
    assert keys == ["terminators in 0", "nodes", "bias_ohm", "stub_m"]
    answers = {"terminators in 0": "1", "nodes": "7", "bias_ohm": "1500", "stub_m": "0,5"}
    changed = resolve_link(line_load.answered(link.model, answers, 2, buildings=True), catalog)
    assert (changed.site.nodes, changed.site.bias_ohm, changed.site.stub_m, changed.site.terminators) == (7, 1500, 0.5, 2)
    assert changed.parts[0].terminates == 1
    trace = trace_link(changed, catalog)
    idle = _named(line_load.figures(trace, catalog), "idle pair")
    assert idle.told == "96 mV, 200 mV needed" and not idle.good  # by hand: 5/1500 over 1/1500 + 7/12000 + 1/30
    assert any("680 ohm" in text for text in line_load.remarks(trace)) and "reservation" in line_load.headline(trace)[0]
    serial = resolve_link(new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], None, catalog), catalog)
    far = resolve_link(line_load.answered(serial.model, {"length 1": "500"}, None, buildings=False), catalog)
    assert "too long" in line_load.headline(trace_link(far, catalog))[0]
    for values in ({"length 1": "far"}, {"length 1": "-1"}, {"nodes": "1"}):
        with pytest.raises(BadInput):
            line_load.answered(serial.model, values, None, buildings=False)


def test_a_table_computes_nothing_in_a_spreadsheet() -> None:
    plug = Connector("D", 9, Gender.PLUG)
    sheet = BuildSheet(plug, plug, (Wire("2", "3", "=1+1", "@x", "-red"),), (), "+", "own", (), ())
    text = table(sheet).decode()
    assert "'=1+1" in text and "'@x" in text and "'-red" in text and "'+" in text
    assert text.endswith("\r\n")


def test_settings_decide_the_length(catalog: Catalog) -> None:
    model = new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], None, catalog)
    chain = [model.chain[0], msgspec.structs.replace(model.chain[1], length_m=60.0)]
    slow = msgspec.structs.replace(model, chain=chain)
    fast = msgspec.structs.replace(
        slow, settings=msgspec.structs.replace(slow.settings, computer=str(Settings.parse("19200,8N1")))
    )
    assert trace_link(resolve_link(slow, catalog), catalog).verdict.usable  # 1200 bit/s: the edges have time
    assert not trace_link(resolve_link(fast, catalog), catalog).verdict.usable


def test_loose_leads_are_put_where_their_signals_belong(catalog: Catalog) -> None:
    text = """courier: link/1
computer: {port: dte-de9}
device:
  connector: {family: terminal, contacts: 3, gender: socket}
  signals: {1: "TXD out rs232", 2: "RXD in rs232", 3: GND}
chain: [{part: lead-de9}]
"""
    link = link_from_text(text, "x", catalog)
    better = better_chain(link, EMPTY, catalog)
    assert better is not None and better.model.chain[0].lands == {"BN": "1", "WH": "2", "GN": "3"}
    mended = resolve_link(better.model, catalog)
    assert trace_link(mended, catalog).verdict.usable
    fact = next(f for f in documented(mended, 0.0) if f.subject == "leads 1")
    assert fact.provenance is Provenance.DOCUMENTED and "not measured" in fact.source


def test_what_a_connector_may_carry_and_how_far(catalog: Catalog) -> None:
    assert may_carry(catalog.shapes["round-6", 6]) == ["J1708, always: the six-contact round socket has no J1939."]
    link = resolve_link(new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], None, catalog), catalog)
    trace = trace_link(link, catalog)
    reach = line_load.reaches(trace, catalog)
    assert reach is not None and reach.carries and (reach.rate, reach.length_m) == (1200, 2)
    far = dict(reach.points)  # by hand: 2500 pF at 100 pF/m from 8000 bit/s on, slower in proportion more
    assert far[2400] == pytest.approx(83.3, abs=0.1) and far[9600] == far[115_200] == 25 and reach.far_m == far[1200]
    capacitance = _named(line_load.figures(trace, catalog), "capacitance")
    assert capacitance.good and capacitance.used == 200 and capacitance.allowed == pytest.approx(16_667, abs=1)


def _named(budgets: list[Budget], what: str) -> Budget:
    return next(budget for budget in budgets if budget.what == what)


def test_a_part_that_nobody_knows_is_not_taken_in_and_costs_only_its_row(catalog: Catalog) -> None:
    with pytest.raises(BadInput, match="unknown part"):
        with_item(EMPTY, KitItem(part=""), catalog)
    kit = KitModel("kit/1", [KitItem(part="gone-since"), KitItem(part="usb-rs232")])
    assert [part.item.part for part in parts_of(kit, catalog)] == ["usb-rs232"]
    assert [row.told.startswith("not known") for row in listed(kit, catalog)] == [True, False]


def test_resistors_of_a_piece_of_the_kit_go_into_the_link(catalog: Catalog) -> None:
    item = KitItem(part="usb-rs485", terminates=1, bias_ohm=680)
    (piece,) = parts_of(KitModel("kit/1", [item]), catalog)
    link = resolve_link(new_link("snow-pillow", [], None, catalog), catalog)
    chained = resolve_link(msgspec.structs.replace(link.model, chain=[link_part(item, turned=False)]), catalog)
    for part in (piece.part, chained.parts[0]):
        assert (part.terminates, part.bias_ohm) == (1, 680)


def test_what_goes_into_the_chosen_part_lights_up(catalog: Catalog) -> None:
    ids = ("usb-rs232", "crossed-de9-3wire", "straight-de9", "usb-rs485", "crossover-adapter-de9")
    kit = KitModel("kit/1", [*(KitItem(part=part) for part in ids), KitItem(part="gone-since")])
    rows = listed(kit, catalog)
    lit = dict(zip(ids, mating(rows[0], rows), strict=False))
    # a D 9 plug goes into the sockets of both ends of a crossed cable, into one end of a straight one, into no terminal
    assert (lit["crossed-de9-3wire"], lit["straight-de9"], lit["usb-rs485"]) == ({0, 1}, {0}, frozenset())
    assert mating(rows[-1], rows) == [frozenset()] * 6 == mating(None, rows)
    assert [row.name for row in found_in(rows, "crossed D 9")] == ["Crossed cable, 3 conductors"]
