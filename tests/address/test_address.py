"""Switches, buses, points and networks: round trips, rules of the buses, Python's own numbers and `ipaddress`."""

from ipaddress import ip_interface

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from humble_courier.address.bus import Member, plan_bus
from humble_courier.address.network import factory_clash, interface, plan_network
from humble_courier.address.points import Module, number, plan_points, shown
from humble_courier.address.switches import Bank, Table, hex_switches, parse_positions, seen_from
from humble_courier.catalog.entries import BusProtocolEntry
from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput

PROTOCOLS = Catalog().bus_protocols
MODBUS, MSTP = PROTOCOLS["modbus-rtu"], PROTOCOLS["mstp"]
TWO = BusProtocolEntry(id="two", name="two", source="invented", lowest=1, highest=2, most_devices=2)


@given(st.integers(1, 16), st.booleans(), st.booleans(), st.integers(-3, 100), st.data())
def test_a_bank_reads_back(width: int, msb: bool, inverse: bool, offset: int, data: st.DataObject) -> None:
    bank = Bank(width, msb, inverse, offset)
    address = data.draw(st.integers(*bank.range))
    positions = bank.set_to(address)
    assert bank.read(positions) == address
    digits = positions if msb else positions[::-1]  # the second opinion: Python's own binary numbers
    value = int("".join(str(d) for d in digits), 2)
    assert address - offset == (value if not inverse else (1 << width) - 1 - value)


@pytest.mark.parametrize(
    ("bank", "address", "positions"),
    [
        (Bank(8), 5, (1, 0, 1, 0, 0, 0, 0, 0)),
        (Bank(8, msb_first=True), 5, (0, 0, 0, 0, 0, 1, 0, 1)),
        (Bank(4, on_is_zero=True), 5, (0, 1, 0, 1)),
        (Bank(5, offset=1), 1, (0, 0, 0, 0, 0)),
    ],
)
def test_banks_by_hand(bank: Bank, address: int, positions: tuple[int, ...]) -> None:
    assert bank.set_to(address) == positions


@pytest.mark.parametrize("wrong", [lambda: Bank(4).set_to(16), lambda: Bank(4).set_to(-1), lambda: Bank(4).read((1, 0)),
                                   lambda: Bank(2).read((1, 2)), lambda: Bank(0), lambda: hex_switches(256, 2)])  # fmt: skip
def test_what_a_bank_cannot_say(wrong: object) -> None:
    with pytest.raises(BadInput):
        wrong()  # type: ignore[operator]


def test_tables_rotary_switches_and_the_view() -> None:
    table = Table({"00": "1200", "01": "2400", "10": "9600"})
    assert table.set_to("9600") == (1, 0) and table.read((0, 1)) == "2400"
    for wrong in (lambda: table.read((1, 1)), lambda: table.set_to("300"), lambda: table.read((1,))):
        with pytest.raises(BadInput):
            wrong()
    assert hex_switches(0x2F, 2) == "2F"
    assert seen_from((1, 0, 0), upside_down=True) == (1, 1, 0)
    assert seen_from(seen_from((1, 0, 1, 1), True), True) == (1, 0, 1, 1)


@pytest.mark.parametrize(
    ("text", "positions"), [("1011", (1, 0, 1, 1)), ("1,0, 1", (1, 0, 1)), ("on OFF up down", (1, 0, 1, 0))]
)
def test_positions_as_people_write_them(text: str, positions: tuple[int, ...]) -> None:
    assert parse_positions(text) == positions


@pytest.mark.parametrize("text", ["", "12", "on maybe", "x"])
def test_positions_that_cannot_be_read(text: str) -> None:
    with pytest.raises(BadInput, match="from switch 1 on"):
        parse_positions(text)


def test_two_alike_on_a_bus() -> None:
    members = [
        Member("a", 3, "19200 8E1"),
        Member("b", 3),
        Member("c", None),
        Member("d", 300),
        Member("e", 0),
        Member("f", 7, "9600 8N1"),
    ]
    plan = plan_bus(MODBUS, "19200 8E1", members)
    assert [(c.code, c.where) for c in plan.conflicts] == [
        ("settings-differ", "f"), ("address-out-of-range", "d"), ("address-out-of-range", "e"), ("duplicate-address", "b"),
    ]  # fmt: skip
    assert not plan.ok and plan.addresses["c"] == 1 and plan.suggest == {"d": 2, "e": 4, "b": 5}


@given(st.lists(st.one_of(st.none(), st.integers(0, 260)), min_size=1, max_size=30))
def test_the_suggestions_settle_a_plan(addresses: list[int | None]) -> None:
    members = [Member(str(i), a) for i, a in enumerate(addresses)]
    plan = plan_bus(MODBUS, "", members)
    mended = [Member(m.name, plan.suggest.get(m.name, plan.addresses[m.name])) for m in members]
    again = plan_bus(MODBUS, "", mended)
    assert again.ok and len(set(again.addresses.values())) == len(members)
    assert all(1 <= a <= 247 for a in again.addresses.values())


def test_gaps_cost_time_and_a_bus_can_be_full() -> None:
    plan = plan_bus(MSTP, "", [Member("a", 0), Member("b", 9)])
    assert (
        plan.ok
        and plan.highest_master == 9
        and plan.conflicts[0].costs_only
        and "one in 50 tokens" in plan.conflicts[0].text
    )
    full = plan_bus(TWO, "", [Member(n, None) for n in "abc"])
    assert [c.code for c in full.conflicts] == ["bus-full", "too-many-devices"]


@given(st.integers(0, 1 << 20), st.sampled_from([8, 10, 16]))
def test_numbers_in_a_radix(value: int, radix: int) -> None:
    text = shown(value, radix)
    assert number(text, radix) == value == int(text, radix)
    assert text == {8: f"{value:o}", 10: str(value), 16: f"{value:X}"}[radix]


@pytest.mark.parametrize(("text", "radix"), [("8", 8), ("A", 10), ("G", 16), ("-1", 16), ("", 8)])
def test_digits_that_a_radix_does_not_have(text: str, radix: int) -> None:
    with pytest.raises(BadInput, match="expected digits"):
        number(text, radix)


def test_points_are_placed_and_overlaps_found() -> None:
    plan = plan_points([Module("a", 32), Module("b", 16, 0x40), Module("c", 8), Module("d", 16, 0x1F)], 16, highest=0x50)
    assert [(p.start, p.end) for p in plan.placed] == [(0, 0x1F), (0x40, 0x4F), (0x50, 0x57), (0x1F, 0x2E)]
    assert [(c.code, c.where) for c in plan.conflicts] == [("beyond-last-point", "c"), ("overlap", "d")]
    assert plan.next_start == 0x58 and "40 to 4F" not in plan.conflicts[1].text


@given(st.lists(st.tuples(st.integers(1, 64), st.one_of(st.none(), st.integers(0, 300))), min_size=1, max_size=12))
def test_overlaps_against_sets_of_points(modules: list[tuple[int, int | None]]) -> None:
    plan = plan_points([Module(str(i), points, start) for i, (points, start) in enumerate(modules)], 10)
    sets = [set(range(p.start, p.end + 1)) for p in plan.placed]
    pairs = sum(bool(sets[i] & sets[j]) for i in range(len(sets)) for j in range(i))
    assert len(plan.conflicts) == pairs and plan.next_start not in set().union(*sets)


@pytest.mark.parametrize(
    ("device", "computer", "codes", "ok"),
    [
        ("192.168.1.10/24", "192.168.1.20/24", [], True),
        ("192.168.1.10/24", "10.0.0.5/24", ["other-network"], False),
        ("192.168.1.10/24", "192.168.1.10/24", ["same-address"], False),
        ("192.168.1.10/16", "192.168.2.5/24", ["mask-differs"], False),
        ("192.168.1.10/24", "192.168.1.77/16", ["mask-differs"], True),
        ("192.168.1.10/24", "192.168.1.255/24", ["broadcast-address"], False),
        ("192.168.1.10/24", "192.168.1.0/24", ["network-address"], False),
        ("10.0.0.0/31", "10.0.0.1/31", [], True),
        ("fd00::1/64", "192.168.1.1/24", ["other-version"], False),
        ("fd00::1/64", "fd00::2/64", [], True),
    ],
)
def test_two_ends_of_a_network(device: str, computer: str, codes: list[str], ok: bool) -> None:
    plan = plan_network(interface(device), interface(computer))
    assert ([c.code for c in plan.conflicts], plan.ok) == (codes, ok)


@given(st.ip_addresses(v=4), st.integers(8, 32), st.ip_addresses(v=4), st.integers(8, 32))
def test_the_suggested_address_works(device: object, size: int, computer: object, other: int) -> None:
    """Outside reference: the standard library's networks."""
    ends = ip_interface(f"{device}/{size}"), ip_interface(f"{computer}/{other}")
    plan = plan_network(*ends)
    assume(not plan.ok)
    if plan.suggest is None:
        assert size >= 31 or any(c.where == "device" for c in plan.conflicts) or ends[0].network.num_addresses <= 4
        return
    taken = ip_interface(plan.suggest)
    assert taken.network == ends[0].network and taken.ip != ends[0].ip
    assert size >= 31 or taken.ip in set(list(ends[0].network.hosts())[-4:] if size > 16 else [taken.ip])


def test_two_ways_and_factory_addresses() -> None:
    plan = plan_network(interface("192.168.1.10/24"), interface("192.168.1.20/24"), (interface("192.168.0.5/16"),))
    assert not plan.ok and plan.conflicts[0].code == "two-ways"
    assert factory_clash(interface("192.168.1.1/24"), (interface("192.168.1.1/24"),))[0].code == "same-address"
    for wrong in ("192.168.1.1", "300.1.1.1/24", "x/24", "1.2.3.4/33"):
        with pytest.raises(BadInput, match="as in"):
            interface(wrong)
