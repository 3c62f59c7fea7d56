"""The document `link/1`: one computer port, the parts between, one device port, the settings at both ends."""

from typing import Annotated, Literal

from msgspec import Meta

from humble_courier.documents.base import ConnectorModel, EndModel, EndWord, Strict, Text


class LinkPort(Strict, frozen=True):
    """An end of a link: a catalog port, a device of the catalog, or written out.

    `socket`: which port of the device, where it is not the first; `variant`: which revision of the device.
    """

    port: str | None = None
    device: str | None = None
    connector: ConnectorModel | None = None
    signals: dict[str, Text] | None = None
    socket: str | None = None
    variant: str | None = None


class LinkPart(Strict, frozen=True):
    """A part of a chain: by catalog id (perhaps turned about), or written out.

    `terminates` and `bias_ohm`: terminators and bias resistors built into it, or set on it by a switch.
    """

    part: str | None = None
    id: str | None = None
    turned: bool = False
    ends: Annotated[list[EndModel], Meta(min_length=2, max_length=8)] | None = None
    conductors: list[Text] | None = None
    length_m: Annotated[float, Meta(ge=0)] | None = None
    pairs: list[Text] | None = None
    terminates: Annotated[int, Meta(ge=0, le=2)] | None = None
    bias_ohm: Annotated[float, Meta(gt=0)] | None = None
    wire: str | None = None
    lands: dict[str, str] | None = None


class LinkSettings(Strict, frozen=True):
    """Settings of both ends, each `RATE,FRAME[,HANDSHAKE]`."""

    computer: str | None = None
    device: str | None = None


class LinkLine(Strict, frozen=True):
    """What surrounds the line: nodes, unit load of each, terminators fitted, bias, the longest stub, other earths."""

    nodes: Annotated[int, Meta(ge=2, le=1000)] = 2
    unit_load: Annotated[float, Meta(gt=0, le=4)] = 1.0
    terminators: Annotated[int, Meta(ge=0, le=10)] | None = None
    bias_ohm: Annotated[float, Meta(gt=0)] | None = None
    supply_v: Annotated[float, Meta(gt=0, le=24)] = 5.0
    stub_m: Annotated[float, Meta(ge=0)] = 0.0
    between_buildings: bool = False
    rate: Annotated[int, Meta(gt=0)] | None = None


class LinkModel(Strict, frozen=True):
    """The document `link/1`. `unit`: which of those on the bus; None for the first that its sheet allows.

    `end`: how lines end, where no sheet says so, or the device at hand was found to want it otherwise.
    """

    courier: Literal["link/1"]
    computer: LinkPort
    device: LinkPort
    chain: list[LinkPart] = []
    settings: LinkSettings = LinkSettings()
    line: LinkLine = LinkLine()
    name: str | None = None
    address: str | None = None
    unit: Annotated[int, Meta(ge=0, le=255)] | None = None
    end: EndWord | None = None
