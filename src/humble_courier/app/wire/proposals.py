"""How the computer gets to a device: chains of the kit, chains with parts to buy, nothing between, and a cable to make.

Each is a whole link document with its verdict, so that one press takes it. The kit comes first, then what is made by hand
with what the kit has, then what must be bought; nothing that may do damage is proposed.
"""

from dataclasses import dataclass
from enum import StrEnum

import msgspec

from humble_courier.app.kit.contents import parts_of
from humble_courier.app.wire.chains import lower, with_plan
from humble_courier.app.wire.planning import Build, best_build, need_of, offers
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.base import EndModel
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.documents.link import LinkModel, LinkPart
from humble_courier.domain.hardware import Connector
from humble_courier.wiring.findings import Verdict
from humble_courier.wiring.planner.search import Plan, find_chains

SHOWN = 3  # of the kit, and of the shop
LOOKED_AT = 12
MADE = "made by hand"
NOT_MADE = ("GPIB",)  # nobody solders one at the device; USB neither
MADE_LENGTH_M = 2.0  # of a cable that is not made yet (common practice)


class Whence(StrEnum):
    """Where the parts come from."""

    KIT = "in the kit"
    MAKE = "to make"
    BUY = "to buy"
    BUY_AND_MAKE = "to buy and to make"


@dataclass(frozen=True)
class Proposal:
    """One way: the link with it, what it is called, what is said of it, and its verdict."""

    model: LinkModel
    title: str
    told: str
    whence: Whence
    verdict: Verdict


def proposals(link: Link, kit: KitModel, catalog: Catalog) -> list[Proposal]:
    """Ways to the device of a link, the best first; its own chain is left aside."""
    need, own = need_of(link, catalog), list(kit.items)
    have = offers(parts_of(kit, catalog))  # in the order of the items, which a plan names by their places
    at_hand = [offer for offer in have if offer.count]
    plans = find_chains(need, have, SHOWN).plans
    found = [_of_plan(link, plan, own, Whence.KIT) for plan in plans]
    family = link.device.connector.family
    build = None if family in NOT_MADE or family.startswith("USB") else best_build(link, at_hand, catalog)
    if build is not None:
        ids = {offer.part.id for offer in at_hand}
        found.append(made_by_hand(link, build, all(part.id in ids for part in build.before)))
    shop = [*own, *(KitItem(part=id_) for id_ in catalog.part_entries)]
    bought = find_chains(need, offers(parts_of(msgspec.structs.replace(kit, items=shop), catalog)), LOOKED_AT).plans
    listed = {one.title for one in found}
    for plan in sorted(bought, key=lambda plan: (plan.trace.verdict.rank, len(plan.members), plan.rank)):
        one = _of_plan(link, plan, shop, Whence.BUY)
        if one.title not in listed and sum(o.whence is Whence.BUY for o in found) < SHOWN:
            listed.add(one.title)
            found.append(one)
    safe = [one for one in found if one.verdict is not Verdict.MAY_DAMAGE]
    return sorted(safe, key=lambda one: (one.verdict.rank, list(Whence).index(one.whence)))


def _of_plan(link: Link, plan: Plan, items: list[KitItem], whence: Whence) -> Proposal:
    names = " + ".join(offer.part.name for offer in plan.offers)
    served, failed = sum(o.successes for o in plan.offers), sum(o.failures for o in plan.offers)
    history = f"served {served} times, failed {failed}" if served or failed else "not used yet"
    title = names or "Nothing between: they go straight together"
    return Proposal(with_plan(link.model, plan, items), title, history, whence, plan.trace.verdict)


def made_by_hand(link: Link, build: Build, at_hand: bool = True) -> Proposal:
    """The chain with a cable to make at its end; `at_hand`: whether the kit has what goes before it."""
    sheet = build.sheet
    ends = [_end(sheet.a), _end(sheet.b)]
    wires = list(dict.fromkeys(f"A{_sep(wire.a)}-B{_sep(wire.b)}" for wire in sheet.wires))
    lead = LinkPart(id=MADE, ends=ends, conductors=wires, length_m=MADE_LENGTH_M)
    model = msgspec.structs.replace(link.model, chain=[*(LinkPart(part=part.id) for part in build.before), lead])
    before = " + ".join(part.name for part in build.before)
    what = f"a lead of {len(wires)} wires" if before else f"A lead of {len(wires)} wires"
    title = f"{before} + {what}" if before else what
    told = f"made by hand in half an hour: {', '.join(f'{w.at_a} to {w.at_b}' for w in sheet.wires)}"
    return Proposal(model, title, told, Whence.MAKE if at_hand else Whence.BUY_AND_MAKE, build.trace.verdict)


def _end(connector: Connector) -> EndModel:
    return msgspec.convert(
        {"family": connector.family, "contacts": connector.contacts, "gender": connector.gender}, EndModel
    )


def _sep(contact: str) -> str:
    """Contacts that are letters are written behind a colon."""
    return contact if contact.isdigit() else f":{contact}"


def best(link: Link, kit: KitModel, catalog: Catalog) -> Proposal | None:
    """The first way that works; None where there is none."""
    return next((one for one in proposals(link, kit, catalog) if one.verdict.usable), None)


def in_a_sentence(one: Proposal) -> str:
    """What to do for it."""
    doing = {Whence.KIT: "Take", Whence.MAKE: "Make and take"}.get(one.whence, "It takes")
    return f"{doing} the {lower(one.title)} ({one.whence.value})."
