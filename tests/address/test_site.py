"""A whole site over segments: unique where it must be, as few segments as may be, against bin packing by hand."""

from hypothesis import given
from hypothesis import strategies as st

from humble_courier.address.bus import Member
from humble_courier.address.site import SitePlace, plan_site
from humble_courier.catalog.entries import BusProtocolEntry

BUS = BusProtocolEntry(id="bus", source="common practice", name="a bus", lowest=1, highest=20, kept=(7,), most_devices=12)
PLACES = st.lists(
    st.tuples(st.none() | st.integers(0, 25), st.none() | st.sampled_from("AB"), st.none() | st.integers(0, 40)),
    min_size=1, max_size=60,
)  # fmt: skip


def places(drawn: list[tuple[int | None, str | None, int | None]]) -> list[SitePlace]:
    return [SitePlace(Member(f"unit {n}", a), s, i) for n, (a, s, i) in enumerate(drawn)]


@given(PLACES, st.integers(1, 12))
def test_what_is_ok_keeps_every_rule_and_what_is_not_names_who(
    drawn: list[tuple[int | None, str | None, int | None]], most: int
) -> None:
    site = places(drawn)
    plan = plan_site(BUS, "", site, most, (5, 30))
    assert sorted(name for segment in plan.segments for name in segment.members) == sorted(p.member.name for p in site)
    by_name = {place.member.name: place for place in site}
    broken = set()
    for segment in plan.segments:
        addresses = [segment.plan.addresses.get(name) for name in segment.members]
        legal = all(a is not None and 1 <= a <= 20 and a != 7 for a in addresses)
        if not legal or len(set(addresses)) < len(addresses) or len(addresses) > most:
            broken.add(segment.name)
        fixed = [by_name[name].segment for name in segment.members if by_name[name].segment]
        assert all(one == segment.name for one in fixed)
    numbers = [plan.instances.get(place.member.name) for place in site]
    wrong = None in numbers or len(set(numbers)) < len(numbers) or any(not 5 <= n <= 30 for n in numbers if n is not None)
    assert plan.ok == (not broken and not wrong)
    assert all(by_name[name].instance in (None, n) for name, n in plan.instances.items())


@given(st.integers(1, 400), st.integers(1, 12))
def test_devices_without_wishes_want_as_few_segments_as_there_can_be(many: int, most: int) -> None:
    plan = plan_site(BUS, "", places([(None, None, None)] * many), most)
    assert len(plan.segments) == -(-many // most) and plan.ok
    assert [name for segment in plan.segments for name in segment.members] == [f"unit {n}" for n in range(many)]


def test_alike_addresses_go_onto_different_segments() -> None:
    plan = plan_site(BUS, "", places([(3, None, None), (3, None, None), (None, None, None), (3, None, None)]))
    assert [segment.members for segment in plan.segments] == [("unit 0", "unit 2"), ("unit 1",), ("unit 3",)] and plan.ok


def test_more_on_a_segment_than_the_bus_drives_is_said() -> None:
    plan = plan_site(BUS, "", places([(None, "A", None)] * 13))
    assert [c.code for c in plan.conflicts] == ["too-many-devices"] and not plan.ok
    assert "12 without a repeater" in plan_site(BUS, "", places([(None, None, None)]), 40).conflicts[0].text
