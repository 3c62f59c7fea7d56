"""The document `site/1`: read, split and judged; as data, as CSV, and as rows for paper."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import msgspec

from humble_courier.address.site import BusSegment, SitePlace, SitePlan, plan_site
from humble_courier.app.files import csv_bytes
from humble_courier.app.settings.address_plans import bank_of, bus_parts, read_plan
from humble_courier.catalog.load import Catalog
from humble_courier.documents.bus import BankModel
from humble_courier.documents.reader import read_text
from humble_courier.documents.site import SiteModel

UP, DOWN = "\u25b2", "\u25bc"  # a switch that is on, and one that is off, where a line of text has to do


@dataclass(frozen=True)
class JudgedSite:
    """A site plan with its document, and of each device whose bank is known how its switches stand."""

    plan: SitePlan
    model: SiteModel
    switches: dict[str, tuple[int, ...]]

    def address(self, segment: BusSegment, name: str) -> int | None:
        """Of a device on its segment: where it is in conflict, the one that it should get."""
        return segment.plan.suggest.get(name, segment.plan.addresses.get(name))


def judge_site(path: Path, catalog: Catalog) -> JudgedSite:
    """Read and judge a site plan; raises BadInput with file and line."""
    return judge_site_text(read_text(path), str(path), catalog)


def judge_site_text(text: str, name: str, catalog: Catalog) -> JudgedSite:
    """Judge the text of a site plan; raises BadInput with its name and line."""
    document, model = read_plan(text, name, SiteModel, "site/1")
    entry, settings, members = bus_parts(document, model, catalog)
    given = model.instances
    if given is not None and given.last < given.first:
        raise document.error(f"instances from {given.first} to {given.last}: the first is after the last", ("instances",))
    if given is not None and entry.highest_instance is not None and given.last > entry.highest_instance:
        raise document.error(f"instances: {entry.name} has them up to {entry.highest_instance}", ("instances", "to"))
    places = [SitePlace(m, one.segment, one.instance) for m, one in zip(members, model.members, strict=True)]
    entry = msgspec.structs.replace(entry, kept=(*entry.kept, *model.reserve))
    plan = plan_site(entry, settings, places, model.per_segment, (given.first, given.last) if given is not None else None)
    return JudgedSite(plan, model, _switches(model, plan))


def _switches(model: SiteModel, plan: SitePlan) -> dict[str, tuple[int, ...]]:
    by_name = {member.name: member for member in model.members}
    found = {}
    for segment in plan.segments:
        for name in segment.members:
            member = by_name[name]
            own = member.bank or model.bank or (BankModel(len(member.switches)) if member.switches else None)
            address = segment.plan.suggest.get(name, segment.plan.addresses.get(name))
            if own is not None and address is not None:
                bank = bank_of(own)
                if bank.range[0] <= address <= bank.range[1]:
                    found[name] = bank.set_to(address)
    return found


def site_document(judged: JudgedSite) -> dict[str, Any]:
    """The document of `site`."""
    return {
        "segments": [
            {
                "name": segment.name,
                "members": [
                    {
                        "name": name, "address": judged.address(segment, name),
                        "switches": list(judged.switches.get(name, ())), "instance": judged.plan.instances.get(name),
                    }
                    for name in segment.members
                ],
                "highest_master": segment.plan.highest_master,
            }
            for segment in judged.plan.segments
        ],
        "conflicts": [
            {"code": c.code, "where": c.where, "text": c.text, "costs_only": c.costs_only} for c in judged.plan.conflicts
        ],
        "ok": judged.plan.ok,
    }  # fmt: skip


def site_csv(judged: JudgedSite) -> bytes:
    """One row a device, in the order of the cable."""
    rows: list[tuple[object, ...]] = [("segment", "place", "device", "address", "switches from 1", "instance", "settings")]
    settings = judged.model.settings or ""
    for segment in judged.plan.segments:
        for place, name in enumerate(segment.members, start=1):
            switches = "".join(map(str, judged.switches.get(name, ())))
            address, instance = judged.address(segment, name), judged.plan.instances.get(name)
            shown = ["" if one is None else one for one in (address, instance)]
            rows.append((segment.name, place, name, shown[0], switches, shown[1], settings))
    return csv_bytes(rows)


def site_sections(document: dict[str, Any]) -> list[tuple[str, list[tuple[str, str]]]]:
    """`document`: that of `site`. For paper: what speaks against it, then a heading a segment with a row a device.

    Switches are shown as they stand.
    """
    wrong = [(one["where"], one["text"]) for one in document["conflicts"]]
    found = [("What speaks against it", wrong)] if wrong else []
    for segment in document["segments"]:
        rows = []
        for member in segment["members"]:
            told = [f"address {member['address']}" if member["address"] is not None else "no address is left"]
            if member["switches"]:
                told.append(f"switches from 1: {' '.join(UP if on else DOWN for on in member['switches'])}")
            told += [f"instance {member['instance']}"] if member["instance"] is not None else []
            rows.append((member["name"], ", ".join(told)))
        highest = segment["highest_master"]
        top = [("Highest master", f"set to {highest} on every device here")] if highest is not None else []
        found.append((f"{segment['name']}: {len(segment['members'])} devices", top + rows))
    return found
