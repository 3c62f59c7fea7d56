"""Chains for a link out of the kit: the list to choose from, and the one change that mends a chain that does not work."""

from collections import Counter
from dataclasses import dataclass

import msgspec

from humble_courier.app.kit.contents import link_part, parts_of
from humble_courier.app.wire.planning import Planned, make_plan, need_of, offers
from humble_courier.app.wire.tracing import trace_link
from humble_courier.catalog.links import Link, resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.documents.link import LinkModel
from humble_courier.domain.hardware import LEAD, Port
from humble_courier.wiring.build import design
from humble_courier.wiring.findings import Severity
from humble_courier.wiring.planner.search import Plan, find_chains

WIDE = 12  # chains looked at for the one nearest to what lies on the bench


@dataclass(frozen=True)
class Better:
    """Another chain, the sentence that says what changes, and whether all of it is in the kit."""

    model: LinkModel
    text: str
    in_kit: bool


def chains(link: Link, kit: KitModel, catalog: Catalog, k: int = 5) -> Planned:
    """The best chains of the kit for a link. A computer with a 9-contact port of its own has USB sockets as well."""
    return make_plan(link, parts_of(kit, catalog), catalog, k)


def with_plan(model: LinkModel, plan: Plan, items: list[KitItem]) -> LinkModel:
    """The link with the chain of a plan; `items` are what was searched, in order."""
    return msgspec.structs.replace(model, chain=[link_part(items[i], turned) for i, turned in plan.members])


def better_chain(link: Link, kit: KitModel, catalog: Catalog) -> Better | None:
    """The chain that works and differs least from what lies on the bench: out of the kit, else out of the catalog.

    None where the chain works already, or nothing of the trade would.
    """
    now = trace_link(link, catalog)
    if now.verdict.usable and not any(f.severity is Severity.HANDSHAKE for f in now.findings):
        return None
    landed = _landed(link, catalog)
    if landed is not None:
        return landed
    shop = [KitItem(part=id_) for id_ in catalog.part_entries]
    lying = [KitItem(part=p.part) for p in link.model.chain if p.part]
    for items, in_kit in ((list(kit.items) + lying, True), (lying + shop, False)):
        found = find_chains(
            need_of(link, catalog), offers(parts_of(msgspec.structs.replace(kit, items=items), catalog)), WIDE
        )
        good = [plan for plan in found.plans if plan.trace.verdict.rank < now.verdict.rank]
        if good:
            best = min(good, key=lambda plan: (plan.trace.verdict.rank, *_changes(link, plan), plan.rank))
            return Better(with_plan(link.model, best, items), _sentence(link, best), in_kit)
    return None


def _landed(link: Link, catalog: Catalog) -> Better | None:
    """Where each colour of loose leads belongs, by the signals at both ends; None where no lead hangs loose."""
    at = next((i for i, p in enumerate(link.parts) if p.ends[1].connector.family == LEAD and not p.ends[1].lands), None)
    if at is None or at != len(link.parts) - 1:
        return None
    need, before = need_of(link, catalog), link.parts[at - 1] if at else None
    near = Port("", before.name, before.ends[1].connector, before.ends[1].signals) if before else link.computer
    sheet = design(near, link.device, need.levels, need.asked, catalog.colours["own"])
    colour = {w.a.contact: w.b.contact for w in link.parts[at].conductors if w.a.end == 0}
    lands = {colour[wire.a]: wire.b for wire in sheet.wires if wire.a in colour}
    chain = list(link.model.chain)
    chain[at] = msgspec.structs.replace(chain[at], lands=lands)
    model = msgspec.structs.replace(link.model, chain=chain)
    if sheet.missing or not trace_link(resolve_link(model, catalog), catalog).verdict.usable:
        return None
    told = ", ".join(f"{name} to {contact}" for name, contact in lands.items())
    return Better(model, f"Put the leads in: {told}. Colours are as the lead's sheet says; measure them first.", True)


def chain_line(number: int, plan: Plan) -> str:
    """One chain of the list, in words."""
    names = " + ".join(offer.part.name for offer in plan.offers) or "nothing between: they go straight together"
    served = sum(o.successes for o in plan.offers)
    failed = sum(o.failures for o in plan.offers)
    history = f" · served {served}, failed {failed}" if served or failed else ""
    cost = f" · cost {plan.cost:g}" if plan.cost else ""
    return f"{number}. {names} · {plan.trace.verdict}{cost}{history}"


def advice(found: Planned) -> str:
    """What to do where nothing in the kit serves; empty where something does."""
    if found.outcome.plans:
        return ""
    nearest = found.outcome.nearest
    why = ""
    if nearest is not None:
        parts = " + ".join(offer.part.name for offer in nearest.offers) or "the two joined directly"
        why = f"Nearest is {lower(parts)}: {nearest.trace.findings[0].text}. " if nearest.trace.findings else ""
    buy = f"To buy: {', '.join(part.name for part in found.buy)}. " if found.buy else ""
    return f"{why}{buy}Or build a cable: its sheet is ready."


def _names(link: Link, plan: Plan) -> tuple[Counter[str], Counter[str]]:
    """Names of what comes out and of what goes in."""
    before, after = Counter(p.name for p in link.parts), Counter(o.part.name for o in plan.offers)
    return before - after, after - before


def _changes(link: Link, plan: Plan) -> tuple[bool, int]:
    """Whether the cable that bridges the distance is lost, and how many parts change."""
    out, into = _names(link, plan)
    reaches = any(o.part.length_m for o in plan.offers) or not any(p.length_m for p in link.parts)
    return not reaches, max(out.total(), into.total())


def _sentence(link: Link, plan: Plan) -> str:
    out, into = (_and([lower(name) for name in names.elements()]) for names in _names(link, plan))
    if out and into:
        return f"Take the {into} in place of the {out}."
    return f"Put in the {into}." if into else f"Take out the {out}."


def _and(names: list[str]) -> str:
    return " and the ".join(names)


def lower(name: str) -> str:
    """A name inside a sentence; what begins with capitals keeps them."""
    return name if name[:2].isupper() else name[0].lower() + name[1:]
