"""The links as a list: read once, and then only those of which something came; fluent with many thousands."""

from dataclasses import dataclass
from enum import StrEnum
from typing import TYPE_CHECKING

from humble_courier.documents.link import LinkModel
from humble_courier.records.in_step import Marks

if TYPE_CHECKING:
    from humble_courier.records.store import Store

MOST_AT_ONCE = 200  # links that are read one by one; where more have changed, all are read


class Sorted(StrEnum):
    """By what links are sorted."""

    WORKED_ON = "worked on last"
    NAME = "by name"
    PROVEN = "proven last"


@dataclass(frozen=True)
class ListedLink:
    """A link as a list shows it; `proven`: when it was last, in seconds since the epoch. `at`: when it was changed."""

    id: str
    name: str
    device: str
    address: str
    proven: float | None
    at: float = 0.0

    @property
    def searched(self) -> str:
        """What words are looked for in."""
        return f"{self.name} {self.device} {self.address}".lower()


class LinkList:
    """All links of the records, in step with what is written."""

    def __init__(self, store: "Store") -> None:
        self._store = store
        self._seen: tuple[Marks, int] | None = None
        self._links: dict[str, ListedLink] = {}

    def listed(self, words: str, by: Sorted, within: set[str]) -> list[ListedLink]:
        """Those in which all words stand, or that are in `within`, sorted."""
        self._follow()
        wanted = words.lower().split()
        found = [one for one in self._links.values() if one.id in within or all(word in one.searched for word in wanted)]
        if by is Sorted.NAME:
            return sorted(found, key=lambda one: (one.name.lower(), -one.at, one.id))
        if by is Sorted.PROVEN:
            return sorted(found, key=lambda one: (-(one.proven or 0.0), -one.at, one.id))
        return sorted(found, key=lambda one: (-one.at, one.id))

    def _follow(self) -> None:
        now = (self._store.marks(), self._store.count())
        if now == self._seen:
            return
        touched = self._store.touched(self._seen[0]) if self._seen is not None and now[1] == self._seen[1] else None
        if touched is None or len(touched) > MOST_AT_ONCE or not _beyond(now[0], self._seen):
            proven = self._store.last_proofs()
            rows = self._store.rows()
            self._links = {id_: _listed(id_, name, at, model, proven.get(id_)) for id_, name, at, model in rows}
        else:
            rows = self._store.rows(touched)
            proven = self._store.last_proofs(touched)
            self._links |= {id_: _listed(id_, name, at, model, proven.get(id_)) for id_, name, at, model in rows}
        self._seen = now


def _beyond(now: Marks, seen: tuple[Marks, int] | None) -> bool:
    """Whether rows were only added: where some are gone, everything is read anew."""
    if seen is None:
        return False
    before = seen[0]
    return now.versions >= before.versions and now.facts >= before.facts and now.proofs >= before.proofs


def _listed(id_: str, name: str, at: float, model: LinkModel | None, proven: float | None) -> ListedLink:
    if model is None:
        return ListedLink(id_, name, "cannot be read", "", proven, at)
    return ListedLink(id_, name, model.device.device or model.device.port or "", model.address or "", proven, at)
