"""A calendar from elsewhere as a `visits/1` document, its links out of the records, written out."""

import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any

import msgspec
import yaml

from humble_courier.app.today.calendar_visits import visits_of
from humble_courier.documents.link import LinkModel
from humble_courier.documents.visits import VisitModel, VisitsModel
from humble_courier.errors import BadInput, MachineRefused

if TYPE_CHECKING:
    from humble_courier.records.store import Store

LONGEST = 5_000_000  # bytes of a calendar


def read_calendar(path: Path) -> bytes:
    """Its bytes. Raises MachineRefused where it cannot be read, or is larger than any calendar."""
    try:
        with path.open("rb") as file:
            text = file.read(LONGEST + 1)
    except OSError as error:
        raise MachineRefused(
            f"{path} cannot be read: {error.strerror}", "See to its permissions, or copy it first."
        ) from None
    if len(text) > LONGEST:
        raise BadInput(f"larger than {LONGEST // 1_000_000} MB: export fewer days from the calendar", file=path)
    return text


def document_of(text: bytes, store: "Store | None", today: datetime.date, date: datetime.date | None) -> VisitsModel:
    """The visits of one day. Raises BadInput as `visits_of`."""
    day, kept = visits_of(text, store.links() if store is not None else [], today, date)
    made: list[VisitModel] = []
    for visit in kept:
        alike = sum(one.id.partition(" (")[0] == visit.place for one in made)
        name = f"{visit.place} ({alike + 1})" if alike else visit.place
        models = [model for link_id in visit.links if store is not None and (model := store.link(link_id))]
        links: list[str | LinkModel] = list(models)
        made.append(VisitModel(name, links, visit.at, visit.minutes, note=visit.note))
    return VisitsModel("visits/1", made, day.isoformat())


def plain(model: VisitsModel) -> dict[str, Any]:
    """As it is written into a file: without what is as it would be anyway."""
    found: dict[str, Any] = msgspec.to_builtins(model)
    kept = {key: value for key, value in found.items() if value not in (None, "")}
    kept["visits"] = [{k: v for k, v in visit.items() if v not in (None, "", [], False)} for visit in found["visits"]]
    return kept


def as_yaml(document: dict[str, Any]) -> str:
    """The text of such a file."""
    return yaml.safe_dump(document, sort_keys=False, allow_unicode=True)
