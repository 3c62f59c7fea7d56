"""Beginning a link with what is seen: connectors by their faces, the devices and kinds that have such a one, ways there."""

from collections.abc import Iterator
from dataclasses import dataclass

import msgspec

from humble_courier.app.link.changes import new_link
from humble_courier.app.wire.proposals import Proposal, proposals
from humble_courier.catalog.entries import ShapeEntry
from humble_courier.catalog.links import resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.sheets import as_it_is
from humble_courier.documents.base import ConnectorModel
from humble_courier.documents.device import DeviceEntry
from humble_courier.documents.kit import KitModel
from humble_courier.documents.link import LinkModel, LinkPort, LinkSettings
from humble_courier.domain.facts import State
from humble_courier.errors import BadInput

USB_A = "usb-a"
# What is told apart at a glance: contacts of screws and pins are counted later, and any USB socket is one.
GROUPS = {"D-9": "9 contacts", "D-25": "25 contacts", "8P8C": "modular, 8", "terminal": "screws", "header": "pins",
          "USB": "USB", "round-9": "round, 9", "round-6": "round, 6", "J1962": "vehicle, 16", "mini-DIN": "small, round",
          "GPIB": "wide ribbon"}  # fmt: skip
UNKNOWN = "I do not know"
OTHER = "/"  # between a device and one of its other ports


@dataclass(frozen=True)
class SeenFace:
    """A connector that a device may have: its group and name, a shape of it to draw, and which halves are met."""

    group: str
    name: str
    shape: ShapeEntry
    genders: tuple[str, ...]


@dataclass(frozen=True)
class OfferedDevice:
    """A device sheet, a kind or a bare port with such a connector: `id` of it, how sure it is, what is said of it."""

    id: str
    name: str
    told: str
    state: State


def faces(catalog: Catalog) -> list[SeenFace]:
    """The connectors at which devices and ports of the catalog are met, the commonest families first."""
    met: dict[str, tuple[set[str], set[tuple[str, int]]]] = {}
    for connector, _, _ in _ports(catalog):
        genders, shapes = met.setdefault(group_of(connector), (set(), set()))
        genders.add(connector.gender)
        shapes.add((connector.family, connector.contacts))
    order = [*GROUPS, *sorted(set(met) - set(GROUPS))]
    known = {group: [key for key in sorted(met[group][1]) if key in catalog.shapes] for group in order if group in met}
    return [
        SeenFace(group, GROUPS.get(group, group), catalog.shapes[keys[0]], tuple(sorted(met[group][0])))
        for group, keys in known.items()
        if keys
    ]


def group_of(connector: ConnectorModel) -> str:
    """What a connector counts as at a glance."""
    if connector.family == "D":
        return f"D-{connector.contacts}"
    return "USB" if connector.family.startswith("USB") else connector.family.removesuffix("-2row")


def _ports(catalog: Catalog) -> Iterator[tuple[ConnectorModel, str, DeviceEntry | None]]:
    """Connector, id and sheet (None for a bare port) of all that is offered."""
    for id_ in catalog.device_ids():
        try:
            sheet = catalog.device(id_)
        except BadInput:
            continue  # spoiled by hand: the Devices page shows it with its reason
        yield sheet.port.connector, id_, sheet
        for other in sheet.other_ports:
            yield other.connector, f"{id_}{OTHER}{other.id}", as_it_is(sheet, socket=other.id)
    for id_, entry in catalog.port_entries.items():
        if id_ != USB_A and not id_.startswith("loopback"):
            yield entry.connector, id_, None


def candidates(catalog: Catalog, face: SeenFace | None, gender: str | None, words: str) -> list[OfferedDevice]:
    """What may stand behind such a connector, one's own devices first, at last the bare ports: nothing is known of those."""
    found: list[OfferedDevice] = []
    for connector, id_, sheet in _ports(catalog):
        if face is not None and group_of(connector) != face.group:
            continue
        if gender and gender != "either" and connector.gender not in (gender, "either"):
            continue
        if sheet is None:
            name = f"{UNKNOWN}: {catalog.port_entries[id_].name}"
            found.append(OfferedDevice(id_, name, "a guess by its shape; read it by meter, then listen", State.UNKNOWN))
        elif catalog.is_kind(sheet.id):
            told = f"kind · usually {sheet.port.settings} · {sheet.port.meant}"
            found.append(OfferedDevice(id_, _name(id_, sheet), told, State.ASSUMED))
        else:
            found.append(
                OfferedDevice(id_, _name(id_, sheet), f"sheet · {sheet.port.settings} · {sheet.port.meant}", State.PROVEN)
            )
    wanted = words.lower().split()
    kept = [one for one in found if all(word in f"{one.name} {one.told} {one.id}".lower() for word in wanted)]
    order = (State.PROVEN, State.ASSUMED, State.UNKNOWN)
    return sorted(kept, key=lambda one: order.index(one.state))


def ways(catalog: Catalog, kit: KitModel, device: str, own_port: bool = False) -> list[Proposal]:
    """How this computer gets there, by USB, or by a 9-contact port of its own."""
    begun = bare_link(catalog, device, own_port)
    return proposals(resolve_link(begun, catalog), kit, catalog)


def bare_link(catalog: Catalog, device: str, own_port: bool = False) -> LinkModel:
    """A link with nothing between."""
    id_, _, socket = device.partition(OTHER)
    model = new_link(id_, [], None, catalog)
    if socket:
        sheet = as_it_is(catalog.device(id_), socket=socket)
        there, settings = LinkPort(device=id_, socket=socket), LinkSettings(computer=sheet.port.settings)
        model = msgspec.structs.replace(model, device=there, settings=settings)
    return msgspec.structs.replace(model, computer=LinkPort(port="dte-de9" if own_port else USB_A))


def simulated_port(device: str) -> str:
    """The address of a simulated device, by one of its ports."""
    id_, _, socket = device.partition(OTHER)
    return f"sim://bench/{id_}" + (f"?socket={socket}" if socket else "")


def _name(id_: str, sheet: DeviceEntry) -> str:
    """A device with several ports is named with the one that is meant."""
    return f"{sheet.name}: {sheet.port.name}" if OTHER in id_ else sheet.name


def finished(way: LinkModel, address: str | None, settings: str | None) -> LinkModel:
    """The link as it is kept; `settings` of the last one like it, where there is one."""
    return msgspec.structs.replace(way, address=address, settings=LinkSettings(computer=settings or way.settings.computer))
