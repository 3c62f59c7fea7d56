"""Making and changing links: the document `link/1` is the truth, every change makes a new one."""

import msgspec

from humble_courier.app.port.opening import address_of
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkModel, LinkPart, LinkPort, LinkSettings
from humble_courier.documents.link_changes import with_settings
from humble_courier.domain.text import Terminator
from humble_courier.procedures.device_search.found import Found


def as_found(here: Link, found: Found) -> LinkModel:
    """A link with what a search has found: port, settings of both ends, the end of lines, the unit."""
    model = with_settings(here.model, computer=found.settings, device=found.settings)
    ends = {one.spoken: one.value for one in Terminator}
    # A simulated port is searched with its bench behind its name.
    address = here.address if here.address and found.address == address_of(here) else found.address
    return msgspec.structs.replace(
        model, address=address, unit=found.unit if found.unit is not None else model.unit, end=ends.get(found.end, model.end)
    )


def new_link(device: str, parts: list[str], address: str | None, catalog: Catalog) -> LinkModel:
    """A first link to a catalog device (or port); the computer's settings are those of the sheet."""
    first = catalog.part(parts[0]) if parts else None
    usb = first is not None and first.ends[0].connector.family == "USB-A"
    known = catalog.has_sheet(device)
    settings = catalog.device(device).port.settings if known else "9600,8N1"
    return LinkModel(
        courier="link/1",
        computer=LinkPort(port="usb-a" if usb else "dte-de9"),
        device=LinkPort(device=device) if known else LinkPort(port=device),
        chain=[LinkPart(part=part) for part in parts],
        settings=LinkSettings(computer=settings),
        address=address,
    )
