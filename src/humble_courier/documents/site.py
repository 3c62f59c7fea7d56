"""The document `site/1`: the devices of a whole site, on as many segments of a bus as they want."""

from typing import Annotated, Literal

from msgspec import Meta

from humble_courier.documents.base import Strict, Text
from humble_courier.documents.bus import BankModel, BusMember


class SiteMember(BusMember, frozen=True):
    """A device: as on a bus; `segment` and `instance` where they are fixed, else the plan chooses them."""

    segment: Text | None = None
    instance: Annotated[int, Meta(ge=0, le=4_294_967_295)] | None = None


class Instances(Strict, frozen=True, rename={"first": "from", "last": "to"}):
    """Numbers that are unique over the whole site, whichever segment a device is on."""

    first: Annotated[int, Meta(ge=0, le=4_294_967_295)]
    last: Annotated[int, Meta(ge=0, le=4_294_967_295)]


class SiteModel(Strict, frozen=True):
    """The document. `per_segment`: devices that a segment takes; else as many as the protocol lets one drive and address.

    `reserve`: addresses that are kept on every segment, as that of its router.
    """

    courier: Literal["site/1"]
    protocol: Text
    members: Annotated[list[SiteMember], Meta(min_length=1, max_length=4096)]
    settings: Text | None = None
    bank: BankModel | None = None
    reserve: list[Annotated[int, Meta(ge=0, le=65_535)]] = []
    per_segment: Annotated[int, Meta(ge=1, le=65_536)] | None = None
    instances: Instances | None = None
