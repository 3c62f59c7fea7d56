"""Words looked for in the records."""

from dataclasses import dataclass
from datetime import datetime
from typing import TYPE_CHECKING

from humble_courier.errors import BadInput

if TYPE_CHECKING:
    from humble_courier.records.store import Store


@dataclass(frozen=True)
class FoundRow:
    """A place in the records where all the words stand. `link`: its name; `kind`: link, fact, proof or words."""

    link_id: str
    link: str
    kind: str
    at: float
    text: str


def search(store: "Store", words: str, since: str | None = None) -> list[FoundRow]:
    """The best places first. Raises BadInput where nothing is asked, or a day is none."""
    if not any(letter.isalnum() for letter in words):
        raise BadInput("say a word that is looked for, as in weir or 7E1")
    names = dict(store.links())
    return [
        FoundRow(h.link_id, names.get(h.link_id, "?"), h.kind.value, h.at, h.text) for h in store.find(words, _from(since))
    ]


def _from(day: str | None) -> float:
    if day is None:
        return 0.0
    try:
        return datetime.fromisoformat(day).timestamp()
    except (ValueError, OverflowError):
        raise BadInput(f"--since {day}: expected a day as 2026-11-26") from None
