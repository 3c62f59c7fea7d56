"""Making and changing links: the document `link/1` is the truth, every change makes a new one."""

from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkModel, LinkPart, LinkPort, LinkSettings


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
