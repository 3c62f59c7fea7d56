"""Ranges of I/O points, numbered in octal, decimal or hexadecimal: starts, ends, overlaps, the next free start.

Points with different letters (as inputs X and outputs Y) are numbered apart: neither follows nor meets the other.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from humble_courier.address.conflicts import Conflict
from humble_courier.errors import BadInput

DIGITS = "0123456789ABCDEF"
RADIXES = (8, 10, 16)  # octal, decimal and hexadecimal: how programs number points (common practice)


@dataclass(frozen=True)
class Module:
    """A module with so many points; without `start` it is placed after the one before with its letter.

    `terminal`: the number that stands at the terminal of its first point.
    """

    name: str
    points: int
    start: int | None = None
    letter: str = ""
    terminal: int = 1


@dataclass(frozen=True)
class Placed:
    """A module with its first and last point."""

    name: str
    start: int
    end: int
    letter: str = ""
    terminal: int = 1


@dataclass(frozen=True)
class PointPlan:
    """The modules in the order of the plan, what speaks against it, and the next free start."""

    placed: tuple[Placed, ...]
    conflicts: tuple[Conflict, ...]
    next_starts: dict[str, int]

    @property
    def next_start(self) -> int:
        """The next free start, of the first letter."""
        return next(iter(self.next_starts.values()), 0)

    def at_point(self, letter: str, point: int) -> list[tuple[Placed, int]]:
        """The modules that have a point, each with the number at its terminal; more than one where they overlap."""
        there = (p for p in self.placed if p.letter == letter and p.start <= point <= p.end)
        return [(p, p.terminal + point - p.start) for p in there]

    def at_terminal(self, name: str, terminal: int) -> int:
        """The point at a terminal of a module. Raises BadInput where there is no such one."""
        placed = next((p for p in self.placed if p.name == name), None)
        if placed is None:
            raise BadInput(f"there is no module “{name}”: known are {', '.join(p.name for p in self.placed)}")
        last = placed.terminal + placed.end - placed.start
        if not placed.terminal <= terminal <= last:
            raise BadInput(f"{name} has terminals {placed.terminal} to {last}, no {terminal}")
        return placed.start + terminal - placed.terminal

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
    following: dict[str, int] = {}
    for module in modules:
        start = following.get(module.letter, 0) if module.start is None else module.start
        new = Placed(module.name, start, start + module.points - 1, module.letter, module.terminal)
        for other in placed:
            if new.letter == other.letter and new.start <= other.end and other.start <= new.end:
                told = f"{_range(new, radix)} of {new.name} meets {_range(other, radix)} of {other.name}"
                conflicts.append(Conflict("overlap", new.name, told))
        if highest is not None and new.end > highest:
            told = f"{_range(new, radix)} of {new.name} goes beyond the last point {new.letter}{shown(highest, radix)}"
            conflicts.append(Conflict("beyond-last-point", new.name, told))
        placed.append(new)
        following[new.letter] = new.end + 1
    letters = dict.fromkeys(p.letter for p in placed)
    free = {letter: max(p.end for p in placed if p.letter == letter) + 1 for letter in letters}
    return PointPlan(tuple(placed), tuple(conflicts), free)


def _range(placed: Placed, radix: int) -> str:
    return f"{placed.letter}{shown(placed.start, radix)} to {placed.letter}{shown(placed.end, radix)}"
