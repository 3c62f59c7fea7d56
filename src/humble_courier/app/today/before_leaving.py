"""What must be done before one leaves: what to buy, to build, to fetch, to ask for, with the reason of each."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from humble_courier.app.today.day import Day
from humble_courier.app.today.kept import Owed
from humble_courier.app.today.packing import Packing
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.domain.hardware import Part

LONG_MINUTES = 60  # of work at the places

KINDS = ("buy", "build", "fetch", "number", "ask", "arrange", "take", "try", "note")  # what takes longest to get comes first


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


def before_leaving(day: Day, packing: Packing, catalog: Catalog, owed: Sequence[Owed] = ()) -> list[LeavingAct]:
    """All of it, each once, what is hardest to get first. `owed`: pieces of an earlier day that are not back."""
    found = [*_to_buy_or_build(day, packing), *_owed(owed, catalog), *_to_charge(day)]
    for visit in day.visits:
        for link in visit.links:
            found += _of_link(link, visit.model.id)
            found += _of_cautions(link, visit.model.id, catalog)
    once = list({one.do: one for one in reversed(found)}.values())[::-1]
    return in_order(once)


def in_order(todo: Iterable[LeavingAct]) -> list[LeavingAct]:
    """What is hardest to get first."""
    return sorted(todo, key=lambda one: KINDS.index(one.kind))


def _to_buy_or_build(day: Day, packing: Packing) -> Iterator[LeavingAct]:
    for link, planned in packing.lacking:
        why = f"nothing in the kit serves {link.name} at {day.visits[link.visit].model.id}"
        others = [" and ".join(part.name for part in other) for other in planned.instead]
        other = f"; in place of that: {', or '.join(others)}" if others else ""
        for part in planned.buy:
            yield LeavingAct("buy", f"Buy: {part.name}", f"{why}; {_where(part, packing)}{other}")
        if planned.build is not None:
            ends = f"{planned.build.sheet.a} to {planned.build.sheet.b}"
            instead = "; in place of buying" if planned.buy else ""
            yield LeavingAct("build", f"Build: a cable {ends}, {len(planned.build.sheet.wires)} wires", why + instead)
        if not planned.buy and planned.build is None:
            yield LeavingAct("ask", f"Ask for a way to {link.name}", f"{why}, and no standard part or cable joins it")


def _where(part: Part, packing: Packing) -> str:
    return "a shop for computers has it" if part.id in packing.shops else "order it: no shop nearby need have it"


def _owed(owed: Sequence[Owed], catalog: Catalog) -> Iterator[LeavingAct]:
    for one in owed:
        name = catalog.part_entries[one.part].name if one.part in catalog.part_entries else one.part
        where = f"; it was for {', '.join(one.places)}" if one.places else ""
        yield LeavingAct("fetch", f"Fetch: {name}", f"it was taken on an earlier day and is not back{where}")


def _to_charge(day: Day) -> Iterator[LeavingAct]:
    """Where the work takes longer than one would trust a battery that nobody looked at (common practice)."""
    minutes = sum(visit.minutes for visit in day.visits)
    if minutes >= LONG_MINUTES:
        places = "1 place" if len(day.visits) == 1 else f"{len(day.visits)} places"
        yield LeavingAct("take", "Charge this computer and what has a battery; take its plug", f"{minutes} min at {places}")


def _of_cautions(link: Link, place: str, catalog: Catalog) -> Iterator[LeavingAct]:
    """What the cautions of the device want seen to before one is there."""
    if link.sheet is None:
        return
    named = [
        *link.sheet.cautions,
        *(act.caution for act in [*link.sheet.preconditions, *link.sheet.afterwards] if act.caution),
    ]
    for caution in dict.fromkeys(named):
        entry = catalog.cautions.get(caution)
        if entry is not None and entry.arrange:
            yield LeavingAct("arrange", f"Arrange: {entry.arrange}", f"a caution of the {link.sheet.name} at {place}")


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
        licence = f"Fetch: the program of the {sheet.name}, its licence and what activates it"
        yield LeavingAct(
            "fetch", licence, f"there need be no network at {place}{f'; {program.note}' if program.note else ''}"
        )
    for alarm in sheet.alarms:
        yield LeavingAct("ask", f"Tell those who mind: {alarm}", f"connecting to the {sheet.name} sets it off")
    if sheet.bands:
        bands = "; ".join(f"{b.region} {b.from_mhz:g} to {b.to_mhz:g} MHz" for b in sheet.bands)
        yield LeavingAct("ask", f"Have the licence of the station at hand: {bands}", f"the {sheet.name} may transmit")
    if sheet.note_down:
        yield LeavingAct("note", f"Take the last notes: {', '.join(sheet.note_down)}", f"to compare at the {sheet.name}")
