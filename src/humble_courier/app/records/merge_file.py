"""Records of another laptop: a file of theirs read, taken in, and what stands against what is here."""

from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Any

import msgspec

from humble_courier.documents.records import Export
from humble_courier.errors import BadInput, MachineRefused
from humble_courier.records.merging import BothChanged, Merged, differing

if TYPE_CHECKING:
    from humble_courier.records.store import Store

LARGEST = 1 << 30  # bytes


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
    """A `records/1` file. Raises BadInput where it is none, MachineRefused where it cannot be read."""
    try:
        if path.stat().st_size > LARGEST:
            raise BadInput(f"larger than {LARGEST >> 30} GB: export fewer links at once", file=path)
        text = path.read_bytes()
    except OSError as error:
        raise MachineRefused(f"{path} cannot be read: {error.strerror}", "See to its name and its permissions") from None
    try:
        found = msgspec.json.decode(text, type=Export)
        for word in (word for kept in found.links for proof in kept.proofs for word in proof.words):
            bytes.fromhex(word.hex)
        return found
    except (msgspec.MsgspecError, RecursionError, ValueError) as error:
        raise BadInput(f"this is no file of records (records/1): {error}", file=path) from None


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


def opened(folder: Path) -> "Store":
    """The records of a folder, made where there are none yet. Raises MachineRefused."""
    from humble_courier.records.store import Store

    return Store(folder)
