"""The kit: what is in the bag. Its document `kit/1` is the truth, and every change makes a new one."""

from typing import TYPE_CHECKING

import msgspec

from humble_courier.catalog.kits import KitPart as KitPart
from humble_courier.catalog.kits import kit_from_text, resolve_kit
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.named import connector_named
from humble_courier.documents.base import EndModel
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.documents.link import LinkPart
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
        if item.part is not None and known.part == item.part:
            return with_count(kit, i, known.count + 1)
    return msgspec.structs.replace(kit, items=[*kit.items, item])


def with_count(kit: KitModel, index: int, count: int) -> KitModel:
    """Another number of one item; none of it takes it out."""
    items = list(kit.items)
    items[index : index + 1] = [msgspec.structs.replace(items[index], count=count)] if count > 0 else []
    return msgspec.structs.replace(kit, items=items)


def own_lead(name: str, first: str, second: str, conductors: str, catalog: Catalog) -> KitItem:
    """A lead of one's own from words: `D9 socket`, `D9 plug`, `2-3, 3-2, 5-5`. Raises BadInput where a word is wrong."""
    if not name.strip():
        raise BadInput("a lead of your own needs a name, as on its label")
    ends = [_end(first, catalog), _end(second, catalog)]
    wires = [_wire(word) for word in conductors.replace(";", ",").split(",") if word.strip()]
    item = KitItem(id=name.strip(), ends=ends, conductors=wires)
    resolve_kit(KitModel(courier="kit/1", items=[item]), catalog)
    return item


def _end(words: str, catalog: Catalog) -> EndModel:
    shape, _, gender = words.strip().rpartition(" ")
    if gender not in ("plug", "socket"):
        raise BadInput(f"end “{words}”: expected a connector and plug or socket, as in D9 plug")
    found = connector_named(shape, catalog)
    return EndModel(family=found.family, contacts=found.contacts, gender="plug" if gender == "plug" else "socket")


def _wire(word: str) -> str:
    """`2-3` means contact 2 of end A to contact 3 of end B; with letters it may be a loop: `A7-A8`."""
    halves = [half.strip() for half in word.split("-")]
    if len(halves) != 2 or not all(halves):
        raise BadInput(f"conductor “{word.strip()}”: expected two contacts with a hyphen between, as in 2-3 or A7-A8")
    return "-".join(
        half if half[0] in "AB" and len(half) > 1 else f"{letter}{half}" for letter, half in zip("AB", halves, strict=True)
    )


def credited(kit: KitModel, parts: list[LinkPart], served: bool) -> KitModel:
    """The kit with one more success (or failure) noted on each of the parts."""
    ids = {part.part or part.id for part in parts}
    items = []
    for item in kit.items:
        if (item.part or item.id) in ids:
            key = "successes" if served else "failures"
            item = msgspec.structs.replace(item, **{key: getattr(item, key) + 1})
        items.append(item)
    return msgspec.structs.replace(kit, items=items)


def link_part(item: KitItem, turned: bool) -> LinkPart:
    """A kit item as a part of a chain."""
    if item.part is not None:
        return LinkPart(part=item.part, turned=turned, length_m=item.length_m)
    return LinkPart(
        id=item.id, turned=turned, ends=item.ends, conductors=item.conductors, length_m=item.length_m,
        pairs=item.pairs, wire=item.wire,
    )  # fmt: skip


def read_kit_text(text: str, name: str, catalog: Catalog) -> KitModel:
    """A kit from a file's text, checked. Raises BadInput."""
    return KitModel(courier="kit/1", items=[k.item for k in kit_from_text(text, name, catalog)])


def listed(kit: KitModel, catalog: Catalog) -> list[tuple[str, str, int, str]]:
    """The kit for a list: name, ends and length, how many, what each kind went through."""
    rows = []
    for item in kit.items:
        found = _known(item, catalog)
        if found is None:
            rows.append((item.part or item.id or "?", "not known to this catalog: left out of searches", item.count, ""))
            continue
        ends = " to ".join(str(end.connector) for end in found.part.ends)
        length = item.length_m if item.length_m is not None else found.part.length_m
        history = f"served {item.successes}, failed {item.failures}" if item.successes or item.failures else ""
        rows.append((found.part.name, ends + (f", {length:g} m" if length else ""), item.count, history))
    return rows
