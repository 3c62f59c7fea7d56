"""The records as a file."""

from pathlib import Path
from typing import TYPE_CHECKING

import msgspec

from humble_courier.app.files import write_whole
from humble_courier.documents.records import Export
from humble_courier.errors import BadInput

if TYPE_CHECKING:
    from humble_courier.records.store import Store


def write_records(store: "Store", path: Path) -> Export:
    """All records as `records/1`; returns what was written."""
    document = store.export()
    write_whole(path, msgspec.json.format(msgspec.json.encode(document), indent=2) + b"\n")
    return document


def open_records(folder: Path) -> "Store":
    """The records of a folder, which must be there already. Raises BadInput and MachineRefused."""
    from humble_courier.records.store import FILE, Store

    if not (folder / FILE).exists():
        raise BadInput("there are no records yet", file=folder / FILE)
    return Store(folder)


def records_if_any(folder: Path) -> "Store | None":
    """The records of a folder; None where there are none: a question makes none. Raises MachineRefused."""
    from humble_courier.records.store import FILE, Store

    return Store(folder) if (folder / FILE).exists() else None
