"""How the contacts meet the eye: known faces, and the symmetries that any connector has."""

import pytest

from humble_courier.catalog.load import Catalog
from humble_courier.domain.hardware import Gender
from humble_courier.wiring.orientation import Side, reading_order, seen

SHAPES = Catalog().shapes
ALL = sorted(SHAPES)


# Common practice: what is moulded beside the contacts of each half.
@pytest.mark.parametrize(
    ("shape", "gender", "side", "turns", "rows"),
    [
        (("D", 9), Gender.PLUG, Side.MATING, 0, "12345 6789"),
        (("D", 9), Gender.SOCKET, Side.MATING, 0, "54321 9876"),
        (("D", 9), Gender.SOCKET, Side.SOLDER, 0, "12345 6789"),
        (("D", 9), Gender.PLUG, Side.SOLDER, 0, "54321 9876"),
        (("D", 9), Gender.SOCKET, Side.MATING, 2, "6789 12345"),
        (("header", 4), Gender.PLUG, Side.MATING, 0, "1234"),
        (("header", 4), Gender.PLUG, Side.MATING, 2, "4321"),
        (("header", 4), Gender.PLUG, Side.SOLDER, 0, "4321"),
        (("header", 4), Gender.PLUG, Side.SOLDER, 2, "1234"),
        (("header", 4), Gender.PLUG, Side.MATING, 1, "1 2 3 4"),
        (("header", 4), Gender.PLUG, Side.MATING, 3, "4 3 2 1"),
    ],
)
def test_known_faces(shape: tuple[str, int], gender: Gender, side: Side, turns: int, rows: str) -> None:
    order = reading_order(seen(SHAPES[shape], gender, side, turns))
    assert [list(row) for row in rows.split()] == order


@pytest.mark.parametrize("shape", ALL)
def test_symmetries(shape: tuple[str, int]) -> None:
    entry = SHAPES[shape]
    plug, socket = seen(entry, Gender.PLUG), seen(entry, Gender.SOCKET)
    assert seen(entry, Gender.SOCKET, Side.SOLDER) == plug, "halves lie contact on contact"
    assert {c: (pytest.approx(1 - x), y) for c, (x, y) in plug.items()} == socket
    full = seen(entry, Gender.PLUG, Side.MATING, 4)
    half_twice = {c: (1 - x, 1 - y) for c, (x, y) in seen(entry, Gender.PLUG, Side.MATING, 2).items()}
    assert full == plug
    assert {c: (pytest.approx(x), pytest.approx(y)) for c, (x, y) in plug.items()} == half_twice
    assert len({(round(x, 3), round(y, 3)) for x, y in plug.values()}) == len(plug) == entry.contacts
    assert all(0 <= x <= 1 and 0 <= y <= 1 for x, y in plug.values())
