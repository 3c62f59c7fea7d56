"""The bag as numbers: kinds of pieces, links with the chains that serve each, and which links are in use at one time."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Pieces = NDArray[np.int64]  # how many of each kind, shape (kinds,)


@dataclass(frozen=True)
class BagChoice:
    """One way to serve a link. `needs`: pieces of each kind while it is in use; `stays`: of these, what is left behind."""

    needs: tuple[int, ...]
    stays: tuple[int, ...]


@dataclass(frozen=True)
class BagLink:
    """A link. `slot`: links of one slot are in use at the same time; slots follow one another through the day."""

    slot: int
    choices: tuple[BagChoice, ...]


@dataclass(frozen=True)
class BagProblem:
    """`counts`: of each kind in the kit; `weights`: what one piece adds to the bag (above 0).

    A piece serves every link that needs it, one after the other; those of one slot at once, and what stays is gone.
    """

    counts: tuple[int, ...]
    weights: tuple[float, ...]
    links: tuple[BagLink, ...]

    @cached_property
    def slots(self) -> list[list[int]]:
        """Indices of the links of each slot, in the order of the day."""
        times = sorted({link.slot for link in self.links})
        return [[i for i, link in enumerate(self.links) if link.slot == time] for time in times]

    @cached_property
    def plain(self) -> bool:
        """Whether no links meet and nothing stays: then each link has the whole bag to itself."""
        return all(len(slot) == 1 for slot in self.slots) and not self._stay

    def weight(self, bag: Pieces) -> float:
        """Of a bag."""
        return float(np.dot(bag, self.weights))

    def served(self, bag: Pieces) -> list[int] | None:
        """A choice for each link with which the day is done out of this bag; None where there is none.

        Exact: slot after slot, for each way in which a slot leaves the bag behind.
        """
        if self.plain:
            return self._each(bag)
        hopeless = set[tuple[int, bytes]]()

        def go(at: int, left: Pieces) -> dict[int, int] | None:
            if at == len(self.slots):
                return {}
            key = (at, left.tobytes())
            if key in hopeless:
                return None
            for after, chosen in self._ways(self.slots[at], left):
                rest = go(at + 1, after)
                if rest is not None:
                    return chosen | rest
            hopeless.add(key)
            return None

        found = go(0, np.array(bag, np.int64))
        return None if found is None else [found[i] for i in range(len(self.links))]

    def _ways(self, slot: Sequence[int], left: Pieces) -> list[tuple[Pieces, dict[int, int]]]:
        """What is left after a slot, each once, with the choices that leave it so; what leaves more first."""
        found: dict[bytes, tuple[Pieces, dict[int, int]]] = {}

        def go(at: int, free: Pieces, after: Pieces, chosen: dict[int, int]) -> None:
            if at == len(slot):
                found.setdefault(after.tobytes(), (after, chosen))
                return
            needs, stays = self._rows[slot[at]]
            for number in np.flatnonzero((needs <= free).all(axis=1)):
                if not (found and not self._stay):
                    go(at + 1, free - needs[number], after - stays[number], {**chosen, slot[at]: int(number)})

        go(0, left, left, {})
        return sorted(found.values(), key=lambda way: -int(way[0].sum()))

    @cached_property
    def _rows(self) -> list[tuple[Pieces, Pieces]]:
        """Of each link what its choices need and leave behind, shapes (choices, kinds)."""
        kinds = len(self.counts)

        def table(rows: Sequence[tuple[int, ...]]) -> Pieces:
            return np.array(rows, np.int64).reshape(len(rows), kinds)

        return [(table([c.needs for c in one.choices]), table([c.stays for c in one.choices])) for one in self.links]

    def slot_served(self, slot: Sequence[int], bag: Pieces) -> bool:
        """Whether the links of a slot can be served at once out of a bag, as if nothing had stayed behind before."""
        if len(slot) == 1:
            return self.first_choice(slot[0], bag) is not None
        return bool(self._ways(slot, np.array(bag, np.int64)))

    def peak(self, chosen: Sequence[int]) -> Pieces:
        """The most pieces of each kind that these choices want at one time, with what stayed behind before."""
        most, gone = np.zeros(len(self.counts), np.int64), np.zeros(len(self.counts), np.int64)
        for slot in self.slots:
            used = sum((self._rows[i][0][chosen[i]] for i in slot), np.zeros_like(gone))
            most = np.maximum(most, used + gone)
            gone = gone + sum((self._rows[i][1][chosen[i]] for i in slot), np.zeros_like(gone))
        return most

    @cached_property
    def _stay(self) -> bool:
        """Whether anything stays behind anywhere."""
        return any(any(choice.stays) for link in self.links for choice in link.choices)

    def _each(self, bag: Pieces) -> list[int] | None:
        found = [self.first_choice(i, bag) for i in range(len(self.links))]
        return None if any(one is None for one in found) else [one for one in found if one is not None]

    def first_choice(self, link: int, bag: Pieces) -> int | None:
        """The first choice of a link alone that this bag holds; None where there is none."""
        held = np.flatnonzero((self._rows[link][0] <= bag).all(axis=1))
        return int(held[0]) if len(held) else None

    def only(self, links: Sequence[int]) -> "BagProblem":
        """The same for some of the links."""
        return BagProblem(self.counts, self.weights, tuple(self.links[i] for i in links))


def lessened(bag: Pieces, kind: int) -> Pieces:
    """The bag with one piece of a kind less."""
    less = np.array(bag)
    less[kind] -= 1
    return less
