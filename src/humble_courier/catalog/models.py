"""Shapes of the data files and of the open documents, as strict structures (unknown keys are refused).

Texts such as signals, conductors and settings stay texts here, so that the JSON Schema shows the format people write;
`resolve.py` turns them into values.
"""

from typing import Annotated, Literal

from msgspec import Meta, Struct

Text = Annotated[str, Meta(min_length=1)]
Count = Annotated[int, Meta(ge=1, le=200)]
GenderWord = Literal["plug", "socket", "either"]


class Strict(Struct, forbid_unknown_fields=True, frozen=True, omit_defaults=True):
    """Base of all: no unknown keys, no change after reading."""


class Sourced(Strict, frozen=True, kw_only=True):
    """An entry of a data file: where its facts come from, and whether the source was looked up."""

    id: Text
    source: Text
    from_memory: bool = False


class ConnectorModel(Strict, frozen=True):
    """A connector in a document."""

    family: Text
    contacts: Count
    gender: GenderWord


class EndModel(ConnectorModel, frozen=True):
    """An end of a part; `signals` only where the part is active there."""

    signals: dict[str, Text] = {}


class ShapeEntry(Sourced, frozen=True, kw_only=True):
    """A connector family: contact names in rows as one looks at the mating face of the plug."""

    family: Text
    contacts: Count
    name: Text
    outline: Literal["d", "modular", "round", "row", "usb"]
    rows: list[list[str]]
    mark: Text


class Volts(Strict, frozen=True):
    """A range in volts."""

    low: float
    high: float


class LevelEntry(Sourced, frozen=True, kw_only=True):
    """Limits of an electrical family, volts against signal ground.

    `sends_mark`, `sends_space`: what a driver puts out; `takes_mark`, `takes_space`: what a receiver reads so;
    `survives`: what a contact stands without harm. Differential families give the legs against ground.
    """

    signalling: Literal["single-ended", "differential", "dominant", "current", "supply", "reference", "packet"]
    name: Text
    survives: Volts
    sends_mark: Volts | None = None
    sends_space: Volts | None = None
    takes_mark: Volts | None = None
    takes_space: Volts | None = None
    supply_v: float | None = None


class PortEntry(Sourced, frozen=True, kw_only=True):
    """A port that the standards or common practice define."""

    name: Text
    connector: ConnectorModel
    signals: dict[str, Text]
    supplies_loop: bool = False


class PartEntry(Sourced, frozen=True, kw_only=True):
    """A part one can put in a bag."""

    name: Text
    kind: Literal["cable", "adapter", "usb-adapter"]
    ends: Annotated[list[EndModel], Meta(min_length=2, max_length=8)]
    conductors: list[Text] = []
    length_m: float = 0.0


class CautionEntry(Sourced, frozen=True, kw_only=True):
    """A caution, shown beside the act it belongs to."""

    text: Text


class FirstWords(Strict, frozen=True):
    """Words that change nothing in the device, and the answer that proves it is this device."""

    say: Text
    means: Text
    expect: Text
    read: dict[str, Text] = {}


class PowerUp(Strict, frozen=True):
    """What the device says by itself after power is applied."""

    expect: Text
    example: Text
    after_s: float
    means: Text


class Precondition(Strict, frozen=True):
    """Something that must hold before the device can answer."""

    act: Text
    proof: Text
    caution: str | None = None


class LinesAtOpen(Strict, frozen=True):
    """What DTR and RTS may do when the port is opened: `any`, or `low` where raising them keys or resets."""

    dtr: Literal["any", "low"] = "any"
    rts: Literal["any", "low"] = "any"


class DevicePort(Strict, frozen=True, kw_only=True):
    """One port of a device: connector, signals, its settings from the factory."""

    name: Text
    mark: Text
    connector: ConnectorModel
    signals: dict[str, Text]
    settings: Text
    set_by: Text


class DeviceEntry(Sourced, frozen=True, kw_only=True):
    """A device sheet: what a technician digs out of the manual."""

    courier: Literal["device/1"]
    name: Text
    kind: Literal["instrument", "vehicle", "radio", "controller", "legacy"]
    edition: Text
    port: DevicePort
    end: Literal["cr", "lf", "crlf", "none"] = "none"
    echo: bool = False
    power_up: PowerUp | None = None
    first_words: list[FirstWords] = []
    preconditions: list[Precondition] = []
    lines_at_open: LinesAtOpen = LinesAtOpen()
    answer_ms: Annotated[int, Meta(ge=0)] = 1000


class LinkPort(Strict, frozen=True):
    """An end of a link: a catalog port, a device of the catalog, or written out."""

    port: str | None = None
    device: str | None = None
    connector: ConnectorModel | None = None
    signals: dict[str, Text] | None = None


class LinkPart(Strict, frozen=True):
    """A part of a chain: by catalog id (perhaps turned about), or written out."""

    part: str | None = None
    id: str | None = None
    turned: bool = False
    ends: Annotated[list[EndModel], Meta(min_length=2, max_length=8)] | None = None
    conductors: list[Text] | None = None
    length_m: Annotated[float, Meta(ge=0)] | None = None


class LinkSettings(Strict, frozen=True):
    """Settings of both ends, each `RATE,FRAME[,HANDSHAKE]`."""

    computer: str | None = None
    device: str | None = None


class LinkModel(Strict, frozen=True):
    """The document `link/1`."""

    courier: Literal["link/1"]
    computer: LinkPort
    device: LinkPort
    chain: list[LinkPart] = []
    settings: LinkSettings = LinkSettings()
    name: str | None = None
    address: str | None = None
