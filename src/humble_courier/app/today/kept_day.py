"""The day that is being planned in the window: kept in the records, its links by their ids there.

A visit can be made from a sentence (“level logger and wind sensor at the ridge”): what stands after the last “at” or “in” is
the place, and the links are those whose names share the words before it.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import msgspec

from humble_courier.app.today.day import Day, Visit
from humble_courier.catalog.links import resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.visits import VisitModel
from humble_courier.errors import BadInput

if TYPE_CHECKING:
    from humble_courier.records.store import Store

KEY = "today"
MOST = 500  # visits of a day
SHORTEST = 3  # letters of a word by which a link is meant
PLACE = re.compile(r"\b(?:at|in)\s+(?:the\s+)?([^,.;]+)", re.IGNORECASE)
TIME = re.compile(r"\b([01]?\d|2[0-3]):([0-5]\d)\b")


class KeptVisit(msgspec.Struct, frozen=True):
    """A place, with the ids of its links in the records."""

    place: str
    links: list[str] = []
    at: str | None = None
    together: bool = False


class KeptDay(msgspec.Struct, frozen=True):
    """What is planned, and what is ticked: acts before leaving, pieces that are in the bag."""

    visits: list[KeptVisit] = []
    done: list[str] = []
    spare: bool = False


@dataclass(frozen=True)
class PlannedDay:
    """The day with its links looked up. `lost`: names of visits whose link is not in the records any more."""

    day: Day
    lost: tuple[str, ...]


class TodayPlan:
    """Read once; every change is saved before the method returns."""

    def __init__(self, store: "Store") -> None:
        self._store = store
        self.kept = store.struct(KEY, KeptDay) or KeptDay()

    def _keep(self, kept: KeptDay) -> None:
        self._store.remember(KEY, msgspec.json.encode(kept).decode())
        self.kept = kept

    def add(self, sentence: str) -> KeptVisit:
        """A visit from a sentence. Raises BadInput where nothing is said, or the day is full."""
        if len(self.kept.visits) >= MOST:
            raise BadInput(f"a day has at most {MOST} visits")
        made = visit_of(sentence, self._store.links())
        self._keep(msgspec.structs.replace(self.kept, visits=[*self.kept.visits, made]))
        return made

    def take_out(self, number: int) -> None:
        """Without a visit."""
        self._keep(msgspec.structs.replace(self.kept, visits=[v for i, v in enumerate(self.kept.visits) if i != number]))

    def move(self, number: int, by: int) -> int:
        """Earlier (-1) or later (1) in the day; returns its number then."""
        visits = list(self.kept.visits)
        to = min(max(0, number + by), len(visits) - 1)
        visits.insert(to, visits.pop(number))
        self._keep(msgspec.structs.replace(self.kept, visits=visits))
        return to

    def with_link(self, number: int, link_id: str, there: bool) -> None:
        """With a link of the records at a visit, or without it."""
        visit = self.kept.visits[number]
        links = [one for one in visit.links if one != link_id] + [link_id] * there
        visits = list(self.kept.visits)
        visits[number] = msgspec.structs.replace(visit, links=links)
        self._keep(msgspec.structs.replace(self.kept, visits=visits))

    def tick(self, what: str, done: bool) -> None:
        """Something is done, or is not after all."""
        ticks = [one for one in self.kept.done if one != what] + [what] * done
        self._keep(msgspec.structs.replace(self.kept, done=ticks))

    def want_spare(self, spare: bool) -> None:
        """Whether any one piece may fail."""
        self._keep(msgspec.structs.replace(self.kept, spare=spare))

    def planned(self, catalog: Catalog) -> PlannedDay:
        """All visits with their links; what cannot be read any more is named and left out."""
        names, lost, visits = dict(self._store.links()), list[str](), list[Visit]()
        for kept in self.kept.visits:
            links = []
            for link_id in kept.links:
                model = self._store.link(link_id)
                try:
                    found = resolve_link(model, catalog) if model is not None else None
                except BadInput:
                    found = None
                if found is None:
                    lost.append(kept.place)
                else:
                    links.append(replace(found, name=names.get(link_id, found.name)))
            visits.append(Visit(VisitModel(id=kept.place, at=kept.at, together=kept.together), tuple(links)))
        return PlannedDay(Day("", None, tuple(visits)), tuple(dict.fromkeys(lost)))


def visit_of(sentence: str, links: Sequence[tuple[str, str]]) -> KeptVisit:
    """A visit from a sentence. `links`: ids and names. Raises BadInput where nothing is said."""
    if not sentence.strip():
        raise BadInput("say what is done, and where: as in “level logger at the weir gauge house”")
    when = TIME.search(sentence)
    plain = TIME.sub("", sentence)
    said = list(PLACE.finditer(plain))
    place = said[-1][1].strip() if said else ""
    what = plain[: said[-1].start()] + plain[said[-1].end() :] if said else plain
    wanted = _stems(what) or _stems(place)
    meant = {link_id: len(wanted & _stems(name)) for link_id, name in links}
    place_words = _stems(place)
    best = max(meant.values(), default=0)
    chosen = [link_id for link_id, name in links if meant[link_id] and _means(wanted, _stems(name), place_words, best)]
    at = f"{int(when[1]):02d}:{when[2]}" if when else None
    return KeptVisit((place or sentence.strip())[:80], chosen, at)


def _means(wanted: set[str], name: set[str], place: set[str], best: int) -> bool:
    """Whether a link is meant: it shares as many words as any, or all its words but those of the place are said."""
    left = name - place
    return len(wanted & name) == best or (bool(left) and left <= wanted)


def _stems(text: str) -> set[str]:
    words = re.findall(r"[a-z0-9]+", text.lower())
    return {word.rstrip("s") for word in words if len(word) >= SHORTEST} - {"the", "and", "with", "address", "change"}
