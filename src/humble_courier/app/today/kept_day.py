"""The day that is being planned in the window: kept in the records, its links by their ids there."""

import datetime
from collections.abc import Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

import msgspec

from humble_courier.app.kit.bag import Bag
from humble_courier.app.settings.kept_plans import KeptPlans
from humble_courier.app.settings.site_plans import JudgedSite, judge_site_text
from humble_courier.app.today.coming_back import Fared, put_away
from humble_courier.app.today.day import Day, Visit
from humble_courier.app.today.kept import KeptDay, KeptVisit, Owed, Where
from humble_courier.app.today.sentence import visit_of
from humble_courier.catalog.links import resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.kit import KitModel
from humble_courier.documents.visits import VisitModel
from humble_courier.errors import BadInput, ChangedElsewhere

if TYPE_CHECKING:
    from humble_courier.records.store import Store

KEY = "today"
MOST = 500  # visits of a day
MOST_STEPS = 99  # that can be taken back


@dataclass(frozen=True)
class PlannedDay:
    """The day with its links looked up. `lost`: names of visits whose link is not in the records any more."""

    day: Day
    lost: tuple[str, ...]


class TodayPlan:
    """Read once; every change is saved before the method returns, and can be taken back."""

    def __init__(self, store: "Store", bag: Bag) -> None:
        self._store, self._bag = store, bag
        self._past: list[tuple[KeptDay, KitModel | None]] = []
        self._read()

    def _read(self) -> None:
        self._was = self._store.setting(KEY)
        self.kept = self._store.struct(KEY, KeptDay) or KeptDay()

    def _keep(self, kept: KeptDay, kit: KitModel | None = None) -> None:
        """`kit`: as it was, where this change changed it too."""
        text = msgspec.json.encode(kept).decode()
        try:
            self._store.replace(KEY, text, self._was)
        except ChangedElsewhere:
            self._read()
            raise
        self._past = [*self._past[-MOST_STEPS:], (self.kept, kit)]
        self.kept, self._was = kept, text

    def _change(self, **other: Any) -> None:
        self._keep(msgspec.structs.replace(self.kept, **other))

    @property
    def may_undo(self) -> bool:
        """Whether there is something to take back."""
        return bool(self._past)

    def undo(self) -> None:
        """Take the last change of the day back; that of the kit with it."""
        if not self._past:
            raise BadInput("nothing of this day was changed since the program was started")
        *past, (kept, kit) = self._past
        if kit is not None:
            self._bag.change(kit)
        self._keep(kept)
        self._past = past

    # Visits

    def add(self, sentence: str) -> KeptVisit:
        """A visit from a sentence. Raises BadInput where nothing is said, or the day is full."""
        made = visit_of(sentence, self._store.links())
        self._take_in([made])
        return made

    def take_calendar(self, calendar: bytes, today: datetime.date) -> list[KeptVisit]:
        """The visits of a calendar after those that are there. Raises BadInput where it is none, or holds no visit."""
        from humble_courier.app.today.calendar_visits import visits_of

        date, visits = visits_of(calendar, self._store.links(), today, self.kept.date)
        self._take_in(visits, date=date)
        return visits

    def _take_in(self, visits: list[KeptVisit], **other: Any) -> None:
        if len(self.kept.visits) + len(visits) > MOST:
            raise BadInput(f"a day has at most {MOST} visits: take some out, or make two days of it")
        self._change(visits=[*self.kept.visits, *visits], **other)

    def take_out(self, number: int) -> None:
        """Without a visit."""
        self._change(visits=[v for i, v in enumerate(self.kept.visits) if i != number])

    def move(self, number: int, by: int) -> int:
        """Earlier (-1) or later (1) in the day; returns its number then."""
        visits = list(self.kept.visits)
        to = min(max(0, number + by), len(visits) - 1)
        visits.insert(to, visits.pop(number))
        self._change(visits=visits)
        return to

    def with_link(self, number: int, link_id: str, there: bool) -> None:
        """With a link of the records at a visit, or without it."""
        links = [one for one in self.kept.visits[number].links if one != link_id] + [link_id] * there
        self.alter(number, links=links)

    def alter(self, number: int, **other: Any) -> None:
        """A visit with other fields (those of `KeptVisit`)."""
        visits = list(self.kept.visits)
        visits[number] = msgspec.structs.replace(visits[number], **other)
        if visits != self.kept.visits:
            self._change(visits=visits)

    # The bag, and what is ticked

    def tick(self, what: str, done: bool) -> None:
        """Something is done, or is not after all."""
        self._change(done=[one for one in self.kept.done if one != what] + [what] * done)

    def want(self, **how: Any) -> None:
        """How the bag is to be made: `spare`, `least`, `limit_g`; of which day it is: `date`."""
        if any(getattr(self.kept, name) != value for name, value in how.items()):
            self._change(**how)

    def put(self, part: str, where: Where) -> None:
        """A piece of the bag is somewhere else now."""
        self._change(pieces={**self.kept.pieces, part: where})

    def come_back(self, places: Mapping[str, list[str]]) -> None:
        """The day is over: what it says of the pieces goes into the kit, and the next day is empty.

        `places`: for each part the visits that it served; a piece that is not back may be there.
        """
        kit, owed = put_away(self._bag.kit, self.kept, places)
        was = self._bag.kit if kit != self._bag.kit else None
        if was is not None:
            self._bag.change(kit)
        kept = self.kept
        self._keep(KeptDay(owed=owed, spare=kept.spare, least=kept.least, limit_g=kept.limit_g), was)

    def has_back(self, owed: Owed) -> None:
        """A piece of an earlier day is found."""
        self._change(owed=[one for one in self.kept.owed if one != owed])

    def planned(self, catalog: Catalog) -> PlannedDay:
        """All visits with their links; what cannot be read any more is named and left out."""
        names, lost, visits = dict(self._store.links()), list[str](), list[Visit]()
        for kept in self.kept.visits:
            links = []
            for link_id in kept.links:
                document = self._store.link(link_id)
                try:
                    found = resolve_link(document, catalog) if document is not None else None
                except BadInput:
                    found = None
                if found is None:
                    lost.append(kept.place)
                else:
                    links.append(replace(found, name=names.get(link_id, found.name)))
            model = VisitModel(id=kept.place, at=kept.at, together=kept.together, minutes=kept.minutes, note=kept.note)
            visits.append(Visit(model, tuple(links), tuple(self._plans(kept.links, names, catalog))))
        return PlannedDay(Day("", self.kept.date, tuple(visits)), tuple(dict.fromkeys(lost)))

    def _plans(self, ids: list[str], names: Mapping[str, str], catalog: Catalog) -> Iterator[tuple[str, JudgedSite]]:
        """The site plans that are kept with links; one that cannot be judged is shown where it is made."""
        for link_id in ids:
            text = KeptPlans(self._store, link_id).get("site")
            if text is not None and link_id in names:
                with suppress(BadInput):
                    yield names[link_id], judge_site_text(text, "the plan", catalog)

    def stamps(self) -> list[tuple[str, str, float]]:
        """The links of the day as they are now: others where one of them was changed."""
        return self._store.stamps(list(dict.fromkeys(link_id for visit in self.kept.visits for link_id in visit.links)))

    def fared(self) -> list[Fared]:
        """Each link of the day once, with whether a proof of it is as late as the day."""
        names, proven = dict(self._store.links()), self._store.last_proofs()
        begun = datetime.datetime.combine(self.kept.date or datetime.date.today(), datetime.time()).timestamp()
        ids = dict.fromkeys(link_id for visit in self.kept.visits for link_id in visit.links)
        return [Fared(names[one], proven.get(one, 0.0) >= begun) for one in ids if one in names]
