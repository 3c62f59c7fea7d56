"""What can be picked: adapters, cables and adapters between, devices, as (id, name)."""

from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput

Choice = tuple[str, str]


def adapters(catalog: Catalog) -> list[Choice]:
    """What goes into the computer; the empty id is a serial port of the computer itself."""
    usb = [(id_, e.name) for id_, e in catalog.part_entries.items() if e.kind == "usb-adapter"]
    return [*usb, ("", "none: the computer has a 9-contact port")]


def between(catalog: Catalog) -> list[Choice]:
    """Passive parts: cables, adapters, gender changers."""
    return [(id_, e.name) for id_, e in catalog.part_entries.items() if e.kind != "usb-adapter"]


def devices(catalog: Catalog) -> list[Choice]:
    """Device sheets, then bare kinds of ports."""
    sheets = [(id_, name) for id_, name, readable in sheet_names(catalog) if readable]
    return [*sheets, *((id_, f"{e.name} (no sheet)") for id_, e in catalog.port_entries.items() if id_ != "usb-a")]


def sheet_names(catalog: Catalog) -> list[tuple[str, str, bool]]:
    """Device sheets as (id, name, whether it can be read): one's own may have been spoiled by hand."""
    found = []
    for id_ in catalog.device_ids():
        try:
            found.append((id_, catalog.device(id_).name, True))
        except BadInput:
            found.append((id_, f"{id_} (cannot be read)", False))
    return found
