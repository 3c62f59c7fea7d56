"""The open formats of `pack` and `day`: the bag, and the sheet of the day."""

from typing import Any

from humble_courier.app.prepare.sheet_acts import acts
from humble_courier.app.today.before_leaving import LeavingAct, before_leaving
from humble_courier.app.today.day import Day, Visit
from humble_courier.app.today.packing import Packing
from humble_courier.catalog.load import Catalog
from humble_courier.plan.least_bag import BagFound


def packed(day: Day, packing: Packing, found: BagFound | None, unsafe: list[int]) -> dict[str, Any]:
    """The document of `pack`. `missing`: links that this kit cannot serve, or not after a loss."""
    todo = before_leaving(day, packing)
    missing = [link.name for link, _ in packing.lacking] + [packing.links[i].name for i in unsafe]
    if found is None:  # no bag: whatever the kit could serve one by one is not served either
        missing = [link.name for link in packing.links] + [link.name for link, _ in packing.lacking]
    return {
        "take": packing.pieces(found.bag) if found is not None else [],
        "serves": serves(day, packing, found),
        "cost": packing.cost(found.bag) if found is not None else 0.0,
        "weight_g": packing.grams(found.bag) if found is not None else 0.0,
        "missing": missing,
        **{kind: [one.do.partition(": ")[2] for one in todo if one.kind == kind] for kind in ("buy", "build", "fetch")},
        "optimal": found is not None and found.optimal,
        "gap": round(found.gap, 6) if found is not None else None,
        "fails_without": packing.fails_without(found.bag) if found is not None else {},
    }


def serves(day: Day, packing: Packing, found: BagFound | None) -> dict[str, list[str]]:
    """For each visit the parts of its chains, one id for each piece that is wanted there."""
    made: dict[str, list[str]] = {visit.model.id: [] for visit in day.visits}
    if found is None:
        return made
    for link, chain in zip(packing.links, packing.chosen(found.bag), strict=True):
        visit = day.visits[link.visit]
        have = made[visit.model.id]
        spare = [] if visit.model.together else list(have)  # one after the other, a piece serves again
        for part in chain:
            if part in spare:
                spare.remove(part)
            else:
                have.append(part)
    return made


def day_sheet(day: Day, packing: Packing, found: BagFound | None, catalog: Catalog) -> dict[str, Any]:
    """The document of `day`."""
    taken = serves(day, packing, found)
    return {
        "name": day.name, "date": day.date.isoformat() if day.date else None,
        "visits": [visit_sheet(visit, taken[visit.model.id], catalog) for visit in day.visits],
        "before_leaving": [{"do": one.do, "why": one.why} for one in before_leaving(day, packing)],
    }  # fmt: skip


def visit_sheet(visit: Visit, take: list[str], catalog: Catalog) -> dict[str, Any]:
    """What is done at one place: each act once, in the order of its links."""
    todo = [act for link in visit.links if link.sheet for act in acts(link.sheet, catalog.cautions)]
    prepare = list(dict.fromkeys(act.act for act in todo if not act.after))
    after = list(dict.fromkeys(act.act for act in todo if act.after))
    cautions = list(dict.fromkeys(act.caution for act in todo if act.caution))
    settings = {link.name: link.device_settings.spoken for link in visit.links if link.device_settings is not None}
    words = {link.name: [words.say for words in link.sheet.first_words] for link in visit.links if link.sheet is not None}
    return {
        "id": visit.model.id, "at": visit.model.at, "minutes": visit.minutes, "take": take, "prepare": prepare,
        "cautions": cautions, "settings": settings, "words": words, "afterwards": after, "note": visit.model.note,
    }  # fmt: skip


def ticked_last(todo: list[LeavingAct], done: set[str]) -> list[LeavingAct]:
    """What is left first."""
    return sorted(todo, key=lambda one: one.id in done)
