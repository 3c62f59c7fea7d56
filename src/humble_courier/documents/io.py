"""The document `io/1`: modules of I/O points, numbered in one radix."""

from typing import Annotated, Literal

from msgspec import Meta

from humble_courier.documents.base import Strict, Text


class PointModule(Strict, frozen=True):
    """A module: how many points, and its first one (in the plan's radix) where it is fixed.

    `letter`: what stands before its numbers at the terminals; other letters are numbered apart. `terminal`: the number that
    stands at the terminal of its first point.
    """

    name: Text
    points: Annotated[int, Meta(ge=1, le=65536)]
    start: str | int | None = None
    letter: Annotated[str, Meta(max_length=4, pattern="^[A-Za-z%]*$")] = ""
    terminal: Annotated[int, Meta(ge=0, le=65536)] = 1


class IoModel(Strict, frozen=True):
    """The document: modules in their order, in radix 8, 10 or 16; `highest` is the last point there is."""

    courier: Literal["io/1"]
    radix: Literal[8, 10, 16]
    modules: Annotated[list[PointModule], Meta(min_length=1, max_length=4096)]
    highest: str | int | None = None
