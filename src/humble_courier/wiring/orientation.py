"""How a connector meets the eye: mating face or solder side, plug or socket, upright, lying on its side or upside down."""

from enum import StrEnum
from itertools import pairwise

from humble_courier.catalog.entries import ShapeEntry
from humble_courier.domain.hardware import Gender

Places = dict[str, tuple[float, float]]  # contact: x to the right, y down, both from 0 to 1


class Side(StrEnum):
    """From where one looks."""

    MATING = "mating face"
    SOLDER = "solder side"


def seen(shape: ShapeEntry, gender: Gender, side: Side = Side.MATING, quarter_turns: int = 0) -> Places:
    """Where the eye meets each contact.

    The catalog gives the mating face of the plug. A socket is its mirror image, and so is the solder side: a socket's solder
    side therefore reads like the plug's mating face. `quarter_turns` clockwise: 2 for a device that lies on its face or
    hangs upside down.
    """
    places = shape.at or _from_rows(shape.rows)
    if (gender is Gender.SOCKET) != (side is Side.SOLDER):
        places = {contact: (1 - x, y) for contact, (x, y) in places.items()}
    for _ in range(quarter_turns % 4):
        places = {contact: (1 - y, x) for contact, (x, y) in places.items()}
    return dict(places)


def reading_order(places: Places) -> list[list[str]]:
    """The contacts row by row, from the top, each from the left: as one counts them."""
    rows: list[list[str]] = []
    heights: list[float] = []
    for contact, (_, y) in sorted(places.items(), key=lambda item: (round(item[1][1], 3), item[1][0])):
        if heights and abs(heights[-1] - y) < 0.05:
            rows[-1].append(contact)
        else:
            rows.append([contact])
            heights.append(y)
    return rows


def neighbours(shape: ShapeEntry) -> list[tuple[str, str]]:
    """Contacts beside each other in a row: where a splash of solder makes a short."""
    return [pair for row in shape.rows for pair in pairwise(row)]


def _from_rows(rows: list[list[str]]) -> Places:
    widest = max(len(row) for row in rows)
    return {
        contact: (0.5 + (i - (len(row) - 1) / 2) / widest, (r + 0.5) / len(rows))
        for r, row in enumerate(rows)
        for i, contact in enumerate(row)
    }
