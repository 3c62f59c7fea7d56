"""Port numbers for old programs: an assignment problem. Each adapter within the limit of its programs, fewest changes."""

from dataclasses import dataclass

import numpy as np
from scipy.optimize import linear_sum_assignment

HIGHEST = 256  # what a system with numbered ports hands out (common practice)
FORBIDDEN = 1e6  # more than all changes together can cost, so no forbidden number is ever cheaper


@dataclass(frozen=True)
class Adapter:
    """An adapter with the number it has now; None for one that has none."""

    id: str
    number: int | None


@dataclass(frozen=True)
class Program:
    """A program that uses one adapter and accepts ports up to `highest`."""

    id: str
    uses: str
    highest: int


@dataclass(frozen=True)
class Assignment:
    """Numbers by adapter, how many had to change, and conflicts in words where not all limits can be held."""

    numbers: dict[str, int]
    changes: int
    conflicts: tuple[str, ...]


def assign(adapters: list[Adapter], programs: list[Program], reserved: frozenset[int]) -> Assignment:
    """The numbers that hold all limits at once with the fewest changes (linear sum assignment, SciPy).

    Adapters that no program uses keep their number where they can. Where the limits cannot all be held, as many as
    possible are, and the rest is told.
    """
    limits = {a.id: min((p.highest for p in programs if p.uses == a.id), default=HIGHEST) for a in adapters}
    top = max([len(adapters) + len(reserved), *(a.number or 0 for a in adapters)], default=1)
    numbers = [n for n in range(1, min(HIGHEST, max(top, 1)) + 1) if n not in reserved]
    while len(numbers) < len(adapters):
        numbers.append((numbers[-1] if numbers else 0) + 1)
    cost = np.zeros((len(adapters), len(numbers)))
    for i, adapter in enumerate(adapters):
        for j, number in enumerate(numbers):
            # A change costs 1 whatever the number; of two changes the lower number is nicer by a hair.
            cost[i, j] = (number != adapter.number) + number * 1e-6 + (FORBIDDEN if number > limits[adapter.id] else 0.0)
    rows, columns = linear_sum_assignment(cost)
    chosen = {adapters[i].id: numbers[j] for i, j in zip(rows.tolist(), columns.tolist(), strict=True)}
    conflicts = tuple(
        f"{a.id} would need a number up to {limits[a.id]}: there are too few of them"
        for a in adapters
        if chosen[a.id] > limits[a.id]
    )
    kept = {a.id: n for a in adapters if (n := chosen[a.id]) <= limits[a.id]}
    changes = sum(kept.get(a.id) != a.number for a in adapters if a.id in kept)
    return Assignment(kept, changes, conflicts)
