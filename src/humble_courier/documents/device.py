"""The document `device/1`: what a technician digs out of a device's manual."""

from typing import Annotated, Literal

from msgspec import Meta

from humble_courier.documents.base import ConnectorModel, EndWord, Sourced, Strict, Text

Codes = Literal["address", "rate", "frame", "settings"]


class FirstWords(Strict, frozen=True):
    """Words that change nothing in the device, and the answer that proves it is this device.

    `after`: words of the same sheet that have to go before. `by`: who answers them; an adapter's answer says nothing of the
    device behind it. `example`: an answer as it came. `asks`: who says that they only ask (a person, or the protocol); in a
    sheet of one's own nothing is said of which nobody has said it.
    """

    say: Text
    means: Text
    expect: Text
    read: dict[str, Text] = {}
    example: str = ""
    after: str = ""
    by: Literal["device", "adapter"] = "device"
    asks: str = ""


class Register(Strict, frozen=True, kw_only=True):
    """A value that a unit on a bus holds: where (counted from 0), as what, what one step is worth, between which limits.

    Numbers of 32 bits take two registers, the higher first unless `low_first`. `table`: `holding` (function 3), `input` (4).
    """

    name: Text
    first: Annotated[int, Meta(ge=0, le=65_535)]
    type: Literal["u16", "i16", "u32", "i32", "f32"] = "u16"
    scale: float = 1.0
    unit: str = ""
    lowest: float | None = None
    highest: float | None = None
    table: Literal["holding", "input"] = "holding"
    low_first: bool = False


class PowerUp(Strict, frozen=True):
    """What the device says by itself after power is applied."""

    expect: Text
    example: Text
    after_s: float
    means: Text


class Precondition(Strict, frozen=True):
    """An act and how one sees that it is done. `caution`: an id of the catalog, or a sentence of one's own.

    `id` keeps its tick when the words change; without one the words themselves do.
    """

    act: Text
    proof: Text
    caution: str | None = None
    id: str = ""


class LinesAtOpen(Strict, frozen=True):
    """What DTR and RTS may do when the port is opened: `any`, or `low` where raising them keys or resets.

    `quiet`: low as long as nobody knows the device better; they may be raised by hand.
    """

    dtr: Literal["any", "low", "quiet"] = "any"
    rts: Literal["any", "low", "quiet"] = "any"


class SwitchBank(Strict, frozen=True):
    """A bank of switches or jumpers and what it codes: an address in binary, or texts by `table` (`01`: switch 1 off).

    `rotary`: round switches with sixteen positions instead, four of the `width` for each, highest digit first.
    """

    id: Text
    where: Text
    codes: Codes
    width: Annotated[int, Meta(ge=1, le=32)]
    msb_first: bool = False
    on_is_zero: bool = False
    offset: int = 0
    table: dict[str, Text] = {}
    upside_down: bool = False
    jumpers: bool = False
    rotary: bool = False


class SetIn(Strict, frozen=True):
    """Where a setting lives, how to change it, when that takes effect, and how long it takes."""

    kind: Literal["fixed", "jumper", "switches", "menu", "stored", "firmware"]
    how: Text
    bank: str | None = None
    effect: str = ""
    minutes: Annotated[float, Meta(ge=0)] = 5.0


class DevicePort(Strict, frozen=True, kw_only=True):
    """One port of a device: connector, signals, its settings from the factory.

    `mark` is what stands beside it, `beside` what it is mistaken for, `hidden` what must come off first, `meant` what it
    is for. `set_in` says where rate, frame, address and handshake are set.
    """

    name: Text
    mark: Text
    connector: ConnectorModel
    signals: dict[str, Text]
    settings: Text
    set_by: Text
    id: Text = "main"
    beside: str = ""
    hidden: str = ""
    meant: str = ""
    protocol: str = "text"
    supplies_loop: bool = False
    set_in: dict[Literal["rate", "frame", "address", "handshake"], SetIn] = {}


class Variant(Strict, frozen=True, kw_only=True):
    """A revision of a device: how to tell it, which manual documents it, and what differs from the sheet.

    `firmware_from` is included, `firmware_below` is not; both as the device tells them (`3.0`).
    """

    id: Text
    tell: Text
    edition: Text
    firmware_from: str | None = None
    firmware_below: str | None = None
    settings: Text | None = None
    set_by: Text | None = None
    banks: list[SwitchBank] | None = None
    end: EndWord | None = None
    echo: bool | None = None
    power_up: PowerUp | None = None
    answer_ms: int | None = None


class Lamp(Strict, frozen=True):
    """A lamp or a sound: what it means, and what it means when it stays away."""

    what: Text
    means: Text
    absent: Text


class UsualProgram(Strict, frozen=True):
    """Limits of the program that is usually used with the device; a program, not a maker.

    `systems`: operating systems it runs on. `bits`: of the system it wants. `settings`: those that it cannot change.
    """

    highest_port: int | None = None
    bits: Literal[16, 32, 64] | None = None
    settings: str = ""
    systems: list[Text] = []
    exclusive: bool = False
    note: str = ""


class KnownAdapter(Strict, frozen=True, kw_only=True):
    """Adapters that are known to work with the device, or not to: by the kernel module that claims them."""

    module: Text
    works: bool
    note: str = ""


class ForbiddenSocket(Strict, frozen=True):
    """A socket or a thing in it that must not be used, why, and what to do in its place."""

    what: Text
    why: Text
    instead: str = ""


class Band(Strict, frozen=True):
    """Where a transmitter may be keyed: region, from and to in MHz."""

    region: Text
    from_mhz: float
    to_mhz: float


class OverSerial(Strict, frozen=True):
    """The network side of a device: factory address, TCP ports, and how the address is read and set over the serial port."""

    factory: Text | None = None
    read: FirstWords | None = None
    set: list[Text] = []
    caution: str | None = None
    ports: list[Annotated[int, Meta(ge=1, le=65_535)]] = []


class Addresses(Strict, frozen=True):
    """Addresses that the device can be given on its bus."""

    lowest: int
    highest: int
    bus: Text


class DeviceEntry(Sourced, frozen=True, kw_only=True):
    """A device sheet. `heard`: a line that it says by itself, as it came. `not_again`: words that were said on site, of
    which nobody said that they only ask: they are known, and not said again.
    """

    courier: Literal["device/1"]
    name: Text
    kind: Literal["instrument", "vehicle", "radio", "controller", "legacy"]
    edition: Text
    port: DevicePort
    other_ports: list[DevicePort] = []
    end: EndWord = "none"
    echo: bool = False
    power_up: PowerUp | None = None
    ready_after_s: Annotated[float, Meta(ge=0)] = 0.0
    first_words: list[FirstWords] = []
    not_again: list[FirstWords] = []
    registers: list[Register] = []
    preconditions: list[Precondition] = []
    afterwards: list[Precondition] = []
    lines_at_open: LinesAtOpen = LinesAtOpen()
    leave_open: list[Text] = []
    answer_ms: Annotated[int, Meta(ge=0)] = 1000
    heard: str = ""
    banks: list[SwitchBank] = []
    variants: list[Variant] = []
    lamps: list[Lamp] = []
    alarms: list[Text] = []
    addresses: Addresses | None = None
    program: UsualProgram = UsualProgram()
    adapters: list[KnownAdapter] = []
    forbidden: list[ForbiddenSocket] = []
    bands: list[Band] = []
    network: OverSerial | None = None
    note_down: list[Text] = []
    cautions: list[Text] = []
