"""The document `kit/1`: what is in the bag."""

from typing import Annotated, Literal

from msgspec import Meta

from humble_courier.documents.base import EndModel, Strict, Text


class KitItem(Strict, frozen=True):
    """A part of the kit: of the catalog by `part`, or a lead of one's own written out. Cost in any one currency.

    `module`: the kernel's driver that claims it; `serial`: as the adapter reports it.
    """

    part: str | None = None
    id: str | None = None
    count: Annotated[int, Meta(ge=0)] = 1
    ends: Annotated[list[EndModel], Meta(min_length=2, max_length=8)] | None = None
    conductors: list[Text] | None = None
    length_m: Annotated[float, Meta(ge=0)] | None = None
    pairs: list[Text] | None = None
    terminates: Annotated[int, Meta(ge=0, le=2)] | None = None
    bias_ohm: Annotated[float, Meta(gt=0)] | None = None
    wire: str | None = None
    cost: Annotated[float, Meta(ge=0)] = 0.0
    weight_g: Annotated[float, Meta(ge=0)] | None = None
    successes: Annotated[int, Meta(ge=0)] = 0
    failures: Annotated[int, Meta(ge=0)] = 0
    module: str = ""
    serial: str = ""


class KitModel(Strict, frozen=True):
    """The document `kit/1`: what is in the bag."""

    courier: Literal["kit/1"]
    items: list[KitItem] = []
