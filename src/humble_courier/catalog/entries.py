"""Shapes of the data files and of the open documents, as strict structures (unknown keys are refused).

Texts such as signals, conductors and settings stay texts here, so that the JSON Schema shows the format people write;
`resolve.py` turns them into values.
"""

from typing import Annotated, Literal

from msgspec import Meta

from humble_courier.documents.base import ConnectorModel, Count, EndModel, Sourced, Strict, Text


class Carries(Strict, frozen=True):
    """What a connector that is seen may carry: `always` or `perhaps`, by what to tell, and which port it then is."""

    bus: Text
    how: Literal["always", "perhaps"]
    tell: Text
    port: str | None = None


class ShapeEntry(Sourced, frozen=True, kw_only=True):
    """A connector family: contact names in rows as one looks at the mating face of the plug.

    `at` gives places where rows do not tell the truth, as on round connectors: x to the right and y down, from 0 to 1.
    """

    family: Text
    contacts: Count
    name: Text
    outline: Literal["d", "modular", "round", "row", "usb", "ribbon"]
    rows: list[list[str]]
    mark: Text
    at: dict[str, tuple[float, float]] = {}
    carries: list[Carries] = []


class Volts(Strict, frozen=True):
    """A range in volts."""

    low: float
    high: float


class LevelEntry(Sourced, frozen=True, kw_only=True):
    """Limits of an electrical family, volts against signal ground.

    `sends_mark`, `sends_space`: what a driver puts out; `takes_mark`, `takes_space`: what a receiver reads so;
    `survives`: what a contact stands without harm; `peak_v`: what a supply can rise to for a moment. Differential families
    give the legs against ground.
    """

    signalling: Literal["single-ended", "differential", "dominant", "current", "supply", "reference", "packet"]
    name: Text
    survives: Volts
    sends_mark: Volts | None = None
    sends_space: Volts | None = None
    takes_mark: Volts | None = None
    takes_space: Volts | None = None
    supply_v: float | None = None
    peak_v: float | None = None
    idle: Literal["mark", "space", "either", "pair"] | None = None


class WireEntry(Sourced, frozen=True, kw_only=True):
    """A kind of cable by its conductors: capacitance in pF/m, resistance of one conductor in ohm/m, impedance in ohm."""

    name: Text
    pf_per_m: float
    ohm_per_m: float
    impedance_ohm: float | None = None


class RateLimit(Strict, frozen=True):
    """The longest trunk, and the longest stub, at a rate in bit/s; `vehicle_m`: the trunk by the standard of vehicles."""

    rate: int
    max_m: float
    stub_m: float | None = None
    vehicle_m: float | None = None


class LengthEntry(Sourced, frozen=True, kw_only=True):
    """How far a family carries: by capacitance, by rate times length, by a table of rates, or a plain length.

    `max_pf` holds at `full_rate` bit/s; slower lines stand more in proportion. `bit_m_per_s` is rate times length.
    `terminate`: the line wants its impedance at both ends once it is long. `max_unit_loads` on the line.
    """

    levels: list[Text]
    max_pf: float | None = None
    full_rate: int | None = None
    bit_m_per_s: float | None = None
    max_m: float | None = None
    max_m_per_node: float | None = None
    table: list[RateLimit] = []
    max_unit_loads: int | None = None
    terminate_ohm: float | None = None
    idle_mv: float | None = None
    loop_v: float | None = None
    loop_drop_v: float | None = None


class ColourEntry(Sourced, frozen=True, kw_only=True):
    """An order of conductor colours; `pairs` where two neighbours share a twisted pair. Codes after IEC 60757."""

    name: Text
    colours: list[Text]
    pairs: bool = False
    contacts: dict[str, Text] = {}


class LogEntry(Sourced, frozen=True, kw_only=True):
    """A line of the kernel's log that means something: the published code, a pattern, what it says in words."""

    code: Text
    pattern: Text
    says: Text


class TakerEntry(Sourced, frozen=True, kw_only=True):
    """A program that takes ports for itself: what it does, the command against it, and what keeps it off for good."""

    program: Text
    what: Text
    remedy: Text
    stays: Text


class AdviceEntry(Sourced, frozen=True, kw_only=True):
    """Something to do, and why."""

    do: Text
    why: Text


class PlanEntry(Sourced, frozen=True, kw_only=True):
    """A step of the driver plan. `system`: `linux`, or `other` where the order matters; `needs` narrows it to a fact."""

    system: Literal["any", "linux", "other"]
    needs: Literal["no-administrator", "signed-only"] | None = None
    do: Text
    why: Text


class PortEntry(Sourced, frozen=True, kw_only=True):
    """A port that the standards or common practice define."""

    name: Text
    connector: ConnectorModel
    signals: dict[str, Text]
    supplies_loop: bool = False
    loops: list[list[Text]] = []
    role: Literal["dte", "dce"] | None = None


class PartEntry(Sourced, frozen=True, kw_only=True):
    """A part one can put in a bag. `pairs` are contacts of the first end whose conductors share a twisted pair.

    `terminates`: terminators that are built in; `bias_ohm`: each of its two bias resistors, where it has such.

    `shops`: whether a shop for computers has it, as a rule; what else there is has to be ordered.
    """

    name: Text
    kind: Literal["cable", "adapter", "usb-adapter", "converter"]
    ends: Annotated[list[EndModel], Meta(min_length=2, max_length=8)]
    conductors: list[Text] = []
    length_m: Annotated[float, Meta(ge=0)] = 0.0
    pairs: list[Text] = []
    wire: str = "multicore"
    isolates: bool = False
    terminates: Annotated[int, Meta(ge=0, le=2)] = 0
    bias_ohm: Annotated[float, Meta(gt=0)] | None = None
    shops: bool = False


class CautionEntry(Sourced, frozen=True, kw_only=True):
    """A caution, shown beside the act it belongs to. `arrange`: what it wants seen to before one leaves for there."""

    text: Text
    arrange: str = ""


class NamesEntry(Sourced, frozen=True, kw_only=True):
    """What the numbers of a protocol are called."""

    names: dict[str, Text]


class WaitEntry(Sourced, frozen=True, kw_only=True):
    """How long a protocol waits for an answer."""

    name: Text
    waits_ms: Annotated[float, Meta(gt=0)]


class SentenceEntry(Sourced, frozen=True, kw_only=True):
    """What a sentence carries, by its formatter (`id`)."""

    carries: list[Text]


class BusProtocolEntry(Sourced, frozen=True, kw_only=True):
    """Which addresses (`lowest` to `highest`) devices on a bus may have; those in `kept` are taken by the bus itself.

    `polls_gaps`: a master asks each address up to the highest, so that gaps cost time (`poll_ms` each,
    one of them in `poll_every` tokens). `highest_instance`: of the numbers that are unique over a whole site.
    """

    name: Text
    lowest: int
    highest: int
    kept: tuple[int, ...] = ()
    polls_gaps: bool = False
    poll_ms: float = 0.0
    poll_every: int = 1
    most_devices: int | None = None
    highest_instance: int | None = None
