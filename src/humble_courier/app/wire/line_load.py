"""Length and load of a link for people: what is asked on site, the figures, and what stands against them."""

from dataclasses import dataclass

import msgspec

from humble_courier.app.amounts import Budget
from humble_courier.app.typed import number
from humble_courier.catalog.entries import LengthEntry
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkLine, LinkModel
from humble_courier.domain.signals import Level
from humble_courier.errors import BadInput
from humble_courier.wiring.bias import FULL_LOAD_OHM
from humble_courier.wiring.length import Stretch, reach
from humble_courier.wiring.trace import Trace

# The usual ones, from the slowest modem to the fastest that plain RS-232 adapters promise.
RATES = (300, 1200, 2400, 4800, 9600, 19_200, 38_400, 115_200)
FAST_RATES = (500_000, 1_000_000, 2_000_000)  # of balanced lines, beyond
LENGTH = "length "  # key of a part's length: followed by its index
BUILT_IN = "terminators in "  # key of what is built into a part or switched on there: followed by its index
_CODES = ("too-long", "not-terminated", "bias-too-weak", "line-overloaded", "ground-difference", "pair-split")
_BUSES = (Level.RS485, Level.RS422, Level.CAN, Level.J1708, Level.GPIB)


def asked(link: Link, trace: Trace) -> list[tuple[str, str, str]]:
    """What is asked on site: (key, question, present value). Bus questions only where there is a bus."""
    rows = [
        (f"{LENGTH}{i}", f"{part.name}, length in m", f"{part.length_m:g}")
        for i, part in enumerate(link.parts)
        if not part.active
    ]
    if is_bus(trace):
        line = link.model.line
        bias = "" if line.bias_ohm is None else f"{line.bias_ohm:g}"
        rows += [
            (f"{BUILT_IN}{i}", f"{part.name}: terminators in it", str(part.terminates))
            for i, part in enumerate(link.parts)
            if not part.active or any(s.level in _BUSES for end in part.ends for s in end.signals.values())
        ]
        rows += [
            ("nodes", "Devices on the line, ours included", str(line.nodes)),
            ("bias_ohm", "Each bias resistor in ohm; empty: none", bias),
            ("stub_m", "Longest branch in m", f"{line.stub_m:g}"),
        ]
    return rows


def is_bus(trace: Trace) -> bool:
    """Whether several devices may share the line."""
    return any(s.level in _BUSES for s in trace.stretches)


def answered(model: LinkModel, values: dict[str, str], terminators: int | None, buildings: bool) -> LinkModel:
    """The link with what was typed. Raises BadInput where a value is no number of its kind."""
    chain = list(model.chain)
    line = msgspec.structs.replace(model.line, terminators=terminators, between_buildings=buildings)
    for key, text in values.items():
        if key.startswith(LENGTH):
            i = int(key.removeprefix(LENGTH))
            chain[i] = msgspec.structs.replace(chain[i], length_m=_positive(text, 0, 100_000))
        elif key.startswith(BUILT_IN):
            i = int(key.removeprefix(BUILT_IN))
            chain[i] = msgspec.structs.replace(chain[i], terminates=int(_positive(text, 0, 2)))
        elif key == "nodes":
            line = msgspec.structs.replace(line, nodes=int(_positive(text, 2, 1000)))
        elif key == "bias_ohm":
            line = msgspec.structs.replace(line, bias_ohm=_positive(text, 1, 1e6) if text.strip() else None)
        elif key == "stub_m":
            line = msgspec.structs.replace(line, stub_m=_positive(text, 0, 10_000))
    return msgspec.structs.replace(model, chain=chain, line=msgspec.convert(msgspec.to_builtins(line), LinkLine))


def _positive(text: str, low: float, high: float) -> float:
    value = number(text)
    if value is None or not low <= value <= high:
        raise BadInput(f"“{text}”: expected a number from {low:g} to {high:g}")
    return value


@dataclass(frozen=True)
class ReachCurve:
    """How far such a line carries: points (bit/s, metres) by rate, and this link among them (`far_m` at its rate)."""

    points: tuple[tuple[int, float], ...]
    rate: int
    length_m: float
    far_m: float

    @property
    def carries(self) -> bool:
        """Whether this link is within it."""
        return self.length_m <= self.far_m


def figures(trace: Trace, catalog: Catalog) -> list[Budget]:
    """Figures of each stretch of cable, beside the limits of the catalog."""
    rows: list[Budget] = []
    for stretch in trace.stretches:
        rows += _figures(stretch, catalog.lengths[stretch.level]) if stretch.length_m or stretch.load_ohm is not None else []
    return rows


def _figures(stretch: Stretch, rule: LengthEntry) -> list[Budget]:
    name = str(stretch.level).upper().replace("RS", "RS-", 1)
    far = _far(stretch, rule)
    rows = [
        Budget(f"{name}: length", f"{stretch.length_m:g} m" + (f" of {far:.0f} m" if far else ""), stretch.length_m, far)
    ]
    if rule.max_pf is not None:
        most = rule.max_pf * max(1.0, (rule.full_rate or stretch.rate) / stretch.rate)
        told = f"{stretch.capacitance_pf:.0f} pF of {most:.0f} pF"
        told += f", {rule.max_pf:.0f} pF by the standard" if most > rule.max_pf else ""
        rows.append(Budget("capacitance", told, stretch.capacitance_pf, most))
    if stretch.idle_v is not None and rule.idle_mv:
        idle = stretch.idle_v * 1000
        rows.append(Budget("idle pair", f"{idle:.0f} mV, {rule.idle_mv:.0f} mV needed", idle, rule.idle_mv, True))
    if stretch.load_ohm is not None and stretch.load_ohm < 1e6:
        told = f"{stretch.load_ohm:.0f} ohm, {FULL_LOAD_OHM:.0f} ohm at least"
        rows.append(Budget("a driver sees", told, stretch.load_ohm, FULL_LOAD_OHM, True))
    if stretch.loop_left_v is not None and rule.loop_v:
        needed = rule.loop_drop_v or 0.0
        lost = rule.loop_v - needed - stretch.loop_left_v
        told = f"{lost:.1f} V lost of {rule.loop_v - needed:.1f} V that the couplers leave"
        rows.append(Budget("20 mA loop", told, lost, rule.loop_v - needed))
    if stretch.terminators is not None:
        rows.append(Budget("terminators", f"{stretch.terminators}, those in drawn parts among them"))
    rows.append(Budget("there and back", f"{stretch.loop_ohm:.1f} ohm"))
    return rows


def _far(stretch: Stretch, rule: LengthEntry) -> float | None:
    """Metres at this rate: the published limit, and where slow edges leave more, so much more."""
    return reach(rule, stretch.pf_per_m, stretch.rate) if rule.max_pf else stretch.limit_m


def reaches(trace: Trace, catalog: Catalog) -> ReachCurve | None:
    """How far the last stretch would carry at other rates; None where rates do not matter."""
    stretch = trace.stretches[-1] if trace.stretches else None
    rule = catalog.lengths.get(stretch.level) if stretch else None
    if stretch is None or rule is None or not (rule.max_pf or rule.bit_m_per_s or rule.table):
        return None
    rates = [row.rate for row in rule.table] or [*RATES, *(FAST_RATES if rule.bit_m_per_s else ())]
    known = sorted({*rates, stretch.rate})
    far = _far(stretch, rule)
    at = {rate: reach(rule, stretch.pf_per_m, rate, stretch.in_vehicle) for rate in known} | {stretch.rate: far}
    points = [(rate, metres) for rate, metres in at.items() if metres is not None]
    return ReachCurve(tuple(points), stretch.rate, stretch.length_m, far) if far is not None and len(points) > 1 else None


def remarks(trace: Trace) -> list[str]:
    """What stands against the length and the load, as sentences."""
    return [f.text[0].upper() + f.text[1:] + "." for f in trace.findings if f.code in _CODES]


def headline(trace: Trace) -> tuple[str, str]:
    """The answer of the page."""
    against = remarks(trace)
    longest = max((s.length_m for s in trace.stretches), default=0.0)
    if any(f.severity == "error" for f in trace.findings if f.code in _CODES):
        return "The line is too long, or not closed", "Computed from the lengths and from what is said about the site."
    if against:
        return "It carries, with a reservation", "Computed from the lengths and from what is said about the site."
    return f"{longest:g} m carry", "Well inside what this kind of line stands; computed from length, rate and load."
