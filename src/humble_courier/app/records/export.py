"""Records and files: written whole or not at all."""

from pathlib import Path
from typing import TYPE_CHECKING

import msgspec

from humble_courier.errors import MachineRefused

if TYPE_CHECKING:
    from humble_courier.records.store import Store


def write_whole(path: Path, data: bytes) -> None:
    """Write a file; a full disk leaves the old one as it was. Raises MachineRefused."""
    part = path.with_name(path.name + ".part")
    try:
        part.write_bytes(data)
        part.replace(path)
    except OSError as error:
        part.unlink(missing_ok=True)
        raise MachineRefused(f"{path} cannot be written: {error.strerror}", "Choose another place") from None


def write_records(store: "Store", path: Path) -> int:
    """All records as `records/1`; returns how many links."""
    document = store.export()
    write_whole(path, msgspec.json.format(msgspec.json.encode(document), indent=2) + b"\n")
    return len(document.links)
