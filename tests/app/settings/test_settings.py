"""What the Settings and Prepare stages compute: match, switch banks, acts, figures of time."""

import pytest

from humble_courier.app.prepare.sheet_acts import about, acts
from humble_courier.app.settings import banks, timings
from humble_courier.app.settings.both_ends import match
from humble_courier.app.wire.tracing import trace_link
from humble_courier.catalog.links import Link, link_from_text
from humble_courier.catalog.load import Catalog
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput

LINK = """
courier: link/1
computer: {port: dte-de9}
device: {device: DEVICE}
chain: [{part: crossed-de9-full}]
settings: {computer: "COMPUTER"}
"""


def link(catalog: Catalog, device: str = "gauge-logger", computer: str = "2400,8N1,rts-cts") -> Link:
    return link_from_text(LINK.replace("DEVICE", device).replace("COMPUTER", computer), "link", catalog)


def test_match_tells_what_differs_what_it_looks_like_and_which_end_to_change(catalog: Catalog) -> None:
    rows = {row.setting: row for row in match(link(catalog))}
    assert [name for name, row in rows.items() if row.differs] == ["rate", "data bits", "parity", "handshake"]
    assert "switches 1 to 3 of bank S2" in rows["rate"].device_by and "breaks" in rows["rate"].looks
    assert "fixed" in rows["parity"].change and "128 too high" in rows["parity"].looks
    assert all(row.looks and row.change for row in rows.values() if row.differs)
    assert not any(row.differs for row in match(link(catalog, computer="1200,7E1")))


@pytest.mark.parametrize(
    ("computer", "setting", "told"),
    [("600,7E1", "rate", "too few"), ("1200,6E1", "data bits", "every character"), ("1200,7O1", "parity", "half"),
     ("1200,7E2", "stop bits", "at once"), ("1200,7E1,xon-xoff", "handshake", "long answers")],
)  # fmt: skip
def test_what_differences_look_like(catalog: Catalog, computer: str, setting: str, told: str) -> None:
    assert told in next(row.looks for row in match(link(catalog, computer=computer)) if row.setting == setting)


def test_a_table_bank_both_ways(catalog: Catalog) -> None:
    bank = catalog.device("gauge-logger").banks[0]
    positions = banks.wanted(bank, "9600")
    view = banks.view(bank, positions)
    assert (positions, view.says, view.known) == ((0, 0, 1), "9600", True)
    assert not banks.view(bank, (1, 1, 1)).known
    assert banks.start(bank, Settings.parse("300,7E1")) == (1, 0, 0) and banks.start(bank, None) == (0, 0, 0)
    assert banks.settings_said(bank, "9600", Settings.parse("1200,7E1")) == Settings.parse("9600,7E1")
    for wrong in ("115200", ""):
        with pytest.raises(BadInput):
            banks.wanted(bank, wrong)


def test_an_address_bank_that_is_seen_upside_down(catalog: Catalog) -> None:
    bank = catalog.device("snow-pillow").banks[0]
    view = banks.view(bank, banks.wanted(bank, "3"))
    assert view.says == "3" and view.numbers == (8, 7, 6, 5, 4, 3, 2, 1)
    assert view.seen == (1, 1, 1, 1, 1, 1, 0, 0)  # upside down, on looks down
    assert banks.settings_said(bank, "3", Settings.parse("1200,7E1")) is None
    with pytest.raises(BadInput, match="whole number"):
        banks.wanted(bank, "three")
    with pytest.raises(BadInput, match="the bank has 8"):
        banks.view(bank, (1, 0))


@pytest.mark.parametrize(
    ("device", "told"),
    [("gauge-logger", "Tell its revision"), ("bridge-controller", "alarm"), ("data-concentrator", "Wait 25 s"),
     ("packet-radio", "Compare its band"), ("chart-recorder", "up to 2 only"), ("valley-tractor", "behind the fuse cover")],
)  # fmt: skip
def test_acts_follow_from_the_sheet(catalog: Catalog, device: str, told: str) -> None:
    sheet = catalog.device(device)
    made = acts(sheet, catalog.cautions)
    assert any(told in act.act for act in made) and all(act.proof for act in made)
    assert [a.act for a in made if a.act in {p.act for p in sheet.preconditions}] == [p.act for p in sheet.preconditions]
    assert sum(bool(a.caution) for a in made) >= sum(p.caution is not None for p in sheet.preconditions)


def test_about_tells_of_both_ports_and_of_the_network(catalog: Catalog) -> None:
    bridge = dict(about(catalog.device("bridge-controller")))
    assert "38400 8E1" in bridge["Bus plug"] and "4800 8N1" in bridge["Service port"]
    hut = dict(about(catalog.device("data-concentrator")))
    assert "show ip" in hut["Its address is unknown"] and "note the old one" in hut["Setting its address"]


def test_figures_of_time(catalog: Catalog) -> None:
    found = link(catalog, computer="9600,8N1")
    asked = timings.TimingAsked(count=4096, timeout_ms=20, turnaround_ms=5, takes_per_s=300, buffer=256)
    time = {f.what: f for f in timings.figures(found, asked)}
    assert time["one character"].value == "1.042 ms" and time["4096 bytes"].value == "4.3 s"
    assert not time["question and answer, 16 bytes, adapter at 16 ms"].good
    flow = {f.what: f for f in timings.flow(found, trace_link(found, catalog), asked)}
    assert not flow["without handshake"].good and "xon-xoff" in flow["handshake that this wiring can carry"].value
    clocks = timings.clocks(found)
    assert clocks[0].value == "4.58 %" and all(f.good for f in clocks)
    odd = timings.clocks(link(catalog, computer="250000,8N1"))
    assert any("clamped to its limit" in f.value and not f.good for f in odd)
