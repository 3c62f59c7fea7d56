"""What do I take: the best chains out of the kit, and where nothing in it serves, what to buy or what to build."""

from dataclasses import dataclass, replace
from itertools import product
from pathlib import Path

from humble_courier.app.wire.tracing import around, asked_handshakes
from humble_courier.catalog.kits import KitPart
from humble_courier.catalog.kits import read_kit as read_kit
from humble_courier.catalog.links import Link, read_link
from humble_courier.catalog.load import Catalog
from humble_courier.domain.hardware import Part, Port
from humble_courier.errors import BadInput
from humble_courier.wiring.build import BuildSheet, design
from humble_courier.wiring.making import cut_down, hints, screen_of
from humble_courier.wiring.nets import Chain
from humble_courier.wiring.planner.search import ChainNeed, FoundChains, Offer, find_chains
from humble_courier.wiring.trace import Trace, trace

BOUGHT = 1e6  # a part that has to be bought costs more than anything in the bag: chains with the fewest of them come first
LOOKED_AT = 12  # chains looked at for the one with the fewest parts to buy
MOST_INSTEAD = 2  # other ways to buy that are named


@dataclass(frozen=True)
class Build:
    """A cable to make, the parts of the chain before it (adapter, converter), and the verdict on the whole."""

    sheet: BuildSheet
    before: tuple[Part, ...]
    trace: Trace
    advice: tuple[str, ...] = ()  # of the trade: screen, resistors, a bought cable that is cut down


@dataclass(frozen=True)
class Planned:
    """What the kit gives; `buy` and `build` only where it gives nothing. `instead`: other ways to buy, as good."""

    outcome: FoundChains
    buy: tuple[Part, ...] = ()
    instead: tuple[tuple[Part, ...], ...] = ()
    build: Build | None = None


def offers(kit: list[KitPart]) -> list[Offer]:
    """The kit as the search sees it."""
    return [Offer(k.part, k.item.count, k.item.cost, k.item.successes, k.item.failures) for k in kit]


def need_of(link: Link, catalog: Catalog) -> ChainNeed:
    """What the two ends of a link want; its chain is left aside."""
    return ChainNeed(link.computer, link.device, catalog.levels, asked_handshakes(link), around(link, catalog))


def make_plan(link: Link, kit: list[KitPart], catalog: Catalog, k: int = 5, scheme: str = "own") -> Planned:
    """The `k` best chains of the kit for a link; else what to buy and what to build. Raises BadInput for a bad `k`."""
    if not 1 <= k <= 100:
        raise BadInput(f"--k {k}: expected a number from 1 to 100")
    need, own = need_of(link, catalog), offers(kit)
    outcome = find_chains(need, own, k)
    if outcome.plans:
        return Planned(outcome)
    buy, *instead = _to_buy(need, own, catalog) or [()]
    return Planned(outcome, buy, tuple(instead), best_build(link, own, catalog, scheme))


def _shop(catalog: Catalog) -> list[Offer]:
    return [Offer(catalog.part(id_), count=9, cost=BOUGHT) for id_ in catalog.part_entries]


def _to_buy(need: ChainNeed, own: list[Offer], catalog: Catalog) -> list[tuple[Part, ...]]:
    """The fewest standard parts that, with the kit, make a chain; then as few others that do."""
    plans = find_chains(need, own + _shop(catalog), LOOKED_AT).plans
    ranked = sorted(plans, key=lambda plan: (sum(o.cost >= BOUGHT for o in plan.offers), plan.rank))
    bought = [tuple(offer.part for offer in plan.offers if offer.cost >= BOUGHT) for plan in ranked]
    alike = {tuple(sorted(p.id for p in one)): one for one in reversed(bought) if len(one) == len(bought[0])}
    first = bought[:1]
    return first + [one for one in reversed(alike.values()) if one not in first][:MOST_INSTEAD]


def best_build(link: Link, own: list[Offer], catalog: Catalog, scheme: str = "own") -> Build | None:
    """The cable to make, after an adapter or converter where one is needed: of the kit if it has one, else of the trade."""
    colours = catalog.colours.get(scheme)
    if colours is None:
        raise BadInput(f"--scheme {scheme}: expected one of {', '.join(catalog.colours)}")
    need = need_of(link, catalog)
    found: list[tuple[tuple[int, int, int, int, bool], Build]] = []
    for before in _before(need, [o for o in own if o.count] + _shop(catalog)):
        last = before[-1].part.ends[1] if before else None
        near = Port("", before[-1].part.name, last.connector, last.signals, last.supplies_loop) if last else need.computer
        sheet = design(near, need.device, need.levels, need.asked, colours)
        if sheet.missing or not sheet.wires:
            continue
        parts = tuple(offer.part for offer in before)
        result = trace(Chain(need.computer, (*parts, sheet.part()), need.device), need.levels, need.asked, need.around)
        if result.verdict.usable:
            bought = sum(offer.cost >= BOUGHT for offer in before)
            changes_shape = near.connector.shape != need.device.connector.shape
            rank = (result.verdict.rank, bought, len(before), len(result.findings), changes_shape)
            found.append((rank, Build(sheet, parts, result)))
    if not found:
        return None
    best = min(found, key=lambda one: one[0])[1]
    cables = [part for id_ in catalog.part_entries if not (part := catalog.part(id_)).active]
    instead = [one.told for one in cut_down(best.sheet, cables)]
    return replace(best, advice=(screen_of(best.sheet), *hints(best.sheet), *instead))


def _before(need: ChainNeed, own: list[Offer]) -> list[tuple[Offer, ...]]:
    """Nothing, one adapter that goes into the computer, or an adapter and a converter behind it."""
    active = list({o.part.id: o for o in reversed(own) if o.part.active}.values())  # the kit's own comes before the shop's
    first = [o for o in active if o.part.ends[0].connector.why_not_into(need.computer.connector) is None]
    second = [
        (a, b)
        for a, b in product(first, active)
        if a is not b and b.part.ends[0].connector.why_not_into(a.part.ends[1].connector) is None
    ]
    return [(), *((o,) for o in first), *second]


def plan_file(link: Path, kit: Path, catalog: Catalog, k: int = 5, scheme: str = "own") -> Planned:
    """`make_plan` for a link file and a kit file. Raises BadInput with file and line."""
    return make_plan(read_link(link, catalog), read_kit(kit, catalog), catalog, k, scheme)


def build_for_file(path: Path, catalog: Catalog, scheme: str = "own") -> Build:
    """The cable to make for a link file; adapters and converters of its chain are kept. Raises BadInput."""
    link = read_link(path, catalog)
    found = best_build(link, [Offer(part) for part in link.parts], catalog, scheme)
    if found is None:
        raise BadInput("no cable and no converter of the catalog can join these two ports", file=path)
    return found
