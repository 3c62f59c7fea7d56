"""A day read from its file: the visits in order, each with its links looked up."""

import datetime
import re
from dataclasses import dataclass, replace
from pathlib import Path

from humble_courier.app.settings.site_plans import JudgedSite, judge_site
from humble_courier.catalog.links import Link, read_link, resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.reader import convert, parse_kind, read_text
from humble_courier.documents.visits import VisitModel, VisitsModel
from humble_courier.errors import BadInput

AT_A_LINK_MINUTES = 15  # where the visit does not say: from the plug to the proof, with what is noted (common practice)
AT = re.compile(r"([01]\d|2[0-3]):[0-5]\d")


@dataclass(frozen=True)
class Visit:
    """A place with its links, and the site plans by their names."""

    model: VisitModel
    links: tuple[Link, ...]
    plans: tuple[tuple[str, JudgedSite], ...] = ()

    @property
    def minutes(self) -> int:
        """How long it takes: as it says, else by its links and the waits of their devices."""
        waits = sum(link.sheet.ready_after_s for link in self.links if link.sheet is not None)
        return self.model.minutes or max(1, len(self.links)) * AT_A_LINK_MINUTES + round(waits / 60)


@dataclass(frozen=True)
class Day:
    """All visits, in order."""

    name: str
    date: datetime.date | None
    visits: tuple[Visit, ...]


def read_day(path: Path, catalog: Catalog) -> Day:
    """A `visits/1` file. Raises BadInput with file, line and what was expected."""
    document = parse_kind(read_text(path), str(path), "visits/1")
    model = convert(document, VisitsModel)
    names = [visit.id for visit in model.visits]
    for number, name in enumerate(names):
        if name in names[:number]:
            raise document.error(f"there are two visits “{name}”: give each a name of its own", ("visits", number, "id"))
    visits = []
    for number, visit in enumerate(model.visits):
        if visit.at is not None and not AT.fullmatch(visit.at):
            raise document.error(f"at: “{visit.at}” is no time of day; expected one as 08:20", ("visits", number, "at"))
        unknown = [part for part in visit.stays if part not in catalog.part_entries]
        if unknown:
            raise document.error(f"stays: there is no part “{unknown[0]}” in the catalog", ("visits", number, "stays"))
        links = [
            _named(read_link(path.parent / one, catalog) if isinstance(one, str) else resolve_link(one, catalog))
            for one in visit.links
        ]
        plans = [(Path(one).stem, judge_site(path.parent / one, catalog)) for one in visit.plans]
        visits.append(Visit(visit, tuple(links), tuple(plans)))
    return Day(model.name, day_named(model.date), tuple(visits))


def _named(link: Link) -> Link:
    """Called as its file calls it, else as its device is called."""
    return link if link.model.name or link.sheet is None else replace(link, name=link.sheet.name)


def day_named(text: str | None) -> datetime.date | None:
    """A date as it is written, 2026-11-26. Raises BadInput."""
    try:
        return datetime.date.fromisoformat(text) if text is not None else None
    except ValueError:
        raise BadInput(f"date: there is no day {text}; expected one as 2026-11-26") from None
