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
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput
from humble_courier.plan.best_chance import ChanceFound as ChanceFound
from humble_courier.plan.best_chance import ChanceSearch
from humble_courier.plan.greedy import greedy_bag
from humble_courier.plan.least_bag import BagFound as BagFound
from humble_courier.plan.least_bag import LeastBag
from humble_courier.plan.one_failure import OneFailureBag, fails_without
from humble_courier.plan.problem import BagChoice, BagLink, BagProblem, Pieces
from humble_courier.wiring.planner.search import ChainNeed, Plan, find_chains

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
    shops: frozenset[str] = frozenset()  # parts that shops for computers have

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
    links, made, lacking, slot = list[DayLink](), list[BagLink](), list[tuple[DayLink, Planned]](), 0
    chains_of = _Chains(kit, catalog)
    for number, visit in enumerate(day.visits):
        slot += 1
        for link in visit.links:
            plans = chains_of.plans(link)
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
                lacking.append((one, chains_of.lacking(link)))
    counts = tuple(piece.item.count for piece in kit)
    shops = frozenset(id_ for id_, part in catalog.part_entries.items() if part.shops)
    return Packing(tuple(kit), BagProblem(counts, _weights(kit, by), tuple(made)), tuple(links), tuple(lacking), shops)


class _Chains:
    """The chains of links, looked for once for all links whose two ends are alike."""

    def __init__(self, kit: list[KitPart], catalog: Catalog) -> None:
        self._kit, self._catalog, self._offers = kit, catalog, offers(kit)
        self._known: list[tuple[ChainNeed, tuple[Plan, ...]]] = []
        self._lacking: list[tuple[ChainNeed, Planned]] = []

    def plans(self, link: Link) -> tuple[Plan, ...]:
        """The best chains of the kit."""
        need = need_of(link, self._catalog)
        known = next((plans for other, plans in self._known if other == need), None)
        if known is None:
            known = find_chains(need, self._offers, CHAINS).plans
            self._known.append((need, known))
        return known

    def lacking(self, link: Link) -> Planned:
        """What to buy or to build where there is none."""
        need = need_of(link, self._catalog)
        known = next((planned for other, planned in self._lacking if other == need), None)
        if known is None:
            known = make_plan(link, self._kit, self._catalog)
            self._lacking.append((need, known))
        return known


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


def chance_search(packing: Packing) -> ChanceSearch:
    """The search for the bag with the greatest chance that the whole day succeeds, by what each piece did so far."""
    history = [(piece.item.successes, piece.item.failures) for piece in packing.kit]
    return ChanceSearch(packing.problem, [_grams(piece) for piece in packing.kit], history)


def likeliest(packing: Packing, limit_g: float) -> ChanceFound | None:
    """The bag under a weight with the greatest chance that the whole day succeeds.

    The best that was found, not proven; None where not even a light bag keeps the limit. Raises BadInput for no weight.
    """
    if limit_g <= 0:
        raise BadInput(f"--limit {limit_g:g}: expected grams above 0")
    return chance_search(packing).solve(limit_g)


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


class SurePacker:
    """One search for the surest bag under a weight. `chance`: what was found, once `solve` has ended."""

    def __init__(self, packing: Packing, limit_g: float) -> None:
        self._packing, self._limit_g = packing, limit_g
        self._search: ChanceSearch | None = None
        self._stopped = False
        self.chance: ChanceFound | None = None

    @property
    def first(self) -> BagFound | None:
        """A light bag at once, where it keeps the limit."""
        bag = greedy_bag(self._packing.problem)
        if bag is None or self._packing.grams(bag) > self._limit_g:
            return None
        return BagFound(bag, self._packing.grams(bag), 0.0)

    def solve(self, seconds: float, better: Callable[[BagFound], None]) -> BagFound | None:  # noqa: ARG002 (as `Packer`)
        """The surest bag that was found; None where none keeps the limit."""
        self._search = chance_search(self._packing)
        if self._stopped:
            self._search.stop()
        self.chance = self._search.solve(self._limit_g)
        return BagFound(self.chance.bag, self.chance.grams, 0.0) if self.chance is not None else None

    def stop(self) -> None:
        """End it soon."""
        self._stopped = True
        if self._search is not None:
            self._search.stop()
