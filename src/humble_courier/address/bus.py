"""Plans for many devices on one bus: unique and legal addresses, the same settings everywhere, gaps that cost time."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from humble_courier.address.conflicts import Conflict
from humble_courier.catalog.entries import BusProtocolEntry


@dataclass(frozen=True)
class Member:
    """A device on the bus; `address` None where the plan is to choose it. `settings` where it tells its own."""

    name: str
    address: int | None
    settings: str | None = None


@dataclass(frozen=True)
class BusPlan:
    """Addresses by name, what speaks against them, and for each conflict a free address that would settle it.

    `highest_master` is what the masters' highest address should be set to where the bus searches for masters.
    """

    addresses: dict[str, int]
    conflicts: tuple[Conflict, ...]
    suggest: dict[str, int]
    highest_master: int | None = None

    @property
    def ok(self) -> bool:
        """Whether nothing forbids the plan; what only costs time does not."""
        return all(conflict.costs_only for conflict in self.conflicts)


def plan_bus(protocol: BusProtocolEntry, settings: str, members: Sequence[Member]) -> BusPlan:
    """Judge and complete a plan. Members without an address get the lowest free ones."""
    taken = {m.address for m in members if m.address is not None} | set(protocol.kept)
    legal_ones = sorted(range(protocol.lowest, protocol.highest + 1), key=lambda a: (a == 0, a))  # many take 0 for all
    free = (a for a in legal_ones if a not in taken)
    conflicts = [*_unlike(settings, members), *_illegal(protocol, members), *_twice(members)]
    addresses: dict[str, int] = {}
    for member in members:
        address = member.address if member.address is not None else next(free, None)
        if address is None:
            conflicts.append(
                Conflict("bus-full", member.name, f"no address from {protocol.lowest} to {protocol.highest} is free")
            )
        else:
            addresses[member.name] = address
    if protocol.most_devices is not None and len(members) > protocol.most_devices:
        told = f"{len(members)} devices; the bus drives {protocol.most_devices} without a repeater"
        conflicts.append(Conflict("too-many-devices", members[-1].name, told))
    moving = list(dict.fromkeys(c.where for c in conflicts if c.code in ("duplicate-address", "address-out-of-range")))
    suggest = {name: address for name in moving if (address := next(free, None)) is not None}
    legal = [a for a in {**addresses, **suggest}.values() if protocol.lowest <= a <= protocol.highest]
    if protocol.polls_gaps and legal:
        conflicts += _gaps(protocol, legal)
    return BusPlan(addresses, tuple(conflicts), suggest, max(legal) if protocol.polls_gaps and legal else None)


def _unlike(settings: str, members: Sequence[Member]) -> list[Conflict]:
    return [
        Conflict("settings-differ", m.name, f"{m.name} is set to {m.settings}, the bus runs at {settings}")
        for m in members
        if m.settings is not None and m.settings != settings
    ]


def _illegal(protocol: BusProtocolEntry, members: Sequence[Member]) -> list[Conflict]:
    found = []
    for m in members:
        if m.address is None:
            continue
        if m.address in protocol.kept:
            found.append(Conflict("address-out-of-range", m.name, f"{m.address} is kept by the bus itself"))
        elif not protocol.lowest <= m.address <= protocol.highest:
            told = f"{m.address}: devices have {protocol.lowest} to {protocol.highest}"
            found.append(Conflict("address-out-of-range", m.name, told))
    return found


def _twice(members: Sequence[Member]) -> list[Conflict]:
    """Two alike: the first keeps its address, each later one is in conflict with it."""
    by_address: dict[int, list[str]] = defaultdict(list)
    for m in members:
        if m.address is not None:
            by_address[m.address].append(m.name)
    return [
        Conflict(
            "duplicate-address", name, f"{name} and {names[0]} both have {address}: they answer at once, nobody is heard"
        )
        for address, names in by_address.items()
        for name in names[1:]
    ]


def _gaps(protocol: BusProtocolEntry, addresses: list[int]) -> list[Conflict]:
    missing = sorted(set(range(protocol.lowest, max(addresses))) - set(addresses) - set(protocol.kept))
    if not missing:
        return []
    each = f"one in {protocol.poll_every} tokens of each master" if protocol.poll_every > 1 else "each round"
    cost = f", {each}, at least {protocol.poll_ms:.0f} ms a time" if protocol.poll_ms else ""
    empty = "1 address" if len(missing) == 1 else f"{len(missing)} addresses"
    told = f"{empty} below {max(addresses)} with nobody there: asked for in vain{cost}"
    return [Conflict("gap", str(missing[0]), told, costs_only=True)]
