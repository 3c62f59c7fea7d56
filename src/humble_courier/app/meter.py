"""The meter at the bench: a cable being named touch by touch, a port by its voltages."""

from dataclasses import dataclass, field
from functools import cached_property

from humble_courier.catalog.load import Catalog
from humble_courier.units.hardware import Connector, Part, Port
from humble_courier.wiring.identify import Named, Reading, identify
from humble_courier.wiring.suspects import UNKNOWN, LineUp, Touch, line_up
from humble_courier.wiring.voltmeter import PortNamed, VoltReading, guesses, name_port


def cable_line_up(ends: tuple[Connector, Connector], catalog: Catalog, own: tuple[Part, ...] = ()) -> LineUp:
    """The catalog cables (and one's own) that have these two connectors. Of equal wirings a cable gives the name."""
    ids = sorted(catalog.part_entries, key=lambda id_: catalog.part_entries[id_].kind != "cable")
    return line_up(ends, [*(catalog.part(id_) for id_ in ids), *own], catalog.shapes)


def port_named(connector: Connector, readings: list[VoltReading], catalog: Catalog) -> PortNamed:
    """What port it is, by its voltages, among the ports of the catalog on such a connector."""
    ports: list[tuple[Port, str | None]] = [
        (catalog.port(id_), entry.role)
        for id_, entry in catalog.port_entries.items()
        if (entry.connector.family, entry.connector.contacts) == (connector.family, connector.contacts)
    ]
    return name_port(catalog.levels, guesses(ports), readings)


@dataclass
class MeterBench:
    """Readings of one cable, in order, with undo; what they say is computed when asked for."""

    catalog: Catalog
    ends: tuple[Connector, Connector]
    readings: list[Reading] = field(default_factory=list)
    _undone: list[Reading] = field(default_factory=list)

    @cached_property
    def line_up(self) -> LineUp:
        """Who is suspected at all."""
        return cable_line_up(self.ends, self.catalog)

    def say(self, touch: Touch, beep: bool) -> None:
        """One touch of the meter."""
        self.readings.append(Reading(*touch, beep))
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

    def part_name(self, id_: str) -> str:
        """A suspect's name for people."""
        return "a cable of its own kind" if id_ == UNKNOWN else self.catalog.part_entries[id_].name
