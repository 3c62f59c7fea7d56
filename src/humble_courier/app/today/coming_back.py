"""Coming back: what is not in the bag any more, what failed, which links are proven, and what to bring the next time."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import msgspec

from humble_courier.app.today.kept import KeptDay, Owed, Where
from humble_courier.documents.kit import KitItem, KitModel


@dataclass(frozen=True)
class Fared:
    """A link of the day, and whether it was proven on that day."""

    name: str
    proven: bool


def put_away(kit: KitModel, kept: KeptDay, places: Mapping[str, list[str]]) -> tuple[KitModel, list[Owed]]:
    """The kit after the day, and the pieces that are still owed to it.

    A piece that failed is noted as that and is out of the kit until somebody counts it in again; so is one that stayed
    there. One that was packed and not seen again stays in the kit, and is asked for before the next day.
    """
    items: list[KitItem] = []
    for item in kit.items:
        where = kept.pieces.get(item.part or item.id or "", Where.HOME)
        if where is Where.FAILED:
            item = msgspec.structs.replace(item, failures=item.failures + 1)
        if where in (Where.FAILED, Where.STAYED):
            item = msgspec.structs.replace(item, count=max(0, item.count - 1))
        items.append(item)
    missing = [part for part, where in kept.pieces.items() if where is Where.PACKED]
    owed = [one for one in kept.owed if one.part not in missing] + [Owed(part, places.get(part, [])) for part in missing]
    return msgspec.structs.replace(kit, items=items), owed


def told(kept: KeptDay, names: Mapping[str, str], fared: Sequence[Fared], lacking: Sequence[str]) -> list[str]:
    """What there is to say when one is back, a sentence each. `lacking`: names of links that the kit could not serve."""

    def those(where: Where) -> list[str]:
        return [names.get(part, part) for part, at in kept.pieces.items() if at is where]

    found = []
    if those(Where.PACKED):
        found.append(f"Taken and not back: {', '.join(those(Where.PACKED))}.")
    if those(Where.STAYED):
        found.append(f"Left there, and out of the kit from now on: {', '.join(those(Where.STAYED))}.")
    if those(Where.FAILED):
        found.append(f"Failed, noted as that and out of the kit: {', '.join(those(Where.FAILED))}.")
    proven = [one.name for one in fared if one.proven]
    open_ = [one.name for one in fared if not one.proven]
    found += [f"Proven on this day: {', '.join(proven)}."] * bool(proven)
    found += [f"Without a proof of this day: {', '.join(open_)}."] * bool(open_)
    bring = [f"one more {name}" for name in those(Where.FAILED) + those(Where.STAYED)]
    bring += [f"a way to {name}" for name in lacking if name in open_]
    found += [f"Bring the next time: {', '.join(bring)}."] * bool(bring)
    return found
