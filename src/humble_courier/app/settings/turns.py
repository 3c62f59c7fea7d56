"""Who said what when: the characters of both directions of a recording as turns of a conversation."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from humble_courier.domain.text import escaped

PAUSE = 20  # characters of silence that end what one side says
MOST_TURNS = 2000  # read by a person; the recording itself holds the rest


@dataclass(frozen=True)
class OneSide:
    """One direction: seconds at which each character begins, the characters, and characters per second."""

    signal: str
    starts: NDArray[np.floating[Any]]
    data: bytes
    per_second: float


@dataclass(frozen=True)
class Turn:
    """What one side said without a long pause and without the other. `seconds` from the begin of the recording."""

    seconds: float
    signal: str
    data: bytes

    @property
    def text(self) -> str:
        """The bytes as text, what is no text as its number."""
        return escaped(self.data)


def turns(directions: Sequence[OneSide]) -> tuple[Turn, ...]:
    """The turns in order of time, at most 2 000 of them."""
    made = [turn for said in directions for turn in _own(said, [o for o in directions if o is not said])]
    return tuple(sorted(made, key=lambda turn: turn.seconds)[:MOST_TURNS])


def _own(said: OneSide, others: Sequence[OneSide]) -> list[Turn]:
    """One side's turns: cut at pauses, and where another side began in between."""
    cuts = set((np.flatnonzero(np.diff(said.starts) > PAUSE / said.per_second) + 1).tolist())
    for other in others:
        cuts |= set(np.searchsorted(said.starts, other.starts).tolist())
    edges = sorted({0, *cuts, len(said.starts)})
    return [Turn(float(said.starts[a]), said.signal, said.data[a:b]) for a, b in pairwise(edges) if b > a]
