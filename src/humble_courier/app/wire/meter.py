"""The meter at the bench: a cable being named touch by touch, a port by its voltages."""

from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path

from humble_courier.app.wire.meter_files import read_touches, read_volts
from humble_courier.catalog.entries import ShapeEntry
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.named import connector_named, ends_named
from humble_courier.domain.hardware import Connector, Part, Port
from humble_courier.wiring.identify.cable import NAMED, Named, Reading, identify
from humble_courier.wiring.identify.suspects import UNKNOWN, LineUp, Touch, line_up
from humble_courier.wiring.identify.voltmeter import PortNamed, VoltReading, guesses, name_port

RULED_OUT = 0.001  # a guess below this is not shown by itself
UNTOUCHED = 4  # neighbours that are named
WEAK_OHM = 10.0  # stands for “it beeps, and reads more than 5 ohm”


def cable_line_up(ends: tuple[Connector, Connector], catalog: Catalog, own: tuple[Part, ...] = ()) -> LineUp:
    """The catalog cables (and one's own) that have these two connectors. Of equal wirings the first one gives the name."""
    return line_up(ends, [*(catalog.part(id_) for id_ in catalog.part_entries), *own], catalog.shapes)


def port_named(connector: Connector, readings: list[VoltReading], catalog: Catalog) -> PortNamed:
    """What port it is, by its voltages, among the ports of the catalog on such a connector."""
    ports: list[tuple[Port, str | None]] = [
        (catalog.port(id_), entry.role)
        for id_, entry in catalog.port_entries.items()
        if (entry.connector.family, entry.connector.contacts) == (connector.family, connector.contacts)
    ]
    return name_port(catalog.levels, guesses(ports), readings)


def port_headline(found: PortNamed, count: int) -> tuple[str, str]:
    """What the port is, as a sentence."""
    if not count:
        return "Which port is it? Measure its contacts at rest", "A transmitter at rest gives −3 to −15 V in RS-232."
    if found.role == "unknown":
        return "Not certain yet", "Measure the data contacts: the one that rests in mark is the transmitter."
    told = f"{found.probability:.0%} certain. From a DTE computer it takes a {found.use} cable."
    talks = f" At rest as a transmitter is: contact {', '.join(found.talks)}." if found.talks else ""
    family = str(found.family).upper().replace("RS", "RS-", 1)
    return f"It is a {found.role.upper()} with {family} levels", told + talks


def port_rows(found: PortNamed, catalog: Catalog) -> list[tuple[str, float]]:
    """What it may be, in words, with probabilities."""
    rows = [
        (f"{role.upper()}, {catalog.levels[family].name}" if role else catalog.levels[family].name, share)
        for role, family, share in found.shares
    ]
    rows.append(("no power, or not the port that is meant", 1 - found.alive))
    likely = [row for row in rows if row[1] >= RULED_OUT]
    out = len(rows) - len(likely)
    return [*likely, (f"{out} other kinds of port", 0.0)] if out else likely


def may_carry(shape: ShapeEntry) -> list[str]:
    """Which buses a connector that is seen can carry, and by what to tell."""
    return [f"{c.bus}, {c.how}: {c.tell}." for c in shape.carries]


@dataclass
class MeterBench:
    """Readings of one cable, in order, with undo; what they say is computed when asked for."""

    catalog: Catalog
    ends: tuple[Connector, Connector]
    own: tuple[Part, ...] = ()  # leads of one's own that are suspected as well
    readings: list[Reading] = field(default_factory=list)
    _undone: list[Reading] = field(default_factory=list)

    @cached_property
    def line_up(self) -> LineUp:
        """Who is suspected at all."""
        return cable_line_up(self.ends, self.catalog, self.own)

    @property
    def alike(self) -> dict[str, tuple[str, ...]]:
        """For each suspect the cables that are wired the same."""
        return dict(zip(self.line_up.names, self.line_up.alike, strict=True))

    def say(self, touch: Touch, beep: bool, ohm: float | None = None) -> None:
        """One touch of the meter; `ohm` where the resistance was read."""
        self.readings.append(Reading(*touch, beep, ohm))
        self._undone.clear()

    def back(self) -> bool:
        """Take the last reading back; False where there is none."""
        if not self.readings:
            return False
        self._undone.append(self.readings.pop())
        return True

    def named(self) -> Named:
        """What the readings say so far."""
        return identify(self.line_up, self.readings)

    def rows(self, named: Named) -> list[tuple[str, float]]:
        """Suspects by name in an order that stays, with their probability."""
        probability = dict(named.suspects)
        return [(self.part_name(id_), probability[id_]) for id_ in (*self.line_up.names, UNKNOWN)]

    def headline(self, named: Named) -> tuple[str, str]:
        """The answer so far, as a sentence."""
        best, probability = named.suspects[0]
        count = len(self.readings)
        touches = f"{count} touch{'' if count == 1 else 'es'}"
        if best == UNKNOWN and named.name is None and probability >= NAMED:
            joined = ", ".join(f"{a}–{b}" for a, b in named.connects) or "nothing so far"
            return "A cable of its own kind", f"No cable of the catalog fits. It joins {joined}. {touches}."
        if named.name is None:
            if not count:
                text = "Set the meter to its beeper, touch the two contacts, press B or S. A wrong reading is allowed for."
                return "Which cable is it? Touch the two contacts that are marked", text
            return f"Perhaps: {self.part_name(best)} ({probability:.0%})", f"{touches} so far; the next one tells the most."
        if named.faults:
            fault = ", ".join(f"{f.code} at {f.where}" for f, _ in named.faults)
            return f"It is: {self.part_name(best)}, with a fault: {fault}", f"{probability:.1%} certain after {touches}."
        alike = self.alike[best]
        same = f" Wired alike: {', '.join(self.part_name(id_) for id_ in alike)}." if alike else ""
        if named.proven:
            left = named.untouched
            few = ", ".join(left[:UNTOUCHED]) + (f" and {len(left) - UNTOUCHED} more" if len(left) > UNTOUCHED else "")
            if left:
                told = f"After {touches}. Every conductor is whole; not touched for a short: {few}.{same}"
                return f"It is: {self.part_name(best)}, whole as far as it was touched", told
            return f"It is: {self.part_name(best)}, and it is whole", f"After {touches}.{same}"
        return f"It is: {self.part_name(best)}", f"{probability:.1%} certain after {touches}; go on to prove it whole.{same}"

    def part_name(self, id_: str) -> str:
        """A suspect's name for people."""
        entry = self.catalog.part_entries.get(id_)
        return "a cable of its own kind" if id_ == UNKNOWN else entry.name if entry else f"your {id_}"


def measured_cable(path: Path, ends: str, catalog: Catalog) -> MeterBench:
    """The cable of a file of readings; `ends`: the two connectors seen, as in `D9,D9`. Raises BadInput."""
    seen = ends_named(ends, catalog)
    return MeterBench(catalog, seen, readings=read_touches(path, seen, catalog))


def measured_port(path: Path, connector: str, catalog: Catalog) -> PortNamed:
    """The port of a file of voltages, measured on the connector of that name. Raises BadInput."""
    seen = connector_named(connector, catalog)
    return port_named(seen, read_volts(path, seen, catalog), catalog)
