"""Length and load of a link for people: what is asked on site, the figures, and what stands against them."""

import msgspec

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

Rows = list[tuple[str, str]]
# The usual ones, from the slowest modem to the fastest that plain RS-232 adapters promise.
RATES = (300, 1200, 2400, 4800, 9600, 19_200, 38_400, 115_200)
LENGTH = "length "  # key of a part's length: followed by its index
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


def figures(trace: Trace, catalog: Catalog) -> Rows:
    """Figures of each stretch of cable, beside the limits of the catalog."""
    rows: Rows = []
    for stretch in trace.stretches:
        rows += _figures(stretch, catalog.lengths[stretch.level]) if stretch.length_m or stretch.load_ohm is not None else []
    return rows


def _figures(stretch: Stretch, rule: LengthEntry) -> Rows:
    name = str(stretch.level).upper().replace("RS", "RS-", 1)
    rows = [(f"{name}: length", f"{stretch.length_m:g} m" + (f" of {stretch.limit_m:.0f} m" if stretch.limit_m else ""))]
    if rule.max_pf is not None:
        rows.append(("capacitance", f"{stretch.capacitance_pf:.0f} pF of {rule.max_pf:.0f} pF"))
    rows.append(("there and back", f"{stretch.loop_ohm:.1f} ohm"))
    if stretch.idle_v is not None:
        rows.append(("idle pair", f"{stretch.idle_v * 1000:.0f} mV, {rule.idle_mv or 0:.0f} mV needed"))
    if stretch.load_ohm is not None and stretch.load_ohm < 1e6:
        rows.append(("a driver sees", f"{stretch.load_ohm:.0f} ohm, {FULL_LOAD_OHM:.0f} ohm at least"))
    if stretch.loop_left_v is not None:
        rows.append(("left in the loop", f"{stretch.loop_left_v:.1f} V of {rule.loop_v or 0:.0f} V"))
    return rows


def reaches(trace: Trace, catalog: Catalog) -> str:
    """How far the last stretch would carry at other rates, as a sentence; empty where rates do not matter."""
    stretch = trace.stretches[-1] if trace.stretches else None
    rule = catalog.lengths.get(stretch.level) if stretch else None
    if stretch is None or rule is None or not (rule.max_pf or rule.bit_m_per_s):
        return ""
    told = [f"{rate} bit/s {far:.0f} m" for rate in RATES if (far := reach(rule, stretch.pf_per_m, rate)) is not None]
    return "This kind of cable carries: " + ", ".join(told) + "."


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
