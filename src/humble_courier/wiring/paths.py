"""Who hears whom: for each signal of a chain the drivers on its net, and whether they can be heard.

This is the one model of the wiring. The verdict (`trace.py`) reads it, and so does the simulator, which lets through
what it says and nothing else.
"""

from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from humble_courier.domain.signals import DTR_DSR, RTS_CTS, Direction, Level, Role, Signal
from humble_courier.wiring.levels import LevelFit, Levels, fit, leg
from humble_courier.wiring.nets import Chain, Net, Spot

PortKey = tuple[int, int]  # node and end


class Carried(StrEnum):
    """How a pair of handshake lines is wired between the two ports of a segment."""

    THROUGH = "through"
    LOOPED = "looped"
    OPEN = "open"


@dataclass(frozen=True)
class Segment:
    """A stretch of passive parts between two ports that speak: (node, end) of either."""

    near: PortKey
    far: PortKey


class Paths:
    """The nets of a chain looked at from its ports."""

    def __init__(self, chain: Chain, levels: Levels) -> None:
        self.chain, self.levels = chain, levels
        self._net_of: dict[Spot, Net] = {spot: net for net in chain.nets for spot in net.spots}

    @cached_property
    def segments(self) -> tuple[Segment, ...]:
        """The stretches from computer to device; an active part ends one and begins the next."""
        found, near = [], (0, 0)
        for node in range(1, self.chain.last + 1):
            ends = self.chain.ends(node)
            if node == self.chain.last or ends[0].signals:
                found.append(Segment(near, (node, 0)))
            if node < self.chain.last and ends[1].signals:
                near = (node, 1)
        return tuple(found)

    def mates(self, segment: Segment) -> bool:
        """Whether all joints of the segment go together."""
        return all(j.reason is None for j in self.chain.joints if segment.near[0] < j.index <= segment.far[0])

    def signals(self, key: PortKey) -> list[tuple[Spot, Signal]]:
        """Signals of one port."""
        return [(Spot(*key, contact), s) for contact, s in self.chain.ends(key[0])[key[1]].signals.items()]

    def net(self, spot: Spot) -> Net:
        """The net a contact belongs to."""
        return self._net_of[spot]

    def net_number(self, spot: Spot) -> int:
        """Its index among the nets of the chain."""
        return self.chain.nets.index(self._net_of[spot])

    def supplies_loop(self, key: PortKey) -> bool:
        """Whether a port is the source of a current loop."""
        return self.chain.ends(key[0])[key[1]].supplies_loop

    def drivers(self, spot: Spot) -> list[tuple[Spot, Signal]]:
        """Everything that puts a level on the contact's net, the contact itself left out."""
        others = ((s, signal) for s, signal in self._net_of[spot].signals if s != spot)
        return [(s, signal) for s, signal in others if signal.drives or signal.role in (Role.GROUND, Role.POWER)]

    def source(self, spot: Spot, signal: Signal) -> tuple[Spot, Signal] | None:
        """The one driver that this input can read; None where there is none, more than one, or a wrong level."""
        drivers = self.drivers(spot)
        if len(drivers) != 1 or (signal.direction is Direction.OUT):
            return None
        other, driver = drivers[0]
        if driver.role is not signal.role or fit(self.levels, driver.level, signal.level) is not LevelFit.GOOD:
            return None
        return other, driver

    def grounded(self, segment: Segment) -> bool:
        """Whether a signal ground of one port is joined with one of the other."""
        far = {spot for spot, s in self.signals(segment.far) if s.role is Role.GROUND}
        mine = [spot for spot, s in self.signals(segment.near) if s.role is Role.GROUND]
        return any(spot in far for ground in mine for spot in self._net_of[ground].spots)

    def data_inputs(self, listener: PortKey, speakers: list[PortKey]) -> list[tuple[Spot, Signal]]:
        """What a port listens to. Of a socket with several buses only those count that somebody opposite speaks."""
        inputs = [(spot, s) for spot, s in self.signals(listener) if s.role is Role.DATA and s.hears]
        levels = {s.level for _, s in inputs}
        if len(levels) < 2:
            return inputs
        spoken = {s.level for key in speakers for _, s in self.signals(key) if s.role is Role.DATA}
        return [(spot, s) for spot, s in inputs if s.level in spoken] or inputs

    def hears(self, segment: Segment, listener: PortKey) -> bool:
        """Whether every data input of one port is driven by the other port and nothing else, pairs not swapped.

        False as well where the joints do not mate, or a single-ended line has no common ground.
        """
        speaker = segment.far if listener == segment.near else segment.near
        inputs = self.data_inputs(listener, [speaker])
        if not inputs or not self.mates(segment) or (self._needs_ground(inputs) and not self.grounded(segment)):
            return False
        for spot, signal in inputs:
            found = self.source(spot, signal)
            if found is None or (found[0].node, found[0].end) != speaker:
                return False
            if leg(self.levels, signal) != leg(self.levels, found[1]):
                return False
        looped = any(s.level is Level.LOOP_20MA for _, s in inputs)
        return not looped or self.supplies_loop(segment.near) != self.supplies_loop(segment.far)

    def hears_itself(self, listener: PortKey) -> bool:
        """Whether the port's data input is driven by its own output: a loop in the wiring."""
        inputs = [(spot, s) for spot, s in self.signals(listener) if s.role is Role.DATA and s.direction is Direction.IN]
        found = [self.source(spot, s) for spot, s in inputs]
        return bool(found) and all(f is not None and (f[0].node, f[0].end) == listener for f in found)

    def _needs_ground(self, inputs: list[tuple[Spot, Signal]]) -> bool:
        return any(self.levels[s.level].signalling in ("single-ended", "packet") for _, s in inputs)

    def handshake(self, segment: Segment, group: frozenset[str]) -> Carried:
        """Whether a handshake pair (`RTS_CTS` or `DTR_DSR`) goes through, is looped at its own end, or is open."""
        states = [self._handshake_at(segment, group, key) for key in (segment.near, segment.far)]
        if all(state is Carried.THROUGH for state in states):
            return Carried.THROUGH
        return Carried.LOOPED if Carried.LOOPED in states and Carried.OPEN not in states else Carried.OPEN

    def _handshake_at(self, segment: Segment, group: frozenset[str], listener: PortKey) -> Carried:
        main = group - {"DCD"}
        inputs = [(spot, s) for spot, s in self.signals(listener) if s.name.upper() in main and s.direction is Direction.IN]
        states = []
        for spot, signal in inputs:
            found = self.source(spot, signal)
            if found is None or found[1].name.upper() not in RTS_CTS | DTR_DSR or not self.mates(segment):
                states.append(Carried.OPEN)
            elif (found[0].node, found[0].end) == listener:
                states.append(Carried.LOOPED)
            else:
                states.append(Carried.THROUGH if found[1].name.upper() in group else Carried.OPEN)
        if not states or Carried.OPEN in states:
            return Carried.OPEN
        return Carried.LOOPED if Carried.LOOPED in states else Carried.THROUGH
