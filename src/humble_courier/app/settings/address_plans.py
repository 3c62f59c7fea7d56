"""The documents `bus/1` and `io/1`: read, judged and completed."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, TypeVar

from humble_courier.address.bus import BusPlan, Member, plan_bus
from humble_courier.address.conflicts import Conflict as Conflict
from humble_courier.address.network import NetworkPlan, factory_clash, interface, plan_network
from humble_courier.address.points import Module, PointPlan, number, plan_points
from humble_courier.address.points import shown as shown
from humble_courier.address.switches import Bank
from humble_courier.catalog.entries import BusProtocolEntry
from humble_courier.catalog.load import Catalog, nearest
from humble_courier.documents.bus import BankModel, BusModel
from humble_courier.documents.io import IoModel
from humble_courier.documents.reader import Document, convert, parse_kind, read_text
from humble_courier.documents.site import SiteModel
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput

T = TypeVar("T")


@dataclass(frozen=True)
class JudgedBus:
    """A bus plan with its document, and the switch positions of addresses that should change."""

    plan: BusPlan
    model: BusModel
    switches: dict[str, tuple[int, ...]]


def read_plan(text: str, name: str, kind: type[T], courier: str) -> tuple[Document, T]:
    """A document of an open format, by its first line. Raises BadInput with its line."""
    document = parse_kind(text, name, courier)
    return document, convert(document, kind)


def _at(document: Document, error: BadInput, *path: Any) -> BadInput:
    return document.error(error.text, path)


def judge_bus(path: Path, catalog: Catalog) -> JudgedBus:
    """Read and judge a bus plan; raises BadInput with file and line."""
    return judge_bus_text(read_text(path), str(path), catalog)


def judge_bus_text(text: str, name: str, catalog: Catalog) -> JudgedBus:
    """Judge the text of a bus plan; raises BadInput with its name and line."""
    document, model = read_plan(text, name, BusModel, "bus/1")
    entry, settings, members = bus_parts(document, model, catalog)
    plan = plan_bus(entry, settings, members)
    return JudgedBus(plan, model, _switches(model, plan))


def bus_parts(
    document: Document, model: BusModel | SiteModel, catalog: Catalog
) -> tuple[BusProtocolEntry, str, list[Member]]:  # fmt: skip
    """Protocol, settings and devices of a bus or of a site. Raises BadInput with the line of what is wrong."""
    entry = catalog.bus_protocols.get(model.protocol)
    if entry is None:
        hint = nearest(model.protocol, list(catalog.bus_protocols))
        raise document.error(f"unknown protocol “{model.protocol}”{hint}", ("protocol",))
    settings = _settings(document, model.settings, "settings")
    members = [_member(document, model, i) for i in range(len(model.members))]
    seen = set[str]()
    for i, member in enumerate(members):
        if member.name in seen:
            raise document.error(f"“{member.name}” stands twice", ("members", i, "name"))
        seen.add(member.name)
    return entry, settings or "", [m if settings else Member(m.name, m.address) for m in members]


def _settings(document: Document, text: str | None, *path: Any) -> str | None:
    try:
        return Settings.parse(text).spoken if text else None
    except BadInput as error:
        raise _at(document, error, *path) from None


def bank_of(model: BankModel) -> Bank:
    """The switches that a document describes."""
    return Bank(model.width, model.msb_first, model.on_is_zero, model.offset)


def _member(document: Document, model: BusModel | SiteModel, i: int) -> Member:
    member = model.members[i]
    settings = _settings(document, member.settings, "members", i, "settings")
    if member.switches is None:
        return Member(member.name, member.address, settings)
    bank = member.bank or model.bank or BankModel(len(member.switches) or 1)
    try:
        address = bank_of(bank).read(member.switches)
    except BadInput as error:
        raise _at(document, error, "members", i, "switches") from None
    if member.address is not None and member.address != address:
        told = f"address {member.address} and switches that say {address} contradict each other"
        raise document.error(told, ("members", i))
    return Member(member.name, address, settings)


def _switches(model: BusModel, plan: BusPlan) -> dict[str, tuple[int, ...]]:
    """How to set the switches of devices that get a new address, where their bank is known and reaches so far."""
    found = {}
    for member in model.members:
        own = member.bank or model.bank or (BankModel(len(member.switches)) if member.switches else None)
        address = plan.suggest.get(member.name, plan.addresses.get(member.name) if member.address is None else None)
        if own is not None and address is not None and bank_of(own).range[0] <= address <= bank_of(own).range[1]:
            found[member.name] = bank_of(own).set_to(address)
    return found


def judge_points(path: Path) -> tuple[PointPlan, int]:
    """Read and judge a plan of I/O points; returns it with its radix."""
    plan, model = judge_points_text(read_text(path), str(path))
    return plan, model.radix


def judge_points_text(text: str, name: str) -> tuple[PointPlan, IoModel]:
    """Judge the text of a plan of I/O points; raises BadInput with its name and line."""
    document, model = read_plan(text, name, IoModel, "io/1")
    modules = []
    for i, module in enumerate(model.modules):
        try:
            start = None if module.start is None else number(str(module.start), model.radix)
        except BadInput as error:
            raise _at(document, error, "modules", i, "start") from None
        modules.append(Module(module.name, module.points, start, module.letter, module.terminal))
    highest = None if model.highest is None else number(str(model.highest), model.radix)
    return plan_points(modules, model.radix, highest), model


def points_shown(plan: PointPlan, radix: int) -> list[dict[str, str]]:
    """Assignments as the open format has them: strings in the plan's radix."""
    return [{"name": p.name, "start": shown(p.start, radix), "end": shown(p.end, radix)} for p in plan.placed]


def points_printed(plan: PointPlan, radix: int) -> dict[str, str]:
    """The points of each module as they are printed at its terminals."""
    return {p.name: f"{p.letter}{shown(p.start, radix)} to {p.letter}{shown(p.end, radix)}" for p in plan.placed}


def which_terminal(plan: PointPlan, radix: int, point: str) -> str:
    """Where a point is, in a sentence. Raises BadInput for one that is none."""
    letters = sorted({p.letter for p in plan.placed}, key=len, reverse=True)
    letter = next((one for one in letters if one and point.upper().startswith(one.upper())), "")
    found = plan.at_point(letter, number(point[len(letter) :], radix))
    where = " and ".join(f"terminal {terminal} of {placed.name}" for placed, terminal in found)
    return f"{point} is {where}" if found else f"{point} is on no module"


def which_point(plan: PointPlan, radix: int, terminal: str) -> str:
    """Which point is at a terminal (`in-a:3`), in a sentence. Raises BadInput."""
    name, _, count = terminal.rpartition(":")
    if not name or not count.isdecimal():
        raise BadInput(f"terminal “{terminal}”: expected a module and a number, as in {plan.placed[0].name}:1")
    placed = next((p for p in plan.placed if p.name == name), None)
    letter = placed.letter if placed is not None else ""
    return f"terminal {count} of {name} is {letter}{shown(plan.at_terminal(name, int(count)), radix)}"


def next_start_shown(plan: PointPlan, radix: int) -> str:
    """The next free start, as a string in the plan's radix."""
    return shown(plan.next_start, radix)


@dataclass(frozen=True)
class JudgedNetwork:
    """Both ends of a network cable: addresses as they are and as the computer should take it, and what stands against it.

    `clash`: whether the device's factory address is in use at the site.
    """

    plan: NetworkPlan
    device: str
    computer: str
    clash: bool


def judge_network(device: str, computer: str, others: Sequence[str] = (), site: Sequence[str] = ()) -> JudgedNetwork:
    """Whether two addresses with their networks (`192.0.2.10/24`) reach each other. Raises BadInput."""
    ends = interface(device), interface(computer)
    found = plan_network(*ends, tuple(interface(text) for text in others))
    clash = factory_clash(ends[0], tuple(interface(text) for text in site))
    plan = replace(found, ok=found.ok and not clash, conflicts=(*found.conflicts, *clash))
    return JudgedNetwork(plan, str(ends[0]), found.suggest or str(ends[1]), bool(clash))
