"""A link that was changed on both sides: what differs, piece by piece, and the link that follows from what is chosen."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import msgspec

from humble_courier.app.records.merge_file import Whose
from humble_courier.documents.link import LinkModel
from humble_courier.errors import BadInput
from humble_courier.records.merging import BothChanged

NAME, SETTINGS = "name", "settings"


@dataclass(frozen=True)
class DifferingPiece:
    """One piece of a link that differs: which, and what stands there on either side."""

    place: str
    ours: str
    theirs: str


def pieces(conflict: BothChanged) -> list[DifferingPiece]:
    """What differs, in the order of the document."""
    ours, theirs = _pieces(conflict.ours.document), _pieces(conflict.theirs.document)
    ours[NAME], theirs[NAME] = conflict.ours.name, conflict.theirs.name
    places = dict.fromkeys([*ours, *theirs])
    return [
        DifferingPiece(place, _told(ours.get(place)), _told(theirs.get(place)))
        for place in places
        if ours.get(place) != theirs.get(place)
    ]


def decided(conflict: BothChanged, chosen: Mapping[str, Whose]) -> tuple[LinkModel, str]:
    """The link with the chosen side of each piece (ours where nothing is chosen), and its name. Raises BadInput."""
    ours, theirs = _pieces(conflict.ours.document), _pieces(conflict.theirs.document)
    made = {
        place: (theirs if chosen.get(place) is Whose.THEIRS else ours).get(place)
        for place in dict.fromkeys([*ours, *theirs])
    }
    document: dict[str, Any] = {}
    for place, value in made.items():
        if value is None:
            continue
        whole, _, part = place.partition(".")
        if part:
            document.setdefault(whole, {})[part] = value
        else:
            document[whole] = value
    name = conflict.theirs.name if chosen.get(NAME) is Whose.THEIRS else conflict.ours.name
    try:
        return msgspec.convert(document, LinkModel), name
    except msgspec.ValidationError as error:
        raise BadInput(f"these pieces make no link: {error}") from None


def _pieces(model: LinkModel) -> dict[str, Any]:
    """The document by its pieces; the settings of each end are pieces of their own."""
    found: dict[str, Any] = {}
    for key, value in msgspec.to_builtins(model).items():
        if key == SETTINGS and isinstance(value, dict):
            found |= {f"{SETTINGS}.{end}": one for end, one in value.items()}
        else:
            found[key] = value
    return found


def _told(value: object) -> str:
    if value is None or value == "":
        return "nothing"
    if isinstance(value, dict):
        return ", ".join(str(one) for one in value.values() if one is not None)
    if isinstance(value, list):
        return " – ".join(_told(one) for one in value) or "nothing"
    return str(value)
