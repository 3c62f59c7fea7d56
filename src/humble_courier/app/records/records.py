"""The records as the window needs them: which links there are, the one that was left open, the bag, what goes out."""

import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec

from humble_courier.app.kit.bag import Bag
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.port.opening import is_simulated
from humble_courier.app.port.profiles import link_at
from humble_courier.app.records.backup import FOLDER, back_up
from humble_courier.app.records.deciding import decided
from humble_courier.app.records.export import write_records
from humble_courier.app.records.history_document import LAST_PROOF, compare
from humble_courier.app.records.link_list import LinkList
from humble_courier.app.records.link_list import ListedLink as ListedLink
from humble_courier.app.records.link_list import Sorted as Sorted
from humble_courier.app.records.merge_file import Whose, merge_file, read_export
from humble_courier.app.records.report import Paper, handover, report
from humble_courier.app.records.searching import FoundRow, is_day, search, without_day
from humble_courier.app.records.things import Thing, things, uses
from humble_courier.app.today.kept_day import TodayPlan
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkModel, LinkPort
from humble_courier.documents.records import Export, KeptLink, Proof
from humble_courier.errors import BadInput
from humble_courier.host.kinds import HostPort
from humble_courier.port.authority import Authority
from humble_courier.records.in_step import Marks
from humble_courier.records.in_use import InUse
from humble_courier.records.merging import BothChanged

if TYPE_CHECKING:
    from humble_courier.records.store import Store

CURRENT, PLACE = "current-link", "place"  # under which the records keep what was left open
NAMELESS = "Link without a name"
STALE_DAYS = 90  # after which a link that was never proven is left over
SEARCHES, MOST_SEARCHES = "searches", 20  # under which kept searches are, and how many


@dataclass(frozen=True)
class MergeTold:
    """What came of a merge: pieces that were new, links that were the same, links changed on both sides."""

    taken: int
    same: int
    conflicts: list[BothChanged]

    @property
    def both(self) -> list[str]:
        """Names of the links that were changed on both sides."""
        return [one.ours.name for one in self.conflicts]


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
        self._list = LinkList(store)
        self._merged: tuple[Marks, Marks] | None = None
        self._removed: list[KeptLink] = []
        self._things: tuple[tuple[int, int], list[Thing]] = ((-1, -1), [])

    def report(self, ids: Sequence[str], catalog: Catalog) -> Paper:
        """A report over these links, for paper. Raises BadInput for none."""
        return report(self._store, ids, catalog)

    def handover(self, link_id: str, catalog: Catalog) -> Paper:
        """All that a colleague needs to go on with a link, for paper. Raises BadInput where it cannot be read."""
        return handover(self._store, link_id, catalog)

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

    def open(
        self, link_id: str, catalog: Catalog, changed: Callable[[], None] = lambda: None, authority: Authority | None = None,
    ) -> OpenLink:  # fmt: skip
        """Open a link; raises BadInput where there is no such one, or its document names what is not there."""
        return OpenLink(catalog, self._store, link_id, self.bag, changed, authority)

    def add(self, model: LinkModel, name: str) -> str:
        """Keep a new link; returns its id."""
        return self._store.save_link(model, name or NAMELESS)

    def listed(self, words: str = "", by: Sorted = Sorted.WORKED_ON) -> list[ListedLink]:
        """The links in which all words stand (in name, device or port, or in what is kept of them), sorted."""
        bare, day = without_day(words)
        within = {one.link_id for one in self.found(words)}
        shown = self._list.listed(bare, by, within)
        return shown if day is None or not is_day(day) else [one for one in shown if one.id in within or not bare]

    def link_at(self, port: HostPort) -> tuple[str, str] | None:
        """Id and name of the link that was last opened with the adapter of this port; None where there is none."""
        return link_at(self._store, port)

    def stale(self, now: float, days: int = STALE_DAYS) -> list[ListedLink]:
        """Links that were never proven, and not touched for so many days."""
        return [one for one in self.listed() if one.proven is None and one.at < now - days * 86_400]

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
        bare, day = without_day(words)
        if day is not None and not is_day(day):
            return []  # it is being typed still
        return search(self._store, words) if any(letter.isalnum() for letter in bare) else []

    def merge(self, path: Path) -> MergeTold:
        """Take in the records of another laptop; a copy of these is made before. Raises BadInput and MachineRefused."""
        read_export(path)  # before anything is done
        folder = self._store.path.parent
        back_up(folder, folder / FOLDER / f"before-merge-{time.strftime('%Y%m%d-%H%M%S')}.zip")
        before = self._store.marks()
        merged = merge_file(self._store, path).merged
        self._merged = (before, self._store.marks())
        return MergeTold(merged.taken, merged.same, merged.conflicts)

    def decide(self, conflict: BothChanged, chosen: Mapping[str, Whose]) -> None:
        """Let the chosen pieces of a link that was changed on both sides hold. Raises BadInput."""
        document, name = decided(conflict, chosen)
        self._store.save_link(document, name, conflict.link_id)

    @property
    def merge_can_go(self) -> bool:
        """Whether a merge was made since the program was started, and not taken back."""
        return self._merged is not None

    def take_merge_back(self) -> int:
        """Everything that the last merge brought goes again; what came since then stays. Raises BadInput for none."""
        if self._merged is None:
            raise BadInput("no records were taken in since the program was started")
        gone = self._store.take_back(*self._merged)
        self._merged = None
        return gone

    @property
    def searches(self) -> list[str]:
        """Words that were kept to search for again, the newest first."""
        return self._store.struct(SEARCHES, list[str]) or []

    def keep_search(self, words: str) -> None:
        """Keep words to search for again; those that are kept already go. Raises BadInput for none."""
        if not words.strip():
            raise BadInput("type the words first, as in: ridge 4800")
        others = [one for one in self.searches if one != words.strip()]
        kept = others if len(others) < len(self.searches) else [words.strip(), *others]
        self._store.remember(SEARCHES, msgspec.json.encode(kept[:MOST_SEARCHES]).decode())

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
