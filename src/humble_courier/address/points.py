"""Ranges of I/O points, numbered in octal, decimal or hexadecimal: starts, ends, overlaps, the next free start."""

from collections.abc import Sequence
from dataclasses import dataclass

from humble_courier.address.conflicts import Conflict
from humble_courier.errors import BadInput

DIGITS = "0123456789ABCDEF"
RADIXES = (8, 10, 16)  # octal, decimal and hexadecimal: how programs number points (common practice)


@dataclass(frozen=True)
class Module:
    """A module with so many points; without `start` it is placed after the one before."""

    name: str
    points: int
    start: int | None = None


@dataclass(frozen=True)
class Placed:
    """A module with its first and last point."""

    name: str
    start: int
    end: int


@dataclass(frozen=True)
class PointPlan:
    """The modules in the order of the plan, what speaks against it, and the next free start."""

    placed: tuple[Placed, ...]
    conflicts: tuple[Conflict, ...]
    next_start: int

    @property
    def ok(self) -> bool:
        """Whether nothing overlaps."""
        return not self.conflicts


def number(text: str, radix: int) -> int:
    """Read a point number; raises BadInput for a digit that the radix does not have."""
    try:
        value = int(text.strip(), radix)
    except ValueError:
        value = -1
    if value < 0:
        raise BadInput(f"point “{text}”: expected digits of radix {radix} ({DIGITS[:radix]})")
    return value


def shown(value: int, radix: int, width: int = 1) -> str:
    """A point number in the plan's radix, capitals, with leading zeros up to `width`."""
    digits = ""
    while value or not digits:
        value, rest = divmod(value, radix)
        digits = DIGITS[rest] + digits
    return digits.rjust(width, "0")


def plan_points(modules: Sequence[Module], radix: int, highest: int | None = None) -> PointPlan:
    """Place the modules one after the other. Overlaps name the later module; `highest` is the last point there is."""
    placed: list[Placed] = []
    conflicts: list[Conflict] = []
    following = 0
    for module in modules:
        start = following if module.start is None else module.start
        new = Placed(module.name, start, start + module.points - 1)
        for other in placed:
            if new.start <= other.end and other.start <= new.end:
                told = f"{_range(new, radix)} of {new.name} meets {_range(other, radix)} of {other.name}"
                conflicts.append(Conflict("overlap", new.name, told))
        if highest is not None and new.end > highest:
            told = f"{_range(new, radix)} of {new.name} goes beyond the last point {shown(highest, radix)}"
            conflicts.append(Conflict("beyond-last-point", new.name, told))
        placed.append(new)
        following = new.end + 1
    return PointPlan(tuple(placed), tuple(conflicts), max((p.end for p in placed), default=-1) + 1)


def _range(placed: Placed, radix: int) -> str:
    return f"{shown(placed.start, radix)} to {shown(placed.end, radix)}"
