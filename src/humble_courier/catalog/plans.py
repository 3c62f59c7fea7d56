"""Shapes of the planning documents `bus/1` and `io/1`, and of the data file of bus protocols."""

from typing import Annotated, Literal

from msgspec import Meta

from humble_courier.catalog.models import Sourced, Strict, Text

Switch = Literal[0, 1]


class BusProtocolEntry(Sourced, frozen=True, kw_only=True):
    """Which addresses (`lowest` to `highest`) devices on a bus may have; those in `kept` are taken by the bus itself.

    `polls_gaps`: a master asks each address up to the highest, so that gaps cost time (`poll_ms` each).
    """

    name: Text
    lowest: int
    highest: int
    kept: tuple[int, ...] = ()
    polls_gaps: bool = False
    poll_ms: float = 0.0
    most_devices: int | None = None


class BankModel(Strict, frozen=True):
    """How the switch bank of a kind of device codes its address."""

    width: Annotated[int, Meta(ge=1, le=32)] = 8
    msb_first: bool = False
    on_is_zero: bool = False
    offset: int = 0


class BusMember(Strict, frozen=True):
    """A device: its address, or its switches as seen (in order of switch number), or neither where the plan chooses."""

    name: Text
    address: Annotated[int, Meta(ge=0, le=65535)] | None = None
    switches: list[Switch] | None = None
    bank: BankModel | None = None
    settings: Text | None = None


class BusModel(Strict, frozen=True):
    """The document: protocol, settings of the bus, members. `bank`: the switch bank that all members have."""

    courier: Literal["bus/1"]
    protocol: Text
    members: Annotated[list[BusMember], Meta(min_length=1, max_length=1024)]
    settings: Text | None = None
    bank: BankModel | None = None


class PointModule(Strict, frozen=True):
    """A module: how many points, and its first one (in the plan's radix) where it is fixed."""

    name: Text
    points: Annotated[int, Meta(ge=1, le=65536)]
    start: str | int | None = None


class IoModel(Strict, frozen=True):
    """The document: modules in their order, in radix 8, 10 or 16; `highest` is the last point there is."""

    courier: Literal["io/1"]
    radix: Literal[8, 10, 16]
    modules: Annotated[list[PointModule], Meta(min_length=1, max_length=4096)]
    highest: str | int | None = None
