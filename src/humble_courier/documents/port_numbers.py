"""The document `port-numbers/1`: adapters with their numbers, programs with the highest number that they accept."""

from typing import Annotated, Literal

from msgspec import Meta

from humble_courier.documents.base import Strict, Text

PortNumber = Annotated[int, Meta(ge=1, le=256)]


class AdapterModel(Strict, frozen=True):
    """An adapter and the number it has now."""

    id: Text
    number: PortNumber | None = None


class ProgramModel(Strict, frozen=True):
    """A program, the adapter that it uses, the highest number that it accepts."""

    id: Text
    uses: Text
    highest: PortNumber


class PortNumbers(Strict, frozen=True):
    """The document: adapters, programs, numbers that something else occupies."""

    courier: Literal["port-numbers/1"]
    adapters: list[AdapterModel]
    programs: list[ProgramModel] = []
    reserved: list[PortNumber] = []
