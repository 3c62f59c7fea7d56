"""The kit: what is in the bag. Its document `kit/1` is the truth, and every change makes a new one."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import msgspec

from humble_courier.catalog.kits import KitPart as KitPart
from humble_courier.catalog.kits import kit_from_text, resolve_kit
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.named import connector_named
from humble_courier.documents.base import EndModel
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.documents.link import LinkPart
from humble_courier.domain.hardware import Connector
from humble_courier.errors import BadInput, ChangedElsewhere

if TYPE_CHECKING:
    from humble_courier.records.store import Store

KEY = "kit"  # under which the records keep it
EMPTY = KitModel(courier="kit/1")


def load_kit(store: "Store") -> KitModel:
    """The kit in the records; an empty one where there is none yet. Raises BadInput where it cannot be read."""
    text = store.setting(KEY)
    try:
        return msgspec.json.decode(text, type=KitModel) if text else EMPTY
    except msgspec.MsgspecError as error:
        raise BadInput(f"the kit in the records cannot be read: {error}") from None


def save_kit(store: "Store", kit: KitModel, was: KitModel = EMPTY) -> None:
    """Keep the kit in place of what it was; raises ChangedElsewhere where it is another by now."""
    there = store.setting(KEY)
    if there is not None and load_kit(store) != was:
        raise ChangedElsewhere("the kit")
    store.replace(KEY, msgspec.json.encode(kit).decode(), there)


def parts_of(kit: KitModel, catalog: Catalog) -> list[KitPart]:
    """The items with their parts looked up; an item that nobody knows (any more) is left out."""
    return [found for item in kit.items if (found := _known(item, catalog)) is not None]


def _known(item: KitItem, catalog: Catalog) -> KitPart | None:
    try:
        return resolve_kit(KitModel(courier="kit/1", items=[item]), catalog)[0]
    except BadInput:
        return None


def with_item(kit: KitModel, item: KitItem, catalog: Catalog) -> KitModel:
    """One more of what is there already, or a new item. Raises BadInput for a part that the catalog does not know."""
    resolve_kit(KitModel(courier="kit/1", items=[item]), catalog)
    for i, known in enumerate(kit.items):
        if item.part is not None and known.part == item.part and not known.serial:
            return with_count(kit, i, known.count + 1)
    return msgspec.structs.replace(kit, items=[*kit.items, item])


def with_count(kit: KitModel, index: int, count: int) -> KitModel:
    """Another number of one item; none of it takes it out."""
    items = list(kit.items)
    items[index : index + 1] = [msgspec.structs.replace(items[index], count=count)] if count > 0 else []
    return msgspec.structs.replace(kit, items=items)


def own_lead(name: str, first: str, second: str, conductors: str, catalog: Catalog) -> KitItem:
    """A part of one's own from words. Raises BadInput where a word is wrong.

    Ends: `D9 socket`; several with ` and ` between; `leads` for loose conductors, which are then called by their colours;
    an end that is active by its signals: `D9 plug with 2 RXD in rs232; 3 TXD out rs232; 5 GND`. Conductors: `2-3, 3-2, 5-5`,
    `2-white`, or with the letter of an end where it has more than two: `A2-B3, A3-C2`.
    """
    if not name.strip():
        raise BadInput("a lead of your own needs a name, as on its label")
    words = [one for half in (first, second) for one in half.split(" and ")]
    wires = [_wire(word) for word in conductors.replace(";", ",").split(",") if word.strip()]
    loose = {_LETTERS[i] for i, one in enumerate(words) if one.strip().lower() in LOOSE}
    wires = [_coloured(wire, loose) for wire in wires]
    ends = [
        _loose(_LETTERS[i], wires) if _LETTERS[i] in loose else end_in_words(one, catalog) for i, one in enumerate(words)
    ]
    item = KitItem(id=name.strip(), ends=ends, conductors=wires)
    resolve_kit(KitModel(courier="kit/1", items=[item]), catalog)
    return item


_LETTERS = "ABCDEFGH"
LOOSE = ("lead", "leads", "loose leads")


def end_in_words(words: str, catalog: Catalog) -> EndModel:
    """An end of a part, as in `D9 plug`, with signals behind `with` where it speaks for itself. Raises BadInput."""
    connector, _, told = words.strip().partition(" with ")
    shape, _, gender = connector.strip().rpartition(" ")
    if gender not in ("plug", "socket"):
        raise BadInput(f"end “{words}”: expected a connector and plug or socket, as in D9 plug, or leads")
    found, signals = connector_named(shape, catalog), {}
    for one in (part.strip() for part in told.split(";") if part.strip()):
        contact, _, signal = one.partition(" ")
        signals[contact] = signal.strip()
    word: Literal["plug", "socket"] = "plug" if gender == "plug" else "socket"
    return EndModel(family=found.family, contacts=found.contacts, gender=word, signals=signals)


def _loose(letter: str, wires: list[str]) -> EndModel:
    """An end of loose conductors: as many as have a colour."""
    colours = {half for wire in wires for half in wire.split("-") if half.startswith(f"{letter}:")}
    return EndModel(family="lead", contacts=max(1, len(colours)), gender="either")


def _wire(word: str) -> str:
    """`2-3` means contact 2 of end A to contact 3 of end B; with letters any two, or a loop: `A7-A8`."""
    halves = [half.strip() for half in word.split("-")]
    if len(halves) != 2 or not all(halves):
        raise BadInput(f"conductor “{word.strip()}”: expected two contacts with a hyphen between, as in 2-3 or A7-A8")
    return "-".join(
        half if re.fullmatch(r"[A-H](\d+|:\w+)", half) else f"{letter}{half}"
        for letter, half in zip("AB", halves, strict=True)
    )


def _coloured(wire: str, loose: set[str]) -> str:
    """At loose ends a conductor goes by its colour: `B:WH`, also said as `white`."""
    halves = []
    for half in wire.split("-"):
        letter, name = half[0], half[1:].lstrip(":")
        halves.append(f"{letter}:{COLOURS.get(name.lower(), name.upper())}" if letter in loose else half)
    return "-".join(halves)


# Letters for colours of conductors (IEC 60757, from memory).
COLOURS = {
    "black": "BK", "brown": "BN", "red": "RD", "orange": "OG", "yellow": "YE", "green": "GN", "blue": "BU", "violet": "VT",
    "grey": "GY", "white": "WH", "pink": "PK", "turquoise": "TQ",
}  # fmt: skip


def individual(kit: KitModel, index: int, module: str, serial: str) -> KitModel:
    """One piece of an item as an individual: which module claims it, and what it reports as its serial number.

    Where there are several of the item, one of them becomes an item of its own. Raises BadInput for a serial that is known.
    """
    item, serial = kit.items[index], serial.strip()
    if serial and any(one.serial == serial for i, one in enumerate(kit.items) if i != index):
        raise BadInput(f"serial number {serial} is in the kit already")
    one = msgspec.structs.replace(item, count=1, module=module.strip(), serial=serial)
    items = list(kit.items)
    if item.count > 1:
        items[index : index + 1] = [msgspec.structs.replace(item, count=item.count - 1, serial=""), one]
    else:
        items[index] = one
    return msgspec.structs.replace(kit, items=items)


def credited(kit: KitModel, parts: list[LinkPart], served: bool, serial: str = "") -> KitModel:
    """The kit with one more success (or failure) noted on each of the parts.

    `serial`: of the adapter that was used; where the kit knows that very piece, its kind's other pieces are left alone.
    """
    ids = {part.part or part.id for part in parts}
    known = {item.part for item in kit.items if serial and item.serial == serial}
    items = []
    for item in kit.items:
        meant = item.serial == serial if item.part in known else not item.serial
        if (item.part or item.id) in ids and meant:
            key = "successes" if served else "failures"
            item = msgspec.structs.replace(item, **{key: getattr(item, key) + 1})
        items.append(item)
    return msgspec.structs.replace(kit, items=items)


def link_part(item: KitItem, turned: bool) -> LinkPart:
    """A kit item as a part of a chain."""
    if item.part is not None:
        return LinkPart(
            part=item.part, turned=turned, length_m=item.length_m, terminates=item.terminates, bias_ohm=item.bias_ohm
        )
    return LinkPart(
        id=item.id, turned=turned, ends=item.ends, conductors=item.conductors, length_m=item.length_m,
        pairs=item.pairs, wire=item.wire, terminates=item.terminates, bias_ohm=item.bias_ohm,
    )  # fmt: skip


def read_kit_text(text: str, name: str, catalog: Catalog) -> KitModel:
    """A kit from a file's text, checked. Raises BadInput."""
    return KitModel(courier="kit/1", items=[k.item for k in kit_from_text(text, name, catalog)])


@dataclass(frozen=True)
class KitRow:
    """An item of the kit for a list: its place there, what it is, how many, what it went through, and its connectors."""

    at: int
    name: str
    told: str
    count: int
    history: str
    ends: tuple[Connector, ...] = ()


def found_in(rows: Sequence[KitRow], words: str) -> list[KitRow]:
    """The rows in which all words occur."""
    wanted = words.lower().split()
    return [row for row in rows if all(word in f"{row.name} {row.told}".lower() for word in wanted)]


def mating(chosen: KitRow | None, rows: Sequence[KitRow]) -> list[frozenset[int]]:
    """Of each row the ends (counted from 0) that go into an end of the chosen one, by their connectors alone."""
    ends = chosen.ends if chosen is not None else ()
    goes: dict[Connector, bool] = {}
    found = []
    for row in rows:
        for end in row.ends:
            if end not in goes:  # thousands of parts have few kinds of ends
                goes[end] = any(one.why_not_into(end) is None for one in ends)
        found.append(frozenset(i for i, end in enumerate(row.ends) if goes[end]))
    return found


def listed(kit: KitModel, catalog: Catalog) -> list[KitRow]:
    """The kit for a list, in its order."""
    rows = []
    for at, item in enumerate(kit.items):
        found = _known(item, catalog)
        if found is None:
            told = "not known to this catalog: left out of searches"
            rows.append(KitRow(at, item.part or item.id or "?", told, item.count, ""))
            continue
        ends = " to ".join(str(end.connector) for end in found.part.ends)
        length = item.length_m if item.length_m is not None else found.part.length_m
        history = f"served {item.successes}, failed {item.failures}" if item.successes or item.failures else ""
        known = f", {item.module}" if item.module else ""
        known += f", serial {item.serial}" if item.serial else ""
        told = ends + (f", {length:g} m" if length else "") + known
        connectors = tuple(end.connector for end in found.part.ends)
        rows.append(KitRow(at, found.part.name, told, item.count, history, connectors))
    return rows
