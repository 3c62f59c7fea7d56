"""The document `kit/1`: what is in the bag, each item as a part with its count, cost and history."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from humble_courier.catalog import resolve
from humble_courier.catalog.load import Catalog, nearest
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.documents.reader import Document, convert, parse_kind, read_text
from humble_courier.domain.hardware import Part
from humble_courier.errors import BadInput


@dataclass(frozen=True)
class KitPart:
    """An item of the kit with its part looked up."""

    item: KitItem
    part: Part


def read_kit(path: Path, catalog: Catalog) -> list[KitPart]:
    """Read a kit file; raises BadInput with file, line and what was expected."""
    return kit_from_text(read_text(path), str(path), catalog)


def kit_from_text(text: str, name: str, catalog: Catalog) -> list[KitPart]:
    """Read a kit from YAML (or JSON) text; `name` stands in error messages."""
    document = parse_kind(text, name, "kit/1")
    return resolve_kit(convert(document, KitModel), catalog, document)


def resolve_kit(model: KitModel, catalog: Catalog, document: Document | None = None) -> list[KitPart]:
    """Look up the parts of a kit; raises BadInput at the line of what is unknown."""
    document = document or Document("kit", None)
    return [KitPart(item, _part(document, ("items", i), item, catalog, i)) for i, item in enumerate(model.items)]


def _part(document: Document, where: tuple[Any, ...], item: KitItem, catalog: Catalog, i: int) -> Part:
    if (item.part is None) == (item.ends is None):
        raise document.error("an item: expected part: with a catalog id, or id: and ends: written out", where)
    if item.wire is not None and item.wire not in catalog.wires:
        raise document.error(f"unknown wire “{item.wire}”{nearest(item.wire, list(catalog.wires))}", (*where, "wire"))
    if item.part is None:
        return resolve.own_part(document, where, item, item.id or f"item-{i + 1}", catalog.shapes)
    try:
        part = catalog.part(item.part)
    except BadInput as error:
        raise error if error.file else document.error(error.text, (*where, "part")) from None
    return resolve.with_resistors(part, item)
