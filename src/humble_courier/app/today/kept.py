"""What the records keep of a day: the visits, what is ticked, how the bag is made, and where each piece is."""

import datetime
from enum import StrEnum

import msgspec


class Where(StrEnum):
    """Of a piece of the bag, from the kit at home and back to it."""

    HOME = "not packed"
    PACKED = "packed"
    BACK = "back"
    STAYED = "stayed there"
    FAILED = "failed"


class KeptVisit(msgspec.Struct, frozen=True):
    """A place, with the ids of its links in the records. `minutes`: None where its links and devices tell."""

    place: str
    links: list[str] = []
    at: str | None = None
    together: bool = False
    minutes: int | None = None
    note: str = ""


class Owed(msgspec.Struct, frozen=True):
    """A piece that was taken on an earlier day and is not back: the id of its part, and where it may be."""

    part: str
    places: list[str] = []


class KeptDay(msgspec.Struct, frozen=True):
    """What is planned, and what is ticked.

    `least`: by what the bag is made least, or `chance` for the surest under `limit_g` grams. `pieces`: where each part of
    the bag is, by its id; those that are not in it are at home.
    """

    visits: list[KeptVisit] = []
    done: list[str] = []
    spare: bool = False
    date: datetime.date | None = None
    least: str = "pieces"
    limit_g: float = 2000.0
    pieces: dict[str, Where] = {}
    owed: list[Owed] = []
