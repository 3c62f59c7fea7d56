"""A photographed bank of levers read back: on which side of its slot does each lever sit?

A lever is lighter, or darker, than the empty half of its slot. Each half of a slot is compared with the strips between the
slots beside it, so that a lamp from one side does not matter.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from humble_courier.errors import BadInput

FEWEST_PIXELS = 6  # of a slot, either way
INNER = (0.3, 0.7)  # part of a slot's width in which its lever is
UPPER, LOWER = (0.12, 0.42), (0.58, 0.88)  # parts of its height
SURE = 0.4  # of the contrast that most levers have


@dataclass(frozen=True)
class Lever:
    """One lever from left to right: 1 up, 0 down; `sure` False where the picture does not tell."""

    up: int
    sure: bool


def read_levers(picture: NDArray[np.float64], count: int, light: bool = True) -> tuple[Lever, ...]:
    """Read the levers of a picture cut to the bank (shape: rows, columns; brightness). `light`: levers are the lighter part.

    Raises BadInput where it is too small, or shows no levers at all.
    """
    rows, columns = picture.shape
    if rows < FEWEST_PIXELS or columns < FEWEST_PIXELS * count:
        raise BadInput(
            f"{columns} by {rows} points for {count} switches is too little: a larger picture, or a tighter frame"
        )
    edges = np.linspace(0, columns, count + 1)
    found = np.array([_lean(picture, left, right) for left, right in pairwise(edges)])
    usual = float(np.median(np.abs(found)))
    if usual < 1e-3 * max(float(np.ptp(picture)), 1.0):
        raise BadInput("no levers are seen there: frame the row of switches, from the first to the last")
    lean = found if light else -found
    return tuple(Lever(int(value > 0), bool(abs(value) >= SURE * usual)) for value in lean)


def _lean(picture: NDArray[np.float64], left: float, right: float) -> float:
    """How much lighter the upper half of a slot is than the lower one, beside what the light does there anyway."""
    width = right - left
    inner = slice(round(left + INNER[0] * width), max(round(left + INNER[1] * width), round(left + INNER[0] * width) + 1))
    outer = [slice(round(left), round(left + 0.12 * width) + 1), slice(round(right - 0.12 * width) - 1, round(right))]
    upper, lower = (slice(round(a * len(picture)), round(b * len(picture))) for a, b in (UPPER, LOWER))
    beside = [float(picture[upper, o].mean() - picture[lower, o].mean()) for o in outer]
    return float(picture[upper, inner].mean() - picture[lower, inner].mean()) - sum(beside) / 2
