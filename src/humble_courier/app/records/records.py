"""The records as the window needs them: which links there are, the one that was left open, the bag, what goes out."""

import time
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec

from humble_courier.app.kit.bag import Bag
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.port.opening import is_simulated
from humble_courier.app.records.backup import FOLDER, back_up
from humble_courier.app.records.export import write_records
from humble_courier.app.records.history_document import LAST_PROOF, compare
from humble_courier.app.records.merge_file import merge_file, read_export
from humble_courier.app.records.searching import FoundRow, search
from humble_courier.app.records.things import Thing, things, uses
from humble_courier.app.today.kept_day import TodayPlan
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkModel, LinkPort
from humble_courier.documents.records import Export, KeptLink, Proof
from humble_courier.errors import BadInput
from humble_courier.records.in_use import InUse

if TYPE_CHECKING:
    from humble_courier.records.store import Store

CURRENT, PLACE = "current-link", "place"  # under which the records keep what was left open
NAMELESS = "Link without a name"


class Sorted(StrEnum):
    """By what links are sorted."""

    WORKED_ON = "worked on last"
    NAME = "by name"
    PROVEN = "proven last"


@dataclass(frozen=True)
class ListedLink:
    """A link as a list shows it; `proven`: when it was last, in seconds since the epoch."""

    id: str
    name: str
    device: str
    address: str
    proven: float | None


@dataclass(frozen=True)
class MergeTold:
    """What came of a merge: pieces that were new, links that were the same, names of links changed on both sides."""

    taken: int
    same: int
    both: list[str]


def proof_line(proof: Proof) -> str:
    """A proof in a line."""
    told = ", ".join(f"{name} {value}" for name, value in proof.identity.items())
    return f"{proof.kind}: {told or proof.reason}, through {' – '.join(proof.chain)} at {proof.computer_settings}"


class Records:
    """Open records. Every method raises MachineRefused where the disk or the database refuses."""

    def __init__(self, store: "Store") -> None:
        self._store = store
        self.bag = Bag(store)
        self.today = TodayPlan(store, self.bag)
        self._in_use = InUse(store.path.parent)
        self._removed: list[KeptLink] = []
        self._things: tuple[tuple[int, int], list[Thing]] = ((-1, -1), [])

    @property
    def folder(self) -> Path:
        """The folder in which all of it lives."""
        return self._store.path.parent

    def links(self) -> list[tuple[str, str]]:
        """Id and name of all links, the newest first."""
        return self._store.links()

    def simulated(self) -> list[str]:
        """Addresses of the simulated ports that its links use."""
        models = (model for _, _, model in self._store.models())
        return list(dict.fromkeys(m.address for m in models if m is not None and m.address and is_simulated(m.address)))

    def settings_of_last_like(self, device: LinkPort) -> str | None:
        """How the computer's end was set for the newest link to the same device or kind; None where there is none."""
        models = (model for _, _, model in self._store.models())
        alike = (m for m in models if m is not None and (m.device.device or m.device.port) == (device.device or device.port))
        last = next(alike, None)
        return last.settings.computer if last is not None else None

    def left_open(self) -> str | None:
        """The link that was on the line when the program ended; None where there is none."""
        link_id = self._store.setting(CURRENT)
        return link_id if link_id is not None and self._store.link(link_id) is not None else None

    @property
    def place(self) -> str | None:
        """The place on the line that was open."""
        return self._store.setting(PLACE)

    def remember_place(self, place: str) -> None:
        """Keep which place on the line is open."""
        if not self._store.read_only:
            self._store.remember(PLACE, place)

    def open(self, link_id: str, catalog: Catalog, changed: Callable[[], None] = lambda: None) -> OpenLink:
        """Open a link; raises BadInput where there is no such one, or its document names what is not there."""
        return OpenLink(catalog, self._store, link_id, self.bag, changed)

    def add(self, model: LinkModel, name: str) -> str:
        """Keep a new link; returns its id."""
        return self._store.save_link(model, name or NAMELESS)

    def listed(self, words: str = "", by: Sorted = Sorted.WORKED_ON) -> list[ListedLink]:
        """The links in which all words stand (in name, device or port, or in what is kept of them), sorted."""
        proven, within = self._store.last_proofs(), {one.link_id for one in self.found(words)}
        found = []
        for link_id, name, model in self._store.models():
            device = (model.device.device or model.device.port or "") if model is not None else "cannot be read"
            one = ListedLink(link_id, name, device, (model.address or "") if model is not None else "", proven.get(link_id))
            named = all(word in f"{one.name} {one.device} {one.address}".lower() for word in words.lower().split())
            if named or link_id in within:
                found.append(one)
        if by is Sorted.NAME:
            return sorted(found, key=lambda one: one.name.lower())
        if by is Sorted.PROVEN:
            return sorted(found, key=lambda one: -(one.proven or 0.0))
        return found

    def document(self, link_id: str) -> LinkModel:
        """A link as a document, with its name. Raises BadInput where it cannot be read."""
        kept = self._store.whole(link_id)
        if kept is None:
            raise BadInput("this link cannot be read; export the records, and look at what is left out")
        return msgspec.structs.replace(kept.document, name=kept.name)

    def rename(self, link_id: str, name: str) -> None:
        """Another name. Raises BadInput for none."""
        if not name.strip():
            raise BadInput("a link needs a name, as in Weir, level logger")
        self._store.rename(link_id, name.strip())

    def duplicate(self, link_id: str) -> str:
        """A link like this one, without its proofs; returns its id. Raises BadInput where there is none."""
        kept = self._store.whole(link_id)
        if kept is None:
            raise BadInput("this link cannot be read, so it cannot be doubled")
        return self._store.save_link(kept.document, f"{kept.name} (copy)")

    def remove(self, link_id: str) -> str:
        """Take a link out with its proofs; returns its name. It can be put back as long as the program runs."""
        kept = self._store.remove(link_id)
        if kept is None:
            raise BadInput("this link cannot be read; export the records, and look at what is left out")
        self._removed.append(kept)
        return kept.name

    def put_back(self) -> str:
        """The link that was taken out last; returns its id. Raises BadInput where there is none."""
        if not self._removed:
            raise BadInput("no link was taken out since the program was started")
        kept = self._removed.pop()
        self._store.put_back(kept)
        return kept.id

    @property
    def taken_out(self) -> list[str]:
        """Names of links that can be put back, the last one at the end."""
        return [kept.name for kept in self._removed]

    def proofs(self, link_id: str) -> list[Proof]:
        """All proofs of a link, oldest first."""
        return self._store.proofs(link_id)

    def story(self, link_id: str) -> list[tuple[float, bool, str]]:
        """What became of a link over time: when, whether it was proven, and what was said; oldest first."""
        proofs = [(proof.at, True, proof_line(proof)) for proof in self._store.proofs(link_id)]
        failed = [(f.at, False, f.text) for f in self._store.facts(link_id) if not f.holds and f.subject == "failure"]
        return sorted([*proofs, *failed])

    def since_last_proof(self, link_id: str, catalog: Catalog) -> str:
        """What changed since a link last worked, in a sentence; empty where nothing did, or it was never proven."""
        try:
            return str(compare(self._store, catalog, link_id, LAST_PROOF)["told"])
        except BadInput:
            return ""

    @property
    def things_are_new(self) -> bool:
        """Whether a proof or a failure came since things were reckoned."""
        return self._things[0] != self._store.failing()

    @property
    def things(self) -> list[Thing]:
        """What each adapter, cable and device did, as it was last reckoned."""
        return self._things[1]

    def reckon_things(self) -> None:
        """Reckon that anew: seconds where there are many proofs, so beside the window."""
        key = self._store.failing()
        self._things = (key, things(uses(self._store.past())))

    def found(self, words: str) -> list[FoundRow]:
        """Where words stand; nothing where none are said."""
        return search(self._store, words) if any(letter.isalnum() for letter in words) else []

    def merge(self, path: Path) -> MergeTold:
        """Take in the records of another laptop; a copy of these is made before. Raises BadInput and MachineRefused."""
        read_export(path)  # before anything is done
        folder = self._store.path.parent
        back_up(folder, folder / FOLDER / f"before-merge-{time.strftime('%Y%m%d-%H%M%S')}.zip")
        merged = merge_file(self._store, path).merged
        return MergeTold(merged.taken, merged.same, [one.ours.name for one in merged.conflicts])

    def back_up(self, path: Path) -> int:
        """A copy of everything in one file; returns its bytes."""
        return back_up(self._store.path.parent, path)

    def write(self, path: Path) -> Export:
        """All records as one file; returns what was written."""
        return write_records(self._store, path)

    @property
    def marks(self) -> list[str]:
        """What stands in the way of keeping things, in a few words each."""
        looked_at = ["records may only be looked at"] if self._store.read_only else []
        return looked_at + (["open in another window too"] if self._in_use.elsewhere else [])

    @property
    def left_out(self) -> dict[str, str]:
        """Rows that could not be read so far, with the reason."""
        return self._store.left_out

    def close(self) -> None:
        """Let go of the file."""
        self._in_use.close()
        self._store.close()
