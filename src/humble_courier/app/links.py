"""Making and changing links: the document `link/1` is the truth, every change makes a new one."""

import msgspec

from humble_courier.app.wiremap import WireMap, wire_map
from humble_courier.catalog.links import Link, resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.models import LinkModel, LinkPart, LinkPort, LinkSettings
from humble_courier.units.settings import Handshake, Settings
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


def new_link(device: str, parts: list[str], address: str | None, catalog: Catalog) -> LinkModel:
    """A first link to a catalog device (or port); the computer's settings are those of the sheet."""
    first = catalog.part(parts[0]) if parts else None
    usb = first is not None and first.ends[0].connector.family == "USB-A"
    settings = catalog.device(device).port.settings if device in catalog.device_ids() else "9600,8N1"
    return LinkModel(
        courier="link/1",
        computer=LinkPort(port="usb-a" if usb else "dte-de9"),
        device=LinkPort(device=device) if device in catalog.device_ids() else LinkPort(port=device),
        chain=[LinkPart(part=part) for part in parts],
        settings=LinkSettings(computer=settings),
        address=address,
    )


def preview(model: LinkModel, catalog: Catalog) -> WireMap:
    """The wiring of a link that is not made yet."""
    return wire_map(trace_link(resolve_link(model, catalog), catalog))


def with_part(model: LinkModel, index: int, part: str | None) -> LinkModel:
    """Another part at `index` of the chain (beyond the end: added); None takes it out."""
    chain = list(model.chain)
    chain[index : index + 1] = [LinkPart(part=part)] if part else []
    return msgspec.structs.replace(model, chain=chain)


def with_link_part(model: LinkModel, index: int, part: LinkPart) -> LinkModel:
    """Another part at `index`, be it of the catalog or written out."""
    chain = list(model.chain)
    chain[index] = part
    return msgspec.structs.replace(model, chain=chain)


def with_inserted(model: LinkModel, index: int, part: str) -> LinkModel:
    """A part put in before `index`."""
    chain = list(model.chain)
    chain.insert(index, LinkPart(part=part))
    return msgspec.structs.replace(model, chain=chain)


def with_settings(model: LinkModel, *, computer: Settings | None = None, device: Settings | None = None) -> LinkModel:
    """Other settings at one end or both."""
    settings = LinkSettings(
        computer=str(computer) if computer else model.settings.computer,
        device=str(device) if device else model.settings.device,
    )
    return msgspec.structs.replace(model, settings=settings)


def yaml_text(model: msgspec.Struct) -> str:
    """The document as YAML for a file."""
    import yaml

    return yaml.safe_dump(msgspec.to_builtins(model), sort_keys=False, allow_unicode=True)
