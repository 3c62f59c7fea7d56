"""What to take: the best chains of every link of the day, and the bag that serves them all.

The bag is made least by pieces, by weight or by cost; among equals the other two decide a little.
"""

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from humble_courier.app.today.day import Day
from humble_courier.app.wire.planning import Planned, make_plan, need_of, offers
from humble_courier.catalog.kits import KitPart
from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput
from humble_courier.plan.best_chance import ChanceFound, ChanceSearch
from humble_courier.plan.greedy import greedy_bag
from humble_courier.plan.least_bag import BagFound as BagFound
from humble_courier.plan.least_bag import LeastBag
from humble_courier.plan.one_failure import OneFailureBag, fails_without
from humble_courier.plan.problem import BagChoice, BagLink, BagProblem, Pieces
from humble_courier.wiring.planner.search import find_chains

CHAINS = 8  # of each link, among which the bag may choose
USUAL_G = 80.0  # of a piece whose weight the kit does not tell (common practice)
LITTLE = 1e-3  # of what decides between bags that are equally good


class Least(StrEnum):
    """By what the bag is made least."""

    PIECES = "pieces"
    WEIGHT = "weight"
    COST = "cost"


@dataclass(frozen=True)
class DayLink:
    """A link of the day: its visit, its name, the chains that serve it as names of parts, in the order of the choices."""

    visit: int
    name: str
    chains: tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Packing:
    """The day as a problem of the bag. `links` in the order of the problem; `lacking`: those that the kit does not serve."""

    kit: tuple[KitPart, ...]
    problem: BagProblem
    links: tuple[DayLink, ...]
    lacking: tuple[tuple[DayLink, Planned], ...]

    def grams(self, bag: Pieces) -> float:
        """What a bag weighs."""
        return float(sum(n * _grams(piece) for n, piece in zip(bag, self.kit, strict=True)))

    def cost(self, bag: Pieces) -> float:
        """What its pieces cost in all."""
        return float(sum(n * piece.item.cost for n, piece in zip(bag, self.kit, strict=True)))

    def pieces(self, bag: Pieces) -> list[str]:
        """Ids of its pieces, one for each."""
        return [piece.part.id for n, piece in zip(bag, self.kit, strict=True) for _ in range(int(n))]

    def chosen(self, bag: Pieces) -> list[tuple[str, ...]]:
        """The chain of each link, as ids of parts, with which the day is done out of a bag that serves it."""
        numbers = self.problem.served(bag)
        assert numbers is not None, "only a bag that serves the day has chains"
        return [link.chains[n] for link, n in zip(self.links, numbers, strict=True)]

    def fails_without(self, bag: Pieces) -> dict[str, list[str]]:
        """For each part one piece of which must not fail: the links that would be lost."""
        lost = fails_without(self.problem, bag)
        return {self.kit[kind].part.id: [self.links[i].name for i in links] for kind, links in lost.items()}


def _grams(piece: KitPart) -> float:
    return piece.item.weight_g if piece.item.weight_g is not None else USUAL_G


def packing(day: Day, kit: list[KitPart], catalog: Catalog, by: Least = Least.PIECES) -> Packing:
    """The chains of every link, and the problem of the bag."""
    have, links, made, lacking, slot = offers(kit), list[DayLink](), list[BagLink](), list[tuple[DayLink, Planned]](), 0
    for number, visit in enumerate(day.visits):
        slot += 1
        for link in visit.links:
            plans = find_chains(need_of(link, catalog), have, CHAINS).plans
            choices, chains = [], []
            for plan in plans:
                needs = Counter(at for at, _ in plan.members)
                stays = [n if kit[at].part.id in visit.model.stays else 0 for at, n in _row(needs, kit)]
                choices.append(BagChoice(tuple(n for _, n in _row(needs, kit)), tuple(stays)))
                chains.append(tuple(offer.part.id for offer in plan.offers))
            one = DayLink(number, link.name, tuple(chains))
            if choices:
                links.append(one)
                made.append(BagLink(slot, tuple(choices)))
                slot += not visit.model.together
            else:
                lacking.append((one, make_plan(link, kit, catalog)))
    counts = tuple(piece.item.count for piece in kit)
    return Packing(tuple(kit), BagProblem(counts, _weights(kit, by), tuple(made)), tuple(links), tuple(lacking))


def _row(needs: Counter[int], kit: list[KitPart]) -> list[tuple[int, int]]:
    return [(at, needs.get(at, 0)) for at in range(len(kit))]


def _weights(kit: list[KitPart], by: Least) -> tuple[float, ...]:
    heaviest = max((_grams(piece) for piece in kit), default=1.0) or 1.0
    dearest = max((piece.item.cost for piece in kit), default=1.0) or 1.0
    shares = {
        Least.PIECES: [1.0 for _ in kit],
        Least.WEIGHT: [_grams(piece) / heaviest for piece in kit],
        Least.COST: [piece.item.cost / dearest for piece in kit],
    }
    rest = [sum(shares[other][i] for other in Least if other is not by) for i in range(len(kit))]
    return tuple(max(LITTLE, one) + LITTLE * more for one, more in zip(shares[by], rest, strict=True))


def likeliest(packing: Packing, limit_g: float) -> ChanceFound | None:
    """The bag under a weight with the greatest chance that the whole day succeeds, by what each piece did so far.

    The best that was found, not proven; None where not even a light bag keeps the limit. Raises BadInput for no weight.
    """
    if limit_g <= 0:
        raise BadInput(f"--limit {limit_g:g}: expected grams above 0")
    history = [(piece.item.successes, piece.item.failures) for piece in packing.kit]
    return ChanceSearch(packing.problem, [_grams(piece) for piece in packing.kit], history).solve(limit_g)


class Packer:
    """One solving of a packing. `first`: a bag at once; `solve` makes it least, and may be stopped."""

    def __init__(self, problem: BagProblem, spare: bool) -> None:
        """`spare`: any one piece may fail."""
        self.spare = spare
        self._problem = problem
        self._search: LeastBag | OneFailureBag | None = None
        self._stopped = False

    @property
    def first(self) -> BagFound | None:
        """The greedy bag; None where it finds none. It serves the day, and need not outlive a failure."""
        bag = greedy_bag(self._problem)
        return BagFound(bag, self._problem.weight(bag), 0.0) if bag is not None else None

    def solve(self, seconds: float, better: Callable[[BagFound], None] = lambda _: None) -> BagFound | None:
        """The least bag; the best of the time where that does not do; None where there is none."""
        if not self._problem.links:
            return BagFound(np.zeros(len(self._problem.counts), np.int64), 0.0, 0.0)
        self._search = OneFailureBag(self._problem) if self.spare else LeastBag(self._problem)
        if self._stopped:
            self._search.stop()
        return self._search.solve(seconds, better)

    @property
    def unsafe(self) -> list[int]:
        """Links that outlive no loss with this kit."""
        return self._search.unsafe if isinstance(self._search, OneFailureBag) else []

    def stop(self) -> None:
        """End it soon."""
        self._stopped = True
        if self._search is not None:
            self._search.stop()
