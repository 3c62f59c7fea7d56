"""The records as a file."""

import io
import zipfile
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec

from humble_courier.app.contents import FOLDER as FILES
from humble_courier.app.contents import Contents, is_content
from humble_courier.app.files import write_whole
from humble_courier.app.folders import RecordsAt
from humble_courier.app.link.kept_files import FILE
from humble_courier.documents.records import Export
from humble_courier.errors import BadInput

RECORDS = "records.json"  # within a zip file

if TYPE_CHECKING:
    from humble_courier.records.store import Store


def write_records(store: "Store", path: Path) -> Export:
    """All records as `records/1`; as a zip file (by its name) with all pictures and files. Returns what was written."""
    document = store.export()
    text = msgspec.json.format(msgspec.json.encode(document), indent=2) + b"\n"
    write_whole(path, text if path.suffix != ".zip" else _with_files(text, document, Contents(store.path.parent)))
    return document


def _with_files(text: bytes, document: Export, contents: Contents) -> bytes:
    wanted = {
        fact.subject.removeprefix(FILE) for kept in document.links for fact in kept.facts if fact.subject.startswith(FILE)
    }
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(RECORDS, text)
        for name in sorted(wanted):
            if is_content(name) and contents.path(name).is_file():
                archive.writestr(f"{FILES}/{name}", contents.path(name).read_bytes())
    return packed.getvalue()


def open_records(at: RecordsAt) -> "Store":
    """Records, which must be there already. Raises BadInput and MachineRefused."""
    from humble_courier.records.store import FILE, Store

    if not at.url and not (at.folder / FILE).exists():
        raise BadInput("there are no records yet", file=at.folder / FILE)
    return Store(at.folder, at.url)


def records_if_any(at: RecordsAt) -> "Store | None":
    """Records; None where there are none: a question makes none. Raises MachineRefused."""
    from humble_courier.records.store import FILE, Store

    return Store(at.folder, at.url) if at.url or (at.folder / FILE).exists() else None
