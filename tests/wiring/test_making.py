"""Advice of the trade beside a build sheet: a cable that is cut down conducts just as the sheet does."""

import pytest

from humble_courier.app.wire.planning import best_build
from humble_courier.catalog.links import resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkModel, LinkPort, LinkSettings
from humble_courier.domain.hardware import Connector, Gender, Part
from humble_courier.wiring.build import BuildSheet, Wire
from humble_courier.wiring.making import CutDown, cut_down, hints, screen_of

D9S, D9P = Connector("D", 9, Gender.SOCKET), Connector("D", 9, Gender.PLUG)
HEADER, USB_C = Connector("header", 4, Gender.SOCKET), Connector("USB-C", 24, Gender.PLUG)
CATALOG = Catalog()
Ends = tuple[Connector, Connector]
CABLES = [part for id_ in CATALOG.part_entries if not (part := CATALOG.part(id_)).active]


def sheet(a: Connector, b: Connector, *wires: str) -> BuildSheet:
    made = tuple(Wire(*wire.split("-"), "", "") for wire in wires)
    return BuildSheet(a, b, made, (), "screen to the shell of end A only", "own", (), ())


def conducts(cut: CutDown) -> set[tuple[str, str]]:
    """Which contacts of both ends are still joined: the contacts that were taken out join nothing."""
    end = "AB".index(cut.end)
    joined = set()
    for wire in cut.part.conductors:
        gone = any(half.end == end and half.contact in cut.contacts for half in (wire.a, wire.b))
        if not gone and wire.a.end != wire.b.end:
            joined.add((wire.a.contact, wire.b.contact))
    return joined


@pytest.mark.parametrize(
    ("ends", "wires"),
    [
        ((D9S, D9S), ("2-3", "3-2", "5-5")), ((D9S, D9P), ("2-2", "3-3", "5-5")),
        ((D9S, D9S), ("2-3", "3-2", "5-5", "7-8", "8-7")),
    ],
)  # fmt: skip
def test_what_is_left_of_a_bought_cable_is_the_cable_of_the_sheet(
    ends: tuple[Connector, Connector], wires: tuple[str, ...]
) -> None:
    made = sheet(*ends, *wires)
    found = cut_down(made, CABLES)
    assert found, "a bought cable of these ends is in the catalog"
    for cut in found:
        assert conducts(cut) == {(wire.a, wire.b) for wire in made.wires}, cut.told
    assert [len(cut.contacts) for cut in found] == sorted(len(cut.contacts) for cut in found)


def test_no_cable_is_cut_down_that_lacks_a_conductor() -> None:
    assert cut_down(sheet(D9S, D9S, "1-9"), CABLES) == []
    assert cut_down(sheet(HEADER, D9S, "1-2"), CABLES) == []


@pytest.mark.parametrize(
    ("a", "b", "screen", "told"),
    [
        (D9S, D9P, "shell of end A", []), (HEADER, D9P, "shell of end B", ["End A has neither shell"]),
        (HEADER, HEADER, "neither end has a shell", ["End A has neither", "End B has neither"]),
        (USB_C, HEADER, "shell of end A", ["5.1 kilohm", "End B has neither"]),
        (Connector("GPIB", 24, Gender.PLUG), D9P, "shell of end A", ["back to back"]),
    ],
)  # fmt: skip
def test_screen_and_hints_follow_the_connectors(a: Connector, b: Connector, screen: str, told: list[str]) -> None:
    made = sheet(a, b, "1-1")
    assert screen in screen_of(made)
    found = hints(made)
    assert len(found) == len(told) and all(words in hint for words, hint in zip(told, found, strict=True))


def test_the_build_sheet_of_a_link_says_it() -> None:
    model = LinkModel("link/1", LinkPort(port="dte-de9"), LinkPort(device="gauge-logger"), settings=LinkSettings("1200,7E1"))
    found = best_build(resolve_link(model, CATALOG), [], CATALOG)
    assert found is not None and any("take" in one or "buy" in one for one in found.advice)
    assert isinstance(found.sheet.part(), Part)
