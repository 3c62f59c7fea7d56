"""What lies on the bench, as values: connectors, ports, parts with two or more ends, conductors between contacts."""

import re
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Self

from humble_courier.errors import BadInput
from humble_courier.units.signals import Signal

ENDS = "ABCDEFGH"
_CONTACT = re.compile(r"([A-H])(?::([A-Za-z0-9+-]+)|(\d+))")


class Gender(StrEnum):
    """Plug or socket; `either` for a part that is sold with both, so that the one that mates is taken."""

    PLUG = "plug"
    SOCKET = "socket"
    EITHER = "either"


@dataclass(frozen=True)
class Connector:
    """A connector as one meets it: family and number of contacts name the shape, gender the half."""

    family: str
    contacts: int
    gender: Gender

    def why_not_into(self, other: "Connector") -> str | None:
        """Why this half does not go into the other, in words; None where the two mate."""
        if (self.family, self.contacts) != (other.family, other.contacts):
            return f"{self} does not fit {other}: different connectors"
        if Gender.EITHER not in (self.gender, other.gender) and self.gender is other.gender:
            return f"two {self.gender}s of {self.shape} face each other"
        return None

    @property
    def shape(self) -> str:
        """Family and contact count in short: `D 9`."""
        return f"{self.family} {self.contacts}"

    def __str__(self) -> str:
        return self.shape if self.gender is Gender.EITHER else f"{self.shape} {self.gender}"


@dataclass(frozen=True, order=True)
class EndContact:
    """A contact of one end of a part: `A2`, `B:shell`."""

    end: int
    contact: str

    @classmethod
    def parse(cls, text: str) -> Self:
        """Read `A2` or `A:shell`; raises BadInput."""
        match = _CONTACT.fullmatch(text.strip())
        if not match:
            raise BadInput(f"contact “{text}”: expected an end letter and a contact, as in A2 or B:shell")
        return cls(ENDS.index(match[1]), match[2] or match[3])

    def __str__(self) -> str:
        return f"{ENDS[self.end]}{self.contact}" if self.contact.isdecimal() else f"{ENDS[self.end]}:{self.contact}"


@dataclass(frozen=True)
class Conductor:
    """A wire between two contacts of a part; both on one end for a loop."""

    a: EndContact
    b: EndContact

    @classmethod
    def parse(cls, text: str) -> Self:
        """Read `A2-B3`; raises BadInput."""
        halves = text.split("-")
        if len(halves) != 2:
            raise BadInput(f"conductor “{text}”: expected two contacts with a hyphen between, as in A2-B3")
        return cls(EndContact.parse(halves[0]), EndContact.parse(halves[1]))

    def __str__(self) -> str:
        return f"{self.a}-{self.b}"


@dataclass(frozen=True)
class Port:
    """A connector with signals on its contacts."""

    id: str
    name: str
    connector: Connector
    signals: dict[str, Signal] = field(default_factory=dict)
    supplies_loop: bool = False


@dataclass(frozen=True)
class End:
    """One end of a part. An end with signals belongs to an active part (an adapter) and is a port of its own."""

    connector: Connector
    signals: dict[str, Signal] = field(default_factory=dict)


@dataclass(frozen=True)
class Part:
    """A cable, an adapter, a gender changer: ends, and the conductors between their contacts."""

    id: str
    name: str
    ends: tuple[End, ...]
    conductors: tuple[Conductor, ...] = ()
    length_m: float = 0.0
    kind: str = "cable"

    def turned(self) -> "Part":
        """The same part with its first two ends exchanged, as when the cable is laid the other way about."""
        swap = {0: 1, 1: 0}

        def move(contact: EndContact) -> EndContact:
            return EndContact(swap.get(contact.end, contact.end), contact.contact)

        wires = tuple(Conductor(move(wire.a), move(wire.b)) for wire in self.conductors)
        ends = (self.ends[1], self.ends[0], *self.ends[2:])
        return Part(self.id, self.name, ends, wires, self.length_m, self.kind)
