"""What may do damage whatever the levels say: supplies, drivers that never let go, contacts that have to stay open.

Theory of operation. The limits of `levels.yaml` say what a contact stands from a driver of some family. Three things are
beyond them. A *supply* gives more current than any driver is made to carry: joined with another supply or with an output,
one feeds the other; TIA-232-F asks an output to stand a short to any other conductor *of the interface* (2.1.2, from
memory), and a supply is none of these. An *input for a supply* takes more current than an output gives. And a driver that
is *always on* (TIA-422-B knows no third state) pushes against every other driver of the pair. Contacts that the sheet of a
device says to leave open key or reset it. All of this is damage: never "works" with a note.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from humble_courier.domain.signals import Direction, Level, Role, Signal
from humble_courier.wiring.findings import Finding, Severity
from humble_courier.wiring.levels import Levels, survives
from humble_courier.wiring.nets import Chain, Net, Spot

SWITCHED_SUPPLIES = (Level.POWER_5V, Level.POWER_3V3)  # leads of logic adapters carry either, by a jumper or by their make
Place = tuple[Spot, Signal]


@dataclass(frozen=True)
class Harm:
    """Judges one net after the other. `who` names a contact, `before` the joint at which one acts upon it."""

    chain: Chain
    levels: Levels
    who: Callable[[Spot, Signal], str]
    before: Callable[[Spot], str]

    def judge(self, i: int, net: Net) -> Iterator[Finding]:
        """Findings of one net; `i` is its number."""
        supplies = [(p, s) for p, s in net.signals if s.role is Role.POWER and s.direction is Direction.OUT]
        for number, supply in enumerate(supplies):
            seen = {place for place, _ in supplies[: number + 1]}  # two that are joined are told once
            for other in net.signals:
                if other[0] not in seen and not _same_port(other, supply) and other[1].role is not Role.SHIELD:
                    yield from self._supplied(i, supply, other)
        if not supplies:
            yield from self._drivers_into_supply_inputs(i, net)
        yield from self._always_on(i, net)
        yield from self._left_open(i, net)

    def _supplied(self, i: int, supply: Place, other: Place) -> Iterator[Finding]:
        (place, source), (spot, signal) = supply, other
        where, origin, target = self.before(max(place, spot)), self.who(place, source), self.who(spot, signal)
        harm = not survives(self.levels, signal.level, source.level)
        if signal.role is Role.POWER:
            yield from self._two_supplies(i, supply, other, harm)
            return
        severity = Severity.DAMAGE if harm or signal.drives else Severity.ERROR
        yield Finding("power-into-signal", severity, f"supply from {origin} reaches {target}", where, i)
        if signal.drives:
            text = f"{origin} feeds the other side back through the driver of {target}: leave it unconnected"
            yield Finding("power-feedback", Severity.DAMAGE, text, where, i)

    def _two_supplies(self, i: int, supply: Place, other: Place, harm: bool) -> Iterator[Finding]:
        (place, source), (spot, signal) = supply, other
        origin, target = self.who(place, source), self.who(spot, signal)
        if signal.direction is Direction.OUT:
            text = f"two supplies are joined: {origin} and {target}; leave one unconnected"
            yield Finding("power-feedback", Severity.DAMAGE, text, self.before(max(place, spot)), i)
        elif harm:
            yield Finding("level-damage", Severity.DAMAGE, f"{origin} is too much for {target}", self.before(spot), i)
        elif source.level in SWITCHED_SUPPLIES and 0 < place.node < self.chain.last:
            text = f"measure {origin} first: leads of this kind carry 5 V or 3.3 V, whatever their print says"
            yield Finding("measure-first", Severity.NOTE, text, self.before(max(place, spot)), i)

    def _drivers_into_supply_inputs(self, i: int, net: Net) -> Iterator[Finding]:
        inputs = [(p, s) for p, s in net.signals if s.role is Role.POWER and s.direction is not Direction.OUT]
        drivers = [(p, s) for p, s in net.signals if s.drives and s.role in (Role.DATA, Role.HANDSHAKE)]
        for fed in inputs:
            for driver in drivers:
                if not _same_port(fed, driver):
                    text = f"{self.who(*driver)} drives the supply contact of {self.who(*fed)}: it is no supply"
                    yield Finding("level-damage", Severity.DAMAGE, text, self.before(max(fed[0], driver[0])), i)

    def _always_on(self, i: int, net: Net) -> Iterator[Finding]:
        pairs = [(p, s) for p, s in net.signals if self.levels[s.level].signalling == "differential" and s.drives]
        always = [one for one in pairs if one[1].level is Level.RS422 and one[1].direction is Direction.OUT]
        for one in always:
            for other in pairs:
                if other[1].direction is Direction.BOTH and not _same_port(one, other):
                    text = f"{self.who(*one)} is always on and meets the driver of {self.who(*other)}"
                    yield Finding("output-meets-output", Severity.DAMAGE, text, self.before(max(one[0], other[0])), i)

    def _left_open(self, i: int, net: Net) -> Iterator[Finding]:
        for spot, signal in net.signals:
            others = [one for one in net.signals if one[0].node != spot.node]
            if spot.node == self.chain.last and signal.name.upper() in self.chain.device.leave_open and others:
                text = (
                    f"{self.who(spot, signal)} has to stay open, says the sheet, and is joined with {self.who(*others[0])}"
                )
                yield Finding("must-stay-open", Severity.DAMAGE, text, self.before(spot), i)


def _same_port(one: Place, other: Place) -> bool:
    return (one[0].node, one[0].end) == (other[0].node, other[0].end)
