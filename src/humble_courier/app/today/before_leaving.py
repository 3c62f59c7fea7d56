"""What must be done before one leaves: what to buy, to build, to fetch, to ask for, with the reason of each."""

from collections.abc import Iterator
from dataclasses import dataclass

from humble_courier.app.today.day import Day
from humble_courier.app.today.packing import Packing
from humble_courier.catalog.links import Link

KINDS = ("buy", "build", "fetch", "number", "ask", "note")  # what takes longest to get comes first


@dataclass(frozen=True)
class LeavingAct:
    """One thing to do. `kind`: one of `KINDS`."""

    kind: str
    do: str
    why: str

    @property
    def id(self) -> str:
        """By which its tick is kept."""
        return f"{self.kind}: {self.do}"


def before_leaving(day: Day, packing: Packing) -> list[LeavingAct]:
    """All of it, each once, what is hardest to get first."""
    found = [*_to_buy_or_build(day, packing)]
    for visit in day.visits:
        for link in visit.links:
            found += _of_link(link, visit.model.id)
    once = list({one.do: one for one in reversed(found)}.values())[::-1]
    return sorted(once, key=lambda one: KINDS.index(one.kind))


def _to_buy_or_build(day: Day, packing: Packing) -> Iterator[LeavingAct]:
    for link, planned in packing.lacking:
        why = f"nothing in the kit serves {link.name} at {day.visits[link.visit].model.id}"
        for part in planned.buy:
            yield LeavingAct("buy", f"Buy: {part.name}", why)
        if planned.build is not None:
            ends = f"{planned.build.sheet.a} to {planned.build.sheet.b}"
            instead = "; in place of buying" if planned.buy else ""
            yield LeavingAct("build", f"Build: a cable {ends}, {len(planned.build.sheet.wires)} wires", why + instead)
        if not planned.buy and planned.build is None:
            yield LeavingAct("ask", f"Ask for a way to {link.name}", f"{why}, and no standard part or cable joins it")


def _of_link(link: Link, place: str) -> Iterator[LeavingAct]:
    sheet = link.sheet
    if sheet is None:
        yield LeavingAct("fetch", f"Fetch: the manual of {link.name}", f"it has no sheet, and is visited at {place}")
        return
    do, why = f"Fetch: manual of the {sheet.name}: {sheet.edition}", f"its edition is compared with the device at {place}"
    yield LeavingAct("fetch", do, why)
    program = sheet.program
    if program.highest_port:
        why = f"the usual program of the {sheet.name} takes no higher one"
        yield LeavingAct("number", f"Give its adapter a port number up to {program.highest_port}", why)
    if program.systems:
        why = f"the usual program of the {sheet.name} runs there only"
        yield LeavingAct("fetch", f"Fetch: a computer with {', '.join(program.systems)}", why)
    for alarm in sheet.alarms:
        yield LeavingAct("ask", f"Tell those who mind: {alarm}", f"connecting to the {sheet.name} sets it off")
    if sheet.bands:
        bands = "; ".join(f"{b.region} {b.from_mhz:g} to {b.to_mhz:g} MHz" for b in sheet.bands)
        yield LeavingAct("ask", f"Have the licence of the station at hand: {bands}", f"the {sheet.name} may transmit")
    if sheet.note_down:
        yield LeavingAct("note", f"Take the last notes: {', '.join(sheet.note_down)}", f"to compare at the {sheet.name}")
