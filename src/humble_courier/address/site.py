"""A whole site: its devices over as many segments of a bus as they want, each segment a bus of its own.

Devices go into the segments in their order, so that neighbours in the list are neighbours on the cable. One whose address
is fixed goes into the first segment that has room and where nobody has that address. Names and instance numbers are unique
over the whole site, addresses within a segment.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

from humble_courier.address.bus import BusPlan, Member, plan_bus
from humble_courier.address.conflicts import Conflict
from humble_courier.catalog.entries import BusProtocolEntry


@dataclass(frozen=True)
class SitePlace:
    """A device of the site; `segment` and `instance` None where the plan is to choose them."""

    member: Member
    segment: str | None = None
    instance: int | None = None


@dataclass(frozen=True)
class BusSegment:
    """One bus: its devices in the order of the cable, and its own plan."""

    name: str
    members: tuple[str, ...]
    plan: BusPlan


@dataclass(frozen=True)
class SitePlan:
    """The segments, the instance number of each device, and what speaks against the whole."""

    segments: tuple[BusSegment, ...]
    instances: dict[str, int]
    conflicts: tuple[Conflict, ...]

    @property
    def ok(self) -> bool:
        """Whether nothing forbids it; what only costs time does not."""
        return all(conflict.costs_only for conflict in self.conflicts)


@dataclass
class _Filling:
    """A segment while it is filled."""

    name: str
    members: list[Member] = field(default_factory=list)

    def takes(self, member: Member, most: int) -> bool:
        """Whether there is room, and nobody with its address."""
        alike = member.address is not None and any(other.address == member.address for other in self.members)
        return len(self.members) < most and not alike


def plan_site(
    protocol: BusProtocolEntry, settings: str, places: Sequence[SitePlace],
    per_segment: int | None = None, instances: tuple[int, int] | None = None,
) -> SitePlan:  # fmt: skip
    """Split, address and number the devices. `instances`: the first and the last number that may be given."""
    legal = sum(address not in protocol.kept for address in range(protocol.lowest, protocol.highest + 1))
    most = min(per_segment or legal, protocol.most_devices or legal, legal)
    conflicts: list[Conflict] = []
    if per_segment is not None and per_segment > most:
        told = f"{per_segment} on a segment; {protocol.name} allows {most} without a repeater"
        conflicts.append(Conflict("too-many-devices", "per_segment", told))
    segments = []
    for filled in _filled(places, most):
        plan = plan_bus(protocol, settings, filled.members)
        segments.append(BusSegment(filled.name, tuple(member.name for member in filled.members), plan))
        known = {conflict.code for conflict in plan.conflicts}
        if len(filled.members) > most and "too-many-devices" not in known:
            told = f"{len(filled.members)} devices on {filled.name}; it takes {most}"
            conflicts.append(Conflict("too-many-devices", filled.members[-1].name, told))
        conflicts += [Conflict(c.code, c.where, f"{filled.name}: {c.text}", c.costs_only) for c in plan.conflicts]
    numbered, wrong = _numbered(places, instances)
    return SitePlan(tuple(segments), numbered, (*conflicts, *wrong))


def _filled(places: Sequence[SitePlace], most: int) -> list[_Filling]:
    """Every device in a segment: those that name theirs first, then the others, each near the one before."""
    named = {place.segment: _Filling(place.segment) for place in places if place.segment is not None}
    for place in places:
        if place.segment is not None:
            named[place.segment].members.append(place.member)
    made, at = list(named.values()), 0
    for place in places:
        if place.segment is not None:
            continue
        fitting = next((n for n in range(at, len(made)) if made[n].takes(place.member, most)), None)
        if fitting is None:
            fitting = len(made)
            made.append(_Filling(_free_name(made)))
        made[fitting].members.append(place.member)
        while at < len(made) and len(made[at].members) >= most:
            at += 1
    order = {place.member.name: n for n, place in enumerate(places)}
    for one in made:
        one.members.sort(key=lambda member: order[member.name])
    return made


def _free_name(made: Sequence[_Filling]) -> str:
    taken, number = {one.name for one in made}, len(made) + 1
    while f"segment {number}" in taken:
        number += 1
    return f"segment {number}"


def _numbered(places: Sequence[SitePlace], instances: tuple[int, int] | None) -> tuple[dict[str, int], list[Conflict]]:
    """An instance for each device where numbers are given out, and those that stand twice or outside."""
    fixed: dict[int, str] = {}
    made, conflicts = dict[str, int](), list[Conflict]()
    for place in places:
        if place.instance is None:
            continue
        name = place.member.name
        made[name] = place.instance
        other = fixed.setdefault(place.instance, name)
        if other != name:
            told = f"{name} and {other} both have instance {place.instance}: it is unique over the site"
            conflicts.append(Conflict("duplicate-instance", name, told))
        if instances is not None and not instances[0] <= place.instance <= instances[1]:
            told = f"{name} has instance {place.instance}; the site gives out {instances[0]} to {instances[1]}"
            conflicts.append(Conflict("instance-out-of-range", name, told))
    if instances is not None:
        free = (n for n in range(instances[0], instances[1] + 1) if n not in fixed)
        for place in places:
            if place.instance is None:
                number = next(free, None)
                if number is None:
                    told = f"no instance from {instances[0]} to {instances[1]} is left for {place.member.name}"
                    conflicts.append(Conflict("no-instance-left", place.member.name, told))
                else:
                    made[place.member.name] = number
    return made, conflicts
