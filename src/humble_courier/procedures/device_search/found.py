"""What a search found, and what it tried on the way."""

from dataclasses import dataclass
from enum import StrEnum

from humble_courier.domain.settings import Settings


class SearchEnd(StrEnum):
    """How the search of one port ended: three kinds of failure are told apart."""

    FOUND = "found"
    ABSENT = "absent"  # there is no such port
    REFUSED = "refused"  # it cannot be opened
    SILENT = "silent"  # it opens, and nothing answers
    GARBLED = "garbled"  # something speaks, and no settings read it
    STOPPED = "stopped"  # nothing was sent, since sending is not allowed


@dataclass(frozen=True)
class Found:
    """What was found: where, with which settings, what it speaks, and what it said; `words`: to which line of text."""

    address: str
    settings: Settings
    protocol: str
    unit: int | None
    identity: str
    end: str = ""
    equivalent: tuple[str, ...] = ()
    words: str = ""


@dataclass(frozen=True)
class Tried:
    """One step that was done, for people."""

    address: str
    settings: Settings
    action: str
    heard: int
    seconds: float
