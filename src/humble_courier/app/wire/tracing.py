"""The wiring of a link, judged."""

from dataclasses import dataclass
from pathlib import Path

from humble_courier.app.wire.wire_map import WireMap, sentence, wire_map
from humble_courier.catalog.links import Link, read_link, resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkModel
from humble_courier.domain.settings import Handshake
from humble_courier.wiring.length import Around
from humble_courier.wiring.nets import Chain
from humble_courier.wiring.trace import Trace, trace


def trace_link(link: Link, catalog: Catalog) -> Trace:
    """The wiring of a link judged, with the handshakes that its settings ask for."""
    chain = Chain(link.computer, link.parts, link.device)
    return trace(chain, catalog.levels, asked_handshakes(link), around(link, catalog))


def around(link: Link, catalog: Catalog) -> Around:
    """By what the lengths of a link are judged: the catalog's rules, its site, the rate of its settings."""
    settings = link.computer_settings or link.device_settings
    return Around(catalog.lengths, catalog.wires, link.site, settings.rate if settings else None)


def asked_handshakes(link: Link) -> frozenset[Handshake]:
    """The handshakes that either end is set to."""
    ends = (link.computer_settings, link.device_settings)
    return frozenset(end.handshake for end in ends if end is not None and end.handshake is not Handshake.NONE)


def preview(model: LinkModel, catalog: Catalog) -> WireMap:
    """The wiring of a link that is not made yet."""
    return wire_map(trace_link(resolve_link(model, catalog), catalog))


@dataclass(frozen=True)
class Traced:
    """A link file with its wiring judged, in a sentence and a reason."""

    link: Link
    trace: Trace
    headline: str
    reason: str


def trace_file(path: Path, catalog: Catalog) -> Traced:
    """Read a link file and judge its wiring. Raises BadInput with file and line."""
    link = read_link(path, catalog)
    found = trace_link(link, catalog)
    return Traced(link, found, *sentence(found))
