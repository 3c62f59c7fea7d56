"""Which contacts are joined: a chain laid out from the computer to the device, and the nets that result."""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

from humble_courier.domain.hardware import LEAD, Connector, End, Gender, Part, Port
from humble_courier.domain.signals import Signal


class Spot(NamedTuple):
    """One contact in a chain: `node` 0 is the computer, then the parts, then the device; `end` counts from 0."""

    node: int
    end: int
    contact: str


@dataclass(frozen=True)
class Joint:
    """Where two ends meet. `index` counts from 1, on the computer's side; `reason` tells why they do not mate."""

    index: int
    near: Connector
    far: Connector
    reason: str | None


@dataclass(frozen=True)
class Net:
    """Contacts that are one conductor, with the signals that ports put on it."""

    spots: tuple[Spot, ...]
    signals: tuple[tuple[Spot, Signal], ...]


class Chain:
    """Computer port, parts, device port; joints between neighbours; nets through all of it.

    A part whose second end faces the computer has to be handed in turned about. Ends of gender `either` take the
    gender that mates. Joints that do not mate join nothing.
    """

    def __init__(self, computer: Port, parts: tuple[Part, ...], device: Port) -> None:
        self.computer, self.device = computer, device
        self.parts = _settle_genders(computer, parts, device)
        self.last = len(parts) + 1

    def ends(self, node: int) -> tuple[End, ...]:
        """The ends of a node; computer and device have one."""
        if node in (0, self.last):
            port = self.computer if node == 0 else self.device
            return (End(port.connector, port.signals, supplies_loop=port.supplies_loop),)
        return self.parts[node - 1].ends

    def name(self, node: int) -> str:
        """What a person calls the node."""
        if node in (0, self.last):
            return "computer" if node == 0 else self.device.name
        return self.parts[node - 1].name

    def place(self, node: int) -> str:
        """The node's place on the line: `computer`, `part:1`, …, `device`."""
        return "computer" if node == 0 else "device" if node == self.last else f"part:{node}"

    def spot_name(self, spot: Spot) -> str:
        """A contact for lists: `computer 3`, `part:1 A3`, `device 2`."""
        if spot.node in (0, self.last):
            return f"{self.place(spot.node)} {spot.contact}"
        letter = "ABCDEFGH"[spot.end]
        mark = spot.contact if spot.contact.isdecimal() else f":{spot.contact}"
        return f"{self.place(spot.node)} {letter}{mark}"

    @cached_property
    def joints(self) -> tuple[Joint, ...]:
        """All joints from the computer to the device."""
        found = []
        for node in range(self.last):
            near, far = self._faces(node)
            found.append(Joint(node + 1, near.connector, far.connector, why_not(near, far)))
        return tuple(found)

    def _faces(self, node: int) -> tuple[End, End]:
        near = self.ends(node)
        return near[min(1, len(near) - 1)], self.ends(node + 1)[0]

    @cached_property
    def nets(self) -> tuple[Net, ...]:
        """All nets that touch a signal or join two contacts, in a stable order."""
        groups: dict[Spot, list[Spot]] = {}
        signals = dict(self.signals())
        wires = self._wires()
        for spot in signals:
            groups[spot] = [spot]
        for a, b in wires:
            _join(groups, a, b)
        for a, b in self._mated(set(groups)):
            _join(groups, a, b)
        unique = {id(group): group for group in groups.values()}.values()
        found = sorted(sorted(group) for group in unique if len(group) > 1 or group[0] in signals)
        return tuple(Net(tuple(g), tuple((s, signals[s]) for s in g if s in signals)) for g in found)

    def signals(self) -> list[tuple[Spot, Signal]]:
        """Every signal of every port in the chain."""
        return [
            (Spot(node, e, contact), signal)
            for node in range(self.last + 1)
            for e, end in enumerate(self.ends(node))
            for contact, signal in end.signals.items()
        ]

    def _wires(self) -> list[tuple[Spot, Spot]]:
        loops = [
            (Spot(node, 0, group[0]), Spot(node, 0, contact))
            for node, port in ((0, self.computer), (self.last, self.device))
            for group in port.loops
            for contact in group[1:]
        ]
        return loops + [
            (Spot(node, wire.a.end, wire.a.contact), Spot(node, wire.b.end, wire.b.contact))
            for node, part in enumerate(self.parts, start=1)
            for wire in part.conductors
        ]

    def _mated(self, used: set[Spot]) -> list[tuple[Spot, Spot]]:
        """Contacts that touch in the joints, of those that lead anywhere on either side."""
        contacts: dict[tuple[int, int], list[str]] = {}
        for spot in used:
            contacts.setdefault((spot.node, spot.end), []).append(spot.contact)
        pairs = []
        for joint in self.joints:
            if joint.reason is None:
                node = joint.index - 1
                end = min(1, len(self.ends(node)) - 1)
                lands = self._landing(node, end)
                if lands is None:
                    touching = {*contacts.get((node, end), ()), *contacts.get((node + 1, 0), ())}
                    pairs += [(Spot(node, end, c), Spot(node + 1, 0, c)) for c in touching]
                else:
                    pairs += [(Spot(node, end, a), Spot(node + 1, 0, b)) for a, b in lands]
        return pairs

    def _landing(self, node: int, end: int) -> list[tuple[str, str]] | None:
        """Where loose leads are put at the joint after `node`, as contacts of either side; None where halves mate."""
        near, far = self.ends(node)[end], self.ends(node + 1)[0]
        if near.lands:
            return list(near.lands.items())
        return [(b, a) for a, b in far.lands.items()] if far.lands else None


def _join(groups: dict[Spot, list[Spot]], a: Spot, b: Spot) -> None:
    """Make one group of those of `a` and `b`."""
    one = groups.setdefault(a, [a])
    two = groups.setdefault(b, [b])
    if one is two:
        return
    if len(one) < len(two):
        one, two = two, one
    one.extend(two)
    for spot in two:
        groups[spot] = one


def why_not(near: End, far: End) -> str | None:
    """Why two ends do not go together, in words; loose leads go into anything once it is said where each colour lands."""
    lead = next((end for end in (near, far) if end.connector.family == LEAD), None)
    if lead is not None:
        return None if lead.lands else "loose leads: say which colour goes to which contact"
    return near.connector.why_not_into(far.connector)


def _settle_genders(computer: Port, parts: tuple[Part, ...], device: Port) -> tuple[Part, ...]:
    """Give each end of gender `either` the one that mates with its neighbour."""
    opposite = {Gender.PLUG: Gender.SOCKET, Gender.SOCKET: Gender.PLUG}
    settled: list[Part] = []
    for i, part in enumerate(parts):
        before = settled[-1].ends[1].connector if settled else computer.connector
        after = parts[i + 1].ends[0].connector if i + 1 < len(parts) else device.connector
        ends = list(part.ends)
        for e, neighbour in ((0, before), (1, after)):
            mine = ends[e].connector
            if mine.gender is Gender.EITHER:
                gender = opposite.get(neighbour.gender, Gender.PLUG if e else Gender.SOCKET)
                ends[e] = replace(ends[e], connector=replace(mine, gender=gender))
        settled.append(replace(part, ends=tuple(ends)))
    return tuple(settled)
