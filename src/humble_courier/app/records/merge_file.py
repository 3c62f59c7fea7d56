"""Records of another laptop: a file of theirs read, taken in, and what stands against what is here."""

import hashlib
import zipfile
import zlib
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Any

import msgspec

from humble_courier.app.contents import FOLDER as FILES
from humble_courier.app.contents import Contents, is_content
from humble_courier.app.folders import RecordsAt
from humble_courier.app.records.backup import ENCRYPTED, METHODS
from humble_courier.app.records.export import RECORDS
from humble_courier.documents.records import Export
from humble_courier.errors import BadInput, MachineRefused
from humble_courier.records.merging import BothChanged as BothChanged
from humble_courier.records.merging import Merged, differing

if TYPE_CHECKING:
    from humble_courier.records.store import Store

LARGEST = 1 << 30  # bytes
ZIP = b"PK\x03\x04"  # with which a zip file begins (APPNOTE 4.3.7, from memory)


class Whose(StrEnum):
    """Whose version of a link holds where both were changed."""

    NEWEST = "newest"
    OURS = "ours"
    THEIRS = "theirs"


@dataclass(frozen=True)
class MergedFile:
    """What came of a file. `decided`: whose version holds in links that were changed on both sides."""

    merged: Merged
    decided: Whose

    @property
    def document(self) -> dict[str, Any]:
        """The document of `records merge`."""
        return {
            "taken": self.merged.taken, "same": self.merged.same, "links": self.merged.links, "decided": self.decided.value,
            "conflicts": [
                {"what": f"{conflict.ours.name}: {place}", "ours": ours, "theirs": theirs}
                for conflict in self.merged.conflicts for place, ours, theirs in differing(conflict)
            ],
        }  # fmt: skip


def read_export(path: Path) -> Export:
    """A `records/1` file, or a zip file of one. Raises BadInput where it is none, MachineRefused where it cannot be read."""
    try:
        if path.stat().st_size > LARGEST:
            raise BadInput(f"larger than {LARGEST >> 30} GB: export fewer links at once", file=path)
        text = path.read_bytes()
    except OSError as error:
        raise MachineRefused(f"{path} cannot be read: {error.strerror}", "See to its name and its permissions") from None
    if text[: len(ZIP)] == ZIP:
        text = packed(path, lambda name: name == RECORDS).get(RECORDS, b"")
    try:
        found = msgspec.json.decode(text, type=Export)
        for word in (word for kept in found.links for proof in kept.proofs for word in proof.words):
            bytes.fromhex(word.hex)
        return found
    except (msgspec.MsgspecError, RecursionError, ValueError) as error:
        raise BadInput(f"this is no file of records (records/1): {error}", file=path) from None


def packed(path: Path, wanted: Callable[[str], bool]) -> dict[str, bytes]:
    """Files of a zip file. Raises BadInput where it is none, a damaged one, or one that unpacks to too much."""
    try:
        with zipfile.ZipFile(path) as archive:
            entries = [one for one in archive.infolist() if wanted(one.filename) and not one.flag_bits & ENCRYPTED]
            if sum(one.file_size for one in entries) > LARGEST:
                raise BadInput(f"it would unpack to more than {LARGEST >> 30} GB", file=path)
            return {one.filename: archive.read(one) for one in entries if one.compress_type in METHODS}
    except (zipfile.BadZipFile, zlib.error, EOFError, OSError) as error:
        raise BadInput(f"this is no file of records, or a damaged one: {error}", file=path) from None


def take_files(store: "Store", path: Path) -> int:
    """Take in pictures and files that came along; returns how many are new. What is not what it says is left."""
    with path.open("rb") as file:
        if file.read(len(ZIP)) != ZIP:
            return 0
    contents, taken = Contents(store.path.parent), 0
    for name, data in packed(path, lambda name: name.startswith(f"{FILES}/")).items():
        id_ = name.removeprefix(f"{FILES}/")
        sound = is_content(id_) and hashlib.sha256(data).hexdigest() == id_[:64]
        if sound and not contents.path(id_).is_file():
            contents.put(data, id_[64:])
            taken += 1
    return taken


def merge_file(store: "Store", path: Path, side: Whose = Whose.NEWEST) -> "MergedFile":
    """Take in a file of records with what came along. Raises BadInput and MachineRefused; no link changed then."""
    theirs = read_export(path)
    take_files(store, path)
    return merge_export(store, theirs, side)


def merge_export(store: "Store", theirs: Export, side: Whose = Whose.NEWEST) -> MergedFile:
    """Take in the records of another laptop; nothing of either side is lost. Raises MachineRefused; nothing changed then."""
    merged = store.take(theirs.links)
    for conflict in merged.conflicts:
        decide(store, conflict, side)
    return MergedFile(merged, side)


def decide(store: "Store", conflict: BothChanged, side: Whose) -> None:
    """Let one side's version of a link hold: it is kept once more, as the newest."""
    wanted = {Whose.OURS: conflict.ours, Whose.THEIRS: conflict.theirs}.get(side)
    if wanted is None:
        return
    kept = store.kept(conflict.link_id)
    if kept is not None and kept[0] != wanted.document:
        store.save_link(wanted.document, wanted.name, conflict.link_id)


def check(store: "Store") -> dict[str, Any]:
    """The document of `records check`: what the database says of itself, and every row that cannot be read."""
    problems = [{"what": "database", "why": why} for why in store.damage()]
    export = store.export()
    problems += [{"what": row, "why": why} for row, why in store.left_out.items()]
    proofs = sum(len(link.proofs) for link in export.links)
    facts = sum(len(link.facts) for link in export.links)
    return {"ok": not problems, "problems": problems, "links": len(export.links), "proofs": proofs, "facts": facts}


def opened(at: RecordsAt) -> "Store":
    """Records, made where there are none yet. Raises MachineRefused."""
    from humble_courier.records.store import Store

    return Store(at.folder, at.url)
