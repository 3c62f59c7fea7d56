"""The document `bus/1`: devices on one bus with their addresses or switches."""

from typing import Annotated, Literal

from msgspec import Meta

from humble_courier.documents.base import Strict, Text

Switch = Literal[0, 1]


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
