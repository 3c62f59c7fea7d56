"""From texts in a document to values, with the line of each mistake."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from humble_courier.catalog.entries import PartEntry, PortEntry, ShapeEntry
from humble_courier.documents.base import ConnectorModel, EndModel
from humble_courier.documents.kit import KitItem
from humble_courier.documents.link import LinkPart
from humble_courier.documents.reader import Document
from humble_courier.domain.hardware import LEAD, Conductor, Connector, End, EndContact, Fixing, Gender, Part, Port
from humble_courier.domain.settings import Settings
from humble_courier.domain.signals import Signal
from humble_courier.errors import BadInput

Shapes = Mapping[tuple[str, int], ShapeEntry]
Where = tuple[Any, ...]
ALWAYS_THERE = frozenset({"shell"})  # the metal shell of a connector, or the screen of a cable


def contact_names(shapes: Shapes, family: str, contacts: int) -> frozenset[str]:
    """The contacts that a connector has; those of an unlisted one are numbered from 1. Of loose leads: none is known."""
    if family == LEAD:
        return frozenset()
    shape = shapes.get((family, contacts))
    names = [name for row in shape.rows for name in row] if shape else [str(i + 1) for i in range(contacts)]
    return frozenset(names) | ALWAYS_THERE


def connector(model: ConnectorModel) -> Connector:
    """The value of a connector."""
    return Connector(model.family, model.contacts, Gender(model.gender), Fixing(model.fixing))


def signals(document: Document, where: Where, texts: Mapping[str, str], known: frozenset[str]) -> dict[str, Signal]:
    """Signals by contact; raises BadInput at the line of a wrong text or of a contact that is not there."""
    result = {}
    for contact, text in texts.items():
        if known and contact not in known:
            raise document.error(f"the connector has no contact “{contact}”", (*where, contact))
        try:
            result[contact] = Signal.parse(text)
        except BadInput as error:
            raise document.error(error.text, (*where, contact)) from None
    return result


def port(
    document: Document,
    where: Where,
    id_: str,
    name: str,
    model: ConnectorModel,
    texts: Mapping[str, str],
    shapes: Shapes,
) -> Port:
    """A port as a value."""
    known = contact_names(shapes, model.family, model.contacts)
    return Port(id_, name, connector(model), signals(document, (*where, "signals"), texts, known))


def catalog_port(document: Document, where: Where, entry: PortEntry, shapes: Shapes) -> Port:
    """A port of the catalog as a value, with what is joined inside it."""
    made = port(document, where, entry.id, entry.name, entry.connector, entry.signals, shapes)
    known = contact_names(shapes, entry.connector.family, entry.connector.contacts)
    for i, loop in enumerate(entry.loops):
        for contact in loop:
            if contact not in known:
                raise document.error(f"the connector has no contact “{contact}”", (*where, "loops", i))
    return replace(made, supplies_loop=entry.supplies_loop, loops=tuple(tuple(loop) for loop in entry.loops))


def part(document: Document, where: Where, entry: PartEntry, shapes: Shapes) -> Part:
    """A catalog part as a value."""
    made = ends(document, (*where, "ends"), entry.ends, shapes)
    wires = conductors(document, (*where, "conductors"), entry.conductors, made, shapes)
    twisted = pairs(document, (*where, "pairs"), entry.pairs, made, shapes)
    return Part(
        entry.id, entry.name, made, wires, entry.length_m, entry.kind, twisted, entry.wire, entry.isolates,
        entry.terminates, entry.bias_ohm,
    )  # fmt: skip


def with_resistors(part: Part, model: LinkPart | KitItem) -> Part:
    """A catalog part with the terminators and bias that a document says are built into this one, or set on it."""
    ends = part.terminates if model.terminates is None else model.terminates
    bias = part.bias_ohm if model.bias_ohm is None else model.bias_ohm
    return replace(part, terminates=ends, bias_ohm=bias)


def own_part(document: Document, where: Where, model: LinkPart | KitItem, name: str, shapes: Shapes) -> Part:
    """A part that a document writes out: its ends, conductors and pairs."""
    made = ends(document, (*where, "ends"), model.ends or [], shapes)
    wires = conductors(document, (*where, "conductors"), model.conductors or [], made, shapes)
    twisted = pairs(document, (*where, "pairs"), model.pairs or [], made, shapes)
    title = model.id or "cable as written here"
    return Part(
        name, title, made, wires, model.length_m or 0.0, pairs=twisted, wire=model.wire or "multicore",
        terminates=model.terminates or 0, bias_ohm=model.bias_ohm,
    )  # fmt: skip


def pairs(
    document: Document, where: Where, texts: list[str], made: tuple[End, ...], shapes: Shapes
) -> tuple[tuple[EndContact, EndContact], ...]:
    """Contacts whose conductors share a twisted pair, written like conductors: `A1-A2`."""
    return tuple((wire.a, wire.b) for wire in conductors(document, where, texts, made, shapes))


def ends(document: Document, where: Where, models: list[EndModel], shapes: Shapes) -> tuple[End, ...]:
    """The ends of a part."""
    made = []
    for i, model in enumerate(models):
        known = contact_names(shapes, model.family, model.contacts)
        found = signals(document, (*where, i, "signals"), model.signals, known)
        made.append(End(connector(model), found, supplies_loop=model.supplies_loop))
    return tuple(made)


def conductors(
    document: Document, where: Where, texts: list[str], made: tuple[End, ...], shapes: Shapes
) -> tuple[Conductor, ...]:
    """The conductors of a part; raises BadInput where one names an end or a contact that is not there."""
    known = [contact_names(shapes, end.connector.family, end.connector.contacts) for end in made]
    result = []
    for i, text in enumerate(texts):
        try:
            wire = Conductor.parse(text)
        except BadInput as error:
            raise document.error(error.text, (*where, i)) from None
        for contact in (wire.a, wire.b):
            if contact.end >= len(made):
                raise document.error(f"conductor “{text}”: the part has {len(made)} ends, none is called so", (*where, i))
            if known[contact.end] and contact.contact not in known[contact.end]:
                shape = made[contact.end].connector.shape
                raise document.error(f"conductor “{text}”: a {shape} has no contact {contact.contact}", (*where, i))
        result.append(wire)
    return tuple(result)


def check_settings(document: Document, where: Where, text: str) -> Settings:
    """Settings as a value; raises BadInput at their line."""
    try:
        return Settings.parse(text)
    except BadInput as error:
        raise document.error(error.text, where) from None
