"""The document `link/1`: one computer port, the parts between, one device port, the settings at both ends."""

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from msgspec import structs

from humble_courier.catalog import resolve
from humble_courier.catalog.load import Catalog, nearest
from humble_courier.catalog.sheets import as_it_is
from humble_courier.documents.device import DeviceEntry
from humble_courier.documents.link import LinkModel, LinkPart, LinkPort
from humble_courier.documents.reader import Document, convert, parse_kind, read_text
from humble_courier.domain.hardware import LEAD, Part, Port, Site
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput


@dataclass(frozen=True)
class Link:
    """A link with all its ids looked up. `model` is the document it came from."""

    name: str
    computer: Port
    parts: tuple[Part, ...]
    device: Port
    computer_settings: Settings | None
    device_settings: Settings | None
    sheet: DeviceEntry | None
    address: str | None
    site: Site
    model: LinkModel

    @property
    def end(self) -> Terminator | None:
        """How lines of the device end: as it was found to want it, else as its sheet says; None where nobody knows."""
        said = self.model.end or (self.sheet.end if self.sheet is not None else None)
        return Terminator(said) if said is not None else None


def read_link(path: Path, catalog: Catalog) -> Link:
    """Read a link file; raises BadInput with file, line and what was expected."""
    return link_from_text(read_text(path), str(path), catalog)


def link_from_text(text: str, name: str, catalog: Catalog) -> Link:
    """Read a link from YAML (or JSON) text; `name` stands in error messages."""
    document = parse_kind(text, name, "link/1")
    return resolve_link(convert(document, LinkModel), catalog, document)


def resolve_link(model: LinkModel, catalog: Catalog, document: Document | None = None) -> Link:
    """Look up all that a link names; raises BadInput at the line of what is unknown."""
    document = document or Document("link", None)
    computer, _ = _port(document, ("computer",), model.computer, catalog, "computer")
    device, sheet = _port(document, ("device",), model.device, catalog, "device")
    parts = tuple(_part(document, ("chain", i), entry, catalog, i) for i, entry in enumerate(model.chain))
    sheet_settings = Settings.parse(sheet.port.settings) if sheet else None
    return Link(
        name=model.name or device.name,
        computer=computer,
        parts=parts,
        device=device,
        computer_settings=_settings(document, "computer", model.settings.computer),
        device_settings=_settings(document, "device", model.settings.device) or sheet_settings,
        sheet=sheet,
        address=model.address,
        site=Site(**structs.asdict(model.line)),
        model=model,
    )


def _settings(document: Document, end: str, text: str | None) -> Settings | None:
    return resolve.check_settings(document, ("settings", end), text) if text is not None else None


def _at_line(document: Document, where: tuple[Any, ...], error: BadInput) -> BadInput:
    """The mistake at its place in this document, unless it already names another file."""
    return error if error.file else document.error(error.text, where)


def _port(
    document: Document, where: tuple[str, ...], entry: LinkPort, catalog: Catalog, role: str
) -> tuple[Port, DeviceEntry | None]:
    given = [key for key in ("port", "device", "connector") if getattr(entry, key) is not None]
    if len(given) != 1:
        raise document.error(f"{role}: expected one of port, device, or connector with signals", where)
    if entry.signals is not None and entry.connector is None:
        raise document.error(f"{role}: signals go with a connector written out here", (*where, "signals"))
    try:
        if entry.port is not None:
            return catalog.port(entry.port), None
        if entry.device is not None:
            sheet = as_it_is(catalog.device(entry.device), entry.variant, entry.socket)
            return replace(catalog.device_port(sheet), id=sheet.id), sheet
    except BadInput as error:
        raise _at_line(document, (*where, given[0]), error) from None
    assert entry.connector is not None
    texts = entry.signals or {}
    return resolve.port(document, where, role, f"{role} port", entry.connector, texts, catalog.shapes), None


def _part(document: Document, where: tuple[Any, ...], entry: LinkPart, catalog: Catalog, i: int) -> Part:
    if (entry.part is None) == (entry.ends is None):
        raise document.error("a part of the chain: expected part: with a catalog id, or ends: written out", where)
    if entry.wire is not None and entry.wire not in catalog.wires:
        raise document.error(f"unknown wire “{entry.wire}”{nearest(entry.wire, list(catalog.wires))}", (*where, "wire"))
    if entry.part is None:
        part = resolve.own_part(document, where, entry, entry.id or f"part-{i + 1}", catalog.shapes)
    else:
        part = _catalog_part(document, where, entry, entry.part, catalog)
    part = part.turned() if entry.turned else part
    return part if entry.lands is None else _landed(document, where, entry.lands, part)


def _catalog_part(document: Document, where: tuple[Any, ...], entry: LinkPart, id_: str, catalog: Catalog) -> Part:
    for key in ("conductors", "pairs"):
        if getattr(entry, key) is not None:
            raise document.error(f"{key} go with ends; a catalog part has its own", (*where, key))
    try:
        part = catalog.part(id_)
    except BadInput as error:
        raise _at_line(document, (*where, "part"), error) from None
    length = part.length_m if entry.length_m is None else entry.length_m
    return resolve.with_resistors(replace(part, length_m=length, wire=entry.wire or part.wire), entry)


def _landed(document: Document, where: tuple[Any, ...], lands: dict[str, str], part: Part) -> Part:
    """The part with its loose leads put into contacts; raises BadInput where it has none, or not of that colour."""
    at = next((i for i, end in enumerate(part.ends) if end.connector.family == LEAD), None)
    if at is None:
        raise document.error("lands: this part has no loose leads", (*where, "lands"))
    colours = {c.contact for wire in part.conductors for c in (wire.a, wire.b) if c.end == at} | set(part.ends[at].signals)
    for colour in lands:
        if colour not in colours:
            raise document.error(f"lands: no lead is {colour}; there are {', '.join(sorted(colours))}", (*where, "lands"))
    ends = list(part.ends)
    ends[at] = replace(ends[at], lands=dict(lands))
    return replace(part, ends=tuple(ends))
