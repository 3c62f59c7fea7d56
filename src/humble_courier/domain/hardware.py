"""What lies on the bench, as values: connectors, ports, parts with two or more ends, conductors between contacts."""

import re
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Self

from humble_courier.domain.signals import Signal
from humble_courier.errors import BadInput

ENDS = "ABCDEFGH"
_CONTACT = re.compile(r"([A-H])(?::([A-Za-z0-9/+-]+)|(\d+))")
_CONDUCTOR = re.compile(r"(.+?)-([A-H](?::.+|\d+))")  # a lead's colour may hold a hyphen: A:white-blue-B3
LEAD = "lead"  # family of loose coloured conductors: its contacts are colours, and each lands where its sheet says


class Gender(StrEnum):
    """Plug or socket; `either` for a part that is sold with both, so that the one that mates is taken."""

    PLUG = "plug"
    SOCKET = "socket"
    EITHER = "either"


class Fixing(StrEnum):
    """What holds two halves together: screws go into hexagonal posts."""

    NONE = "none"
    SCREWS = "screws"
    POSTS = "posts"


@dataclass(frozen=True)
class Connector:
    """A connector as one meets it: family and number of contacts name the shape, gender the half."""

    family: str
    contacts: int
    gender: Gender
    fixing: Fixing = Fixing.NONE

    def why_not_into(self, other: "Connector") -> str | None:
        """Why this half does not go into the other, in words; None where the two mate."""
        if (self.family, self.contacts) != (other.family, other.contacts):
            return f"{self} does not fit {other}: different connectors"
        if Gender.EITHER not in (self.gender, other.gender) and self.gender is other.gender:
            return f"two {self.gender}s of {self.shape} face each other"
        return None

    def why_not_fixed(self, other: "Connector") -> str | None:
        """What keeps two halves that mate from being screwed together; None where nothing does, or nothing is known."""
        if self.fixing is not other.fixing or self.fixing is Fixing.NONE:
            return None
        if self.fixing is Fixing.POSTS:
            return "both sides have hexagonal posts: they keep the faces apart until one pair is taken out"
        return "both sides have screws and neither has posts: nothing holds them together but the contacts"

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
        halves = _CONDUCTOR.fullmatch(text.strip())
        if not halves:
            raise BadInput(f"conductor “{text}”: expected two contacts with a hyphen between, as in A2-B3")
        return cls(EndContact.parse(halves[1]), EndContact.parse(halves[2]))

    def __str__(self) -> str:
        return f"{self.a}-{self.b}"


@dataclass(frozen=True)
class Port:
    """A connector with signals on its contacts; `loops` are contacts joined inside it, as in a loop-back plug.

    `leave_open`: names of signals that key or reset, which its sheet says to leave unconnected.
    """

    id: str
    name: str
    connector: Connector
    signals: dict[str, Signal] = field(default_factory=dict)
    supplies_loop: bool = False
    loops: tuple[tuple[str, ...], ...] = ()
    leave_open: frozenset[str] = frozenset()


@dataclass(frozen=True)
class End:
    """One end of a part. An end with signals belongs to an active part (an adapter) and is a port of its own.

    `lands` is for loose leads: colour against the contact of the terminals that it is put into.
    """

    connector: Connector
    signals: dict[str, Signal] = field(default_factory=dict)
    lands: dict[str, str] = field(default_factory=dict)
    supplies_loop: bool = False


@dataclass(frozen=True)
class Part:
    """A cable, an adapter, a gender changer: ends, and the conductors between their contacts.

    `pairs` tells which contacts of the first end share a twisted pair; `wire` names the kind of conductor (`wires.yaml`);
    a part that `isolates` keeps the grounds of its two sides apart. `length_m` in metres. `terminates`: resistors across the
    pair that are built in; `bias_ohm`: each of two built-in resistors that hold the idle pair.
    """

    id: str
    name: str
    ends: tuple[End, ...]
    conductors: tuple[Conductor, ...] = ()
    length_m: float = 0.0
    kind: str = "cable"
    pairs: tuple[tuple[EndContact, EndContact], ...] = ()
    wire: str = "multicore"
    isolates: bool = False
    terminates: int = 0
    bias_ohm: float | None = None

    def turned(self) -> "Part":
        """The same part with its first two ends exchanged, as when the cable is laid the other way about."""
        swap = {0: 1, 1: 0}

        def move(contact: EndContact) -> EndContact:
            return EndContact(swap.get(contact.end, contact.end), contact.contact)

        wires = tuple(Conductor(move(wire.a), move(wire.b)) for wire in self.conductors)
        pairs = tuple((move(a), move(b)) for a, b in self.pairs)
        return replace(self, ends=(self.ends[1], self.ends[0], *self.ends[2:]), conductors=wires, pairs=pairs)

    @property
    def active(self) -> bool:
        """Whether the part speaks for itself: an adapter or converter with signals of its own."""
        return any(end.signals for end in self.ends)


@dataclass(frozen=True)
class Site:
    """What surrounds the line, as far as it is known; None where nobody has looked.

    `nodes` on the line with both ends counted, `unit_load` of each receiver, `terminators` fitted, `bias_ohm` of each of
    the two bias resistors, `supply_v` that feeds them, `stub_m` the longest branch, `between_buildings` with earths of
    their own, `rate` of the bus in bit/s where it is not that of the settings.
    """

    nodes: int = 2
    unit_load: float = 1.0
    terminators: int | None = None
    bias_ohm: float | None = None
    supply_v: float = 5.0
    stub_m: float = 0.0
    between_buildings: bool = False
    rate: int | None = None
