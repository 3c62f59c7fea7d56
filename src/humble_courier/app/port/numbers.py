"""The document `port-numbers/1`, and the numbers that hold the limits of all programs at once."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from humble_courier.catalog.load import Catalog
from humble_courier.documents.port_numbers import AdapterModel, PortNumbers, ProgramModel
from humble_courier.documents.reader import convert, parse_kind, read_text
from humble_courier.errors import BadInput
from humble_courier.host.kinds import HostPort, PortKind
from humble_courier.host.numbers import HIGHEST as HIGHEST
from humble_courier.host.numbers import Adapter, Assignment, Program, assign


def read_plan(path: Path) -> PortNumbers:
    """Read the document; raises BadInput with file and line."""
    document = parse_kind(read_text(path), str(path), "port-numbers/1")
    plan = convert(document, PortNumbers)
    known = [adapter.id for adapter in plan.adapters]
    for i, name in enumerate(known):
        if name in known[:i]:
            raise document.error(f"adapter “{name}” stands twice", ("adapters", i))
    for i, program in enumerate(plan.programs):
        if program.uses not in known:
            raise document.error(f"uses: no adapter is called “{program.uses}”", ("programs", i, "uses"))
    return plan


def solve(plan: PortNumbers) -> tuple[Assignment, list[tuple[str, str]]]:
    """The numbers, and the steps to take, each with its reason."""
    adapters = [Adapter(a.id, a.number) for a in plan.adapters]
    programs = [Program(p.id, p.uses, p.highest) for p in plan.programs]
    found = assign(adapters, programs, frozenset(plan.reserved))
    now = {a.id: a.number for a in plan.adapters}
    moving = [a.id for a in plan.adapters if a.id in found.numbers and found.numbers[a.id] != now[a.id]]
    taken = {n for n in now.values() if n is not None}
    steps = [
        (
            f"free number {found.numbers[id_]}",
            "an adapter that moves away holds it: move that one first, or remove its ghost",
        )
        for id_ in moving
        if found.numbers[id_] in taken
    ]
    steps += [
        (f"give {id_} the number {found.numbers[id_]} (it had {now[id_] or 'none'})", _why(plan, id_)) for id_ in moving
    ]
    return found, steps


def hand_over(catalog: Catalog) -> list[tuple[str, str]]:
    """What to do where no number can be moved: (do, why)."""
    return [(entry.do, entry.why) for entry in catalog.hand_over.values()]


def _why(plan: PortNumbers, adapter: str) -> str:
    limits = [f"{p.id} accepts ports up to {p.highest}" for p in plan.programs if p.uses == adapter]
    return "; ".join(limits) or "its number is needed elsewhere"


@dataclass(frozen=True)
class NumberNeed:
    """An adapter in the window's table: what it is called, its number now, what its program accepts (0: neither)."""

    adapter: str
    number: int
    highest: int


def told(needs: list[NumberNeed], reserved: str, catalog: Catalog) -> tuple[str, list[tuple[str, str]]]:
    """A headline and the steps for adapters and limits typed into the window.

    `reserved` holds numbers that ghosts or other things occupy, with commas. Raises BadInput where it is no such list.
    """
    words = reserved.replace(",", " ").split()
    if not all(word.isdecimal() and 1 <= int(word) <= HIGHEST for word in words):
        raise BadInput(f"occupied numbers “{reserved}”: expected numbers from 1 to {HIGHEST}, with commas")
    plan = PortNumbers(
        "port-numbers/1",
        [AdapterModel(need.adapter, need.number or None) for need in needs],
        [ProgramModel(f"its program ({need.adapter})", need.adapter, need.highest) for need in needs if need.highest],
        [int(word) for word in words],
    )
    found, steps = solve(plan)
    if found.conflicts:
        return "; ".join(found.conflicts), [*steps, *hand_over(catalog)]
    if not found.changes:
        return "Every program accepts its number as it is", []
    count = "One number has" if found.changes == 1 else f"{found.changes} numbers have"
    return f"{count} to change", steps


def needs_of(ports: Sequence[HostPort]) -> list[NumberNeed]:
    """A need for each adapter and each port that is built in, numbered as they stand."""
    adapters = [port for port in ports if port.kind in (PortKind.USB, PortKind.NATIVE)]
    return [NumberNeed(port.address, at, 0) for at, port in enumerate(adapters, start=1)]
