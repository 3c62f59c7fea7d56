"""Making and changing links: the document `link/1` is the truth, every change makes a new one."""

import msgspec

from humble_courier.app.wiremap import WireMap, wire_map
from humble_courier.catalog.links import Link, resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.models import LinkModel, LinkPart, LinkPort, LinkSettings
from humble_courier.units.settings import Handshake, Settings
from humble_courier.wiring.findings import Severity, Verdict
from humble_courier.wiring.length import Around
from humble_courier.wiring.nets import Chain
from humble_courier.wiring.trace import Trace, trace

_ORDER = list(Verdict)


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


def yaml_text(model: LinkModel) -> str:
    """The document as YAML for a file."""
    import yaml

    return yaml.safe_dump(msgspec.to_builtins(model), sort_keys=False, allow_unicode=True)


def better_chain(model: LinkModel, catalog: Catalog) -> tuple[LinkModel, str] | None:
    """One change of the chain that makes it work, with the sentence that says it; None where no single change does.

    Every catalog part is tried in place of each passive part, then as an addition; each try is traced. A replacement
    that keeps the number of joints is preferred, then the fewest conductors (product decision: as few as serve).
    """
    now = trace_link(resolve_link(model, catalog), catalog)
    if now.verdict in (Verdict.WORKS, Verdict.WITHOUT_HANDSHAKE) and not any(
        f.severity is Severity.HANDSHAKE for f in now.findings
    ):
        return None
    tries: list[tuple[tuple[int, int, int], LinkModel, str]] = []
    passive = [id_ for id_, entry in catalog.part_entries.items() if entry.kind != "usb-adapter"]
    for id_ in passive:
        part = catalog.part(id_)
        for i, old in enumerate(model.chain):
            if old.part in passive and old.part != id_:
                changed = with_part(model, i, id_)
                text = f"Take the {_lower(part.name)} in place of the {_lower(catalog.part(old.part or id_).name)}."
                _try(tries, changed, text, 0, len(part.conductors), catalog)
        added = with_inserted(model, len(model.chain), id_)
        _try(tries, added, f"Put the {_lower(part.name)} before the device.", 1, len(part.conductors), catalog)
    best = min(tries, key=lambda one: one[0], default=None)
    if best is None or best[0][0] >= _ORDER.index(now.verdict):
        return None
    return best[1], best[2]


def _try(tries: list[tuple[tuple[int, int, int], LinkModel, str]], model: LinkModel, text: str, joints: int,
         wires: int, catalog: Catalog) -> None:  # fmt: skip
    verdict = trace_link(resolve_link(model, catalog), catalog).verdict
    if verdict in (Verdict.WORKS, Verdict.WITHOUT_HANDSHAKE):
        tries.append(((_ORDER.index(verdict), joints, wires), model, text))


def _lower(name: str) -> str:
    return name if name[:2].isupper() else name[0].lower() + name[1:]
