"""From texts in a document to values, with the line of each mistake."""

from collections.abc import Mapping
from typing import Any

from humble_courier.catalog.models import ConnectorModel, EndModel, PartEntry, ShapeEntry
from humble_courier.catalog.strict import Document
from humble_courier.errors import BadInput
from humble_courier.units.hardware import Conductor, Connector, End, Gender, Part, Port
from humble_courier.units.settings import Settings
from humble_courier.units.signals import Signal

Shapes = Mapping[tuple[str, int], ShapeEntry]
Where = tuple[Any, ...]
ALWAYS_THERE = frozenset({"shell"})  # the metal shell of a connector, or the screen of a cable


def contact_names(shapes: Shapes, family: str, contacts: int) -> frozenset[str]:
    """The contacts that a connector has; those of an unlisted one are numbered from 1."""
    shape = shapes.get((family, contacts))
    names = [name for row in shape.rows for name in row] if shape else [str(i + 1) for i in range(contacts)]
    return frozenset(names) | ALWAYS_THERE


def connector(model: ConnectorModel) -> Connector:
    """The value of a connector."""
    return Connector(model.family, model.contacts, Gender(model.gender))


def signals(document: Document, where: Where, texts: Mapping[str, str], known: frozenset[str]) -> dict[str, Signal]:
    """Signals by contact; raises BadInput at the line of a wrong text or of a contact that is not there."""
    result = {}
    for contact, text in texts.items():
        if contact not in known:
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
    supplies_loop: bool = False,
) -> Port:
    """A port as a value."""
    known = contact_names(shapes, model.family, model.contacts)
    return Port(id_, name, connector(model), signals(document, (*where, "signals"), texts, known), supplies_loop)


def part(document: Document, where: Where, entry: PartEntry, shapes: Shapes) -> Part:
    """A catalog part as a value."""
    made = ends(document, (*where, "ends"), entry.ends, shapes)
    wires = conductors(document, (*where, "conductors"), entry.conductors, made, shapes)
    return Part(entry.id, entry.name, made, wires, entry.length_m, entry.kind)


def ends(document: Document, where: Where, models: list[EndModel], shapes: Shapes) -> tuple[End, ...]:
    """The ends of a part."""
    made = []
    for i, model in enumerate(models):
        known = contact_names(shapes, model.family, model.contacts)
        made.append(End(connector(model), signals(document, (*where, i, "signals"), model.signals, known)))
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
            if contact.contact not in known[contact.end]:
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
