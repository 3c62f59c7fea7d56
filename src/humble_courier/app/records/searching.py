"""Words looked for in the records."""

import re
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


SINCE = re.compile(r"(?:^|\s)since:(\S*)")


def without_day(words: str) -> tuple[str, str | None]:
    """Words with a day among them, `ridge since:2026-10-01`, as the words alone and the day."""
    found = SINCE.search(words)
    return (SINCE.sub(" ", words).strip(), found[1]) if found is not None else (words, None)


def search(store: "Store", words: str, since: str | None = None) -> list[FoundRow]:
    """The best places first; a day may stand among the words. Raises BadInput where nothing is asked, or a day is none."""
    words, day = without_day(words)
    since = since or day
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
        raise BadInput(f"since {day}: expected a day as 2026-11-26") from None


def is_day(text: str) -> bool:
    """Whether a text is a day, as 2026-11-26."""
    try:
        datetime.fromisoformat(text)
    except ValueError:
        return False
    return True
