"""The open formats of `pack` and `day`: the bag, and the sheet of the day."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from humble_courier.app.prepare.sheet_acts import acts
from humble_courier.app.settings.site_plans import site_document
from humble_courier.app.today.before_leaving import LeavingAct, before_leaving, in_order
from humble_courier.app.today.day import Day, Visit
from humble_courier.app.today.kept import Owed
from humble_courier.app.today.packing import Packing
from humble_courier.app.today.this_computer import computer_acts
from humble_courier.catalog.load import Catalog
from humble_courier.plan.least_bag import BagFound


def to_do(
    day: Day, packing: Packing, found: BagFound | None, catalog: Catalog,
    owed: Sequence[Owed] = (), root: Path = Path("/"),
) -> list[LeavingAct]:  # fmt: skip
    """All that is done before one leaves: for the links, and on the computer under `root` for the adapters of the bag."""
    pieces = [] if found is None else [one for one, many in zip(packing.kit, found.bag, strict=True) if many]
    kinds = {id_: entry.kind for id_, entry in catalog.part_entries.items()}
    return in_order([*before_leaving(day, packing, catalog, owed), *computer_acts(pieces, kinds, root)])


def packed(
    day: Day, packing: Packing, found: BagFound | None, unsafe: list[int], catalog: Catalog
) -> dict[str, Any]:  # fmt: skip
    """The document of `pack`. `missing`: links that this kit cannot serve, or not after a loss."""
    todo = to_do(day, packing, found, catalog)
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
    taken, ways = serves(day, packing, found), chains(day, packing, found, catalog)
    return {
        "name": day.name, "date": day.date.isoformat() if day.date else None,
        "visits": [visit_sheet(v, taken[v.model.id], catalog, way) for v, way in zip(day.visits, ways, strict=True)],
        "before_leaving": [{"do": one.do, "why": one.why} for one in to_do(day, packing, found, catalog)],
    }  # fmt: skip


def chains(day: Day, packing: Packing, found: BagFound | None, catalog: Catalog) -> list[dict[str, list[str]]]:
    """For each visit, by link: the names of the parts between computer and device, in their order."""
    made: list[dict[str, list[str]]] = [{} for _ in day.visits]
    if found is not None:
        for link, chain in zip(packing.links, packing.chosen(found.bag), strict=True):
            named = [catalog.part_entries[part].name if part in catalog.part_entries else part for part in chain]
            made[link.visit][link.name] = named
    return made


def visit_sheet(visit: Visit, take: list[str], catalog: Catalog, chains: dict[str, list[str]]) -> dict[str, Any]:
    """What is done at one place: each act once, in the order of its links."""
    todo = [act for link in visit.links if link.sheet for act in acts(link.sheet, catalog.cautions)]
    prepare = list(dict.fromkeys(act.act for act in todo if not act.after))
    after = list(dict.fromkeys(act.act for act in todo if act.after))
    cautions = list(dict.fromkeys(act.caution for act in todo if act.caution))
    note_down = list(dict.fromkeys(one for link in visit.links if link.sheet for one in link.sheet.note_down))
    settings = {link.name: link.device_settings.spoken for link in visit.links if link.device_settings is not None}
    words = {link.name: [words.say for words in link.sheet.first_words] for link in visit.links if link.sheet is not None}
    return {
        "id": visit.model.id, "at": visit.model.at, "minutes": visit.minutes, "take": take, "prepare": prepare,
        "cautions": cautions, "settings": settings, "words": words, "afterwards": after, "note": visit.model.note,
        "chains": chains, "note_down": note_down,
        "plans": [{"name": name, **site_document(plan)} for name, plan in visit.plans],
    }  # fmt: skip
