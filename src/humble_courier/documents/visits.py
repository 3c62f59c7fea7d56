"""The document `visits/1`: a day on the road, place after place, with the links that are made there."""

from typing import Annotated, Literal

from msgspec import Meta

from humble_courier.documents.base import Strict, Text
from humble_courier.documents.link import LinkModel


class VisitModel(Strict, frozen=True):
    """A place. `links`: files from the folder of this document, or links written out; their chains are left aside.

    `at`: when one is there, as 08:20; `together`: its links are in use at the same time; `stays`: ids of parts that are
    left there once they were used; `plans`: files of `site/1` plans that are worked on there.
    """

    id: Text
    links: list[Text | LinkModel] = []
    at: str | None = None
    minutes: Annotated[int, Meta(ge=1, le=1440)] | None = None
    together: bool = False
    stays: list[Text] = []
    note: str = ""
    plans: list[Text] = []


class VisitsModel(Strict, frozen=True):
    """The document: the visits in their order. `date` as 2026-11-26; `name` of the day."""

    courier: Literal["visits/1"]
    visits: Annotated[list[VisitModel], Meta(max_length=500)]
    date: str | None = None
    name: str = ""
