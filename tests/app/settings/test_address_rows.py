"""Address plans as typed rows: to documents, judged, settled; pictures of them; networks."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.app.settings import address_rows as sheets
from humble_courier.app.settings.address_plans import judge_bus_text, judge_points_text
from humble_courier.app.settings.address_rows import Use
from humble_courier.catalog.load import Catalog
from humble_courier.documents.bus import BankModel
from humble_courier.errors import BadInput
from humble_courier.host.networks import read

CATALOG = Catalog()
ROWS = [
    ("one", "1", "", ""),
    ("two", "2", "", "19200,8N1"),
    ("three", "2", "", ""),
    ("four", "0", "", ""),
    ("five", "", "", ""),
]


def test_what_is_in_conflict_gets_free_addresses_with_its_switches() -> None:
    judged = judge_bus_text(sheets.bus_text("modbus-rtu", "19200,8E1", ROWS, BankModel(8)), "plan", CATALOG)
    assert {c.code for c in judged.plan.conflicts} == {"duplicate-address", "address-out-of-range", "settings-differ"}
    grid = sheets.bus_grid(judged, CATALOG)
    uses = {cell.number: cell.use for cell in grid.cells}
    assert (uses["0"], uses["1"], uses["2"], uses["4"]) == (Use.BEYOND, Use.TAKEN, Use.TWICE, Use.FREE)
    assert grid.left_out == "from 32 to 247 all are free"
    line = sheets.bus_line(judged, CATALOG, 2)
    hanging = {one.name: (one.address, one.use) for one in line.members}
    assert hanging["three"] == ("2", Use.TWICE) and hanging["five"] == ("", Use.FREE) and line.terminators == 2
    rows = sheets.settled(judged)
    again = judge_bus_text(sheets.bus_text("modbus-rtu", "19200,8E1", rows, BankModel(8)), "plan", CATALOG)
    assert again.plan.ok and len(set(again.plan.addresses.values())) == 5
    for _, address, switches, _ in rows[2:]:
        assert int(switches[::-1], 2) == int(address)  # switch 1 weighs 1


@given(st.lists(st.tuples(st.integers(1, 40), st.integers(0, 90)), min_size=1, max_size=8), st.sampled_from([8, 10, 16]))
def test_modules_that_are_moved_overlap_no_more(modules: list[tuple[int, int]], radix: int) -> None:
    rows = [(f"m{i}", "", str(points), sheets.shown(start, radix)) for i, (points, start) in enumerate(modules)]
    plan, model = judge_points_text(sheets.points_text(radix, "", rows), "plan")
    moved = sheets.moved(plan, model)
    again, _ = judge_points_text(sheets.points_text(radix, "", moved), "plan")
    assert again.ok
    twice = {cell.number for cell in sheets.points_grid(plan, radix).cells if cell.use is Use.TWICE}
    covered = [set(range(start, start + points)) for points, start in modules]
    overlap = {p for i, a in enumerate(covered) for b in covered[:i] for p in a & b}
    assert twice == {sheets.shown(p, radix, 2) for p in overlap}


@pytest.mark.parametrize(
    ("make", "said"),
    [
        (lambda: sheets.bus_text("modbus-rtu", "", [("a", "x", "", "")], None), "“x” is no number"),
        (lambda: sheets.bus_text("modbus-rtu", "", [], None), "one device at least"),
        (lambda: sheets.points_text(10, "", [("a", "", "0", "")]), "expected 1 to 65536"),
        (lambda: sheets.network_figures("192.0.2.1", "192.0.2.2/24", "", "", ""), "size of its network"),
    ],
)
def test_what_is_typed_wrongly_is_named(make: object, said: str) -> None:
    with pytest.raises(BadInput, match=said):
        make()  # type: ignore[operator]


def test_the_way_into_the_network_of_a_device() -> None:
    told = sheets.network_figures("192.168.4.1/24", "192.0.2.20/24", "", "192.168.4.1/24", "lan0")
    values = " ".join(figure.value for figure in told)
    assert "sudo ip address add 192.168.4.254/24 dev lan0" in values and "taken at this site" in values
    told = sheets.serial_figures(CATALOG.device("data-concentrator"), "192.168.4.7")
    assert [figure.value for figure in told][:3] == [
        "show ip (asks for its network address; changes nothing)",
        "configure",
        "ip 192.168.4.7",
    ]


def test_addresses_of_this_computer() -> None:
    told = b"""[{"ifname":"lo","flags":["LOOPBACK"],"addr_info":[{"local":"127.0.0.1","prefixlen":8,"scope":"host"}]},
      {"ifname":"lan0","flags":["UP"],"addr_info":[{"local":"192.0.2.7","prefixlen":24,"scope":"global"}]},
      {"ifname":"w"}]"""
    assert read(told) == [("lan0", "192.0.2.7/24")]
    assert read(b"no json") == []
