"""Drawings that are walked by keyboard: each piece is named, has its frame, and Tab passes by what is empty."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QVBoxLayout, QWidget
from pytestqt.qtbot import QtBot

from humble_courier.app.amounts import Budget, in_turn
from humble_courier.app.settings.address_rows import BusLine, Cell, Grid, Hanging, Use
from humble_courier.app.settings.hearing import HeardByte
from humble_courier.app.settings.inferring import Setting
from humble_courier.app.talk.instruments import Library
from humble_courier.app.talk.playing import picture
from humble_courier.app.wire.line_load import ReachCurve
from humble_courier.catalog.load import Catalog
from humble_courier.domain.settings import Settings
from humble_courier.domain.utterance import Utterance, Who
from humble_courier.ui.paper.build_drawing import BuildView
from humble_courier.ui.stages.settings.address_grid import AddressGrid
from humble_courier.ui.stages.settings.belief_view import BeliefView
from humble_courier.ui.stages.settings.bus_view import BusView
from humble_courier.ui.stages.talk.lanes import Lanes
from humble_courier.ui.stages.talk.libraries_view import LibrariesView
from humble_courier.ui.stages.talk.track_view import TrackView
from humble_courier.ui.stages.wire.reach_view import ReachView
from humble_courier.ui.stages.wire.suspects_view import SuspectsView
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.budget_view import BudgetView
from humble_courier.ui.widgets.bytes_view import BytesView
from humble_courier.ui.widgets.pieces import Pieces
from humble_courier.ui.widgets.turns_view import TurnsView
from humble_courier.wiring.build import design


def lanes() -> Lanes:
    made = Lanes()
    they = Utterance(Who.THEY, 1.0, 1.1, meaning="its name")
    they.said += b"SKW-GH-07\r\n"
    we = Utterance(Who.WE, 0.5, 0.6)
    we.said += b"ID\r\n"
    made.show_said([we, they], "logger", Theme())
    return made


def grid() -> AddressGrid:
    made = AddressGrid()
    made.show_grid(Grid(16, (Cell("1", Use.TAKEN, ("pillow",)), Cell("2", Use.FREE))), Theme())
    return made


def heard() -> BytesView:
    made = BytesView()
    made.show_bytes((HeardByte(0x4C, False, False, False), HeardByte(0xF1, True, False, False)), Theme())
    return made


def belief() -> BeliefView:
    made = BeliefView()
    made.show_belief([Setting(9600, "7E1", False, 0.9), Setting(4800, "8N1", True, 0.1)], Theme())
    return made


def suspects() -> SuspectsView:
    made = SuspectsView(Theme())
    made.show_suspects([("straight", 0.25), ("crossed", 0.75)], Theme())
    return made


def bus() -> BusView:
    made = BusView()
    members = (Hanging("pillow", "3", Use.TAKEN), Hanging("tower", "", Use.FREE))
    made.show_lines([BusLine("computer", members, terminators=1)], Theme())
    return made


def turns() -> TurnsView:
    made = TurnsView()
    steps = [("question", 0.05, False), ("device", 0.0, True), ("answer", 0.07, False)]
    made.show_turns([in_turn("adapter", steps)], 0.1, "gives up", Theme())
    return made


def budgets() -> BudgetView:
    made = BudgetView()
    made.show_budgets([Budget("length", "20 m of 15 m", 20, 15), Budget("there and back", "2 ohm")], Theme())
    return made


def reach() -> ReachView:
    made = ReachView()
    made.show_reach(ReachCurve(((1200, 167.0), (9600, 25.0)), 9600, 30.0, 25.0), Theme())
    return made


def libraries() -> LibrariesView:
    made = LibrariesView()
    first = Library("a", "one", True, resources=("GPIB0::5::INSTR",))
    made.show_libraries([first, Library("b", "two", False, "does not load")], Theme())
    return made


def test_an_instrument_that_is_touched_is_taken(qtbot: QtBot) -> None:
    view = libraries()
    qtbot.addWidget(view)
    view.resize(600, 120)
    with qtbot.waitSignal(view.taken) as taken:
        qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=view._box(0, left=False).center().toPoint())
    assert taken.args == ["GPIB0::5::INSTR"]
    with qtbot.waitSignal(view.taken):
        qtbot.keyClick(view, Qt.Key.Key_Return)
    view.show_libraries([], Theme())  # the example: nothing of it is taken
    with qtbot.assertNotEmitted(view.taken):
        qtbot.keyClick(view, Qt.Key.Key_Return)
        qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=view._box(0, left=False).center().toPoint())


def track() -> TrackView:
    made = TrackView()
    typed = {"every_s": "1", "speed_kn": "6", "course": "0", "turn": "0"}
    made.show_track(picture(typed, ["RMB"], Settings.parse("4800,8N1")), Theme())
    return made


@pytest.mark.qt_log_ignore("does not support")  # the offscreen plugin
@pytest.mark.parametrize(
    ("make", "first", "second"),
    [
        (lanes, "we: ID (1 of 2)", "logger: SKW-GH-07, its name (2 of 2)"),
        (grid, "1: taken, pillow (1 of 2)", "2: free (2 of 2)"),
        (heard, "4C L (1 of 2)", "F1 framing (2 of 2)"),
        (belief, "9600 7E1 90% (1 of 2)", "4800 8N1 inverted 10% (2 of 2)"),
        (suspects, "straight 25% (1 of 2)", "crossed 75% (2 of 2)"),
        (bus, "computer: pillow, 3, taken (1 of 2)", "computer: tower, no address, free (2 of 2)"),
        (turns, "adapter: question, 50 ms from 0 ms on (1 of 2)", "adapter: answer, 70 ms from 50 ms on (2 of 2)"),
        (budgets, "length: 20 m of 15 m, not in order (1 of 2)", "there and back: 2 ohm (2 of 2)"),
        (reach, "this link: 30 m at 9600 bit/s (1 of 3)", "1200 bit/s carry 167 m (2 of 3)"),
        (libraries, "one: GPIB0::5::INSTR (1 of 2)", "two: does not load (2 of 2)"),
        (track, "W01: 0.00 miles north, 0.00 east (1 of 4)", "W02: 0.60 miles north, 0.00 east (2 of 4)"),
    ],
)
def test_arrows_go_from_piece_to_piece(qtbot: QtBot, make: type[Pieces], first: str, second: str) -> None:
    around, view = QWidget(), make()
    QVBoxLayout(around).addWidget(view)
    qtbot.addWidget(around)
    around.resize(500, 300)
    around.show()
    around.activateWindow()
    qtbot.waitUntil(around.isActiveWindow)
    view.setFocus()
    qtbot.waitUntil(view.hasFocus)
    assert view.accessibleName() and view.accessibleDescription() == first
    framed = view.grab().toImage()
    qtbot.keyClick(view, Qt.Key.Key_Right)
    assert view.accessibleDescription() == second
    if view.box_of(1) is not None:
        assert view.grab().toImage() != framed
    qtbot.keyClick(view, Qt.Key.Key_End)
    last = view.accessibleDescription()
    qtbot.keyClick(view, Qt.Key.Key_Down)
    assert view.accessibleDescription() == last and "1 of" not in last
    qtbot.keyClick(view, Qt.Key.Key_Home)
    assert view.accessibleDescription() == first


def test_a_cable_to_build_is_told_conductor_by_conductor(qtbot: QtBot, catalog: Catalog) -> None:
    near, far = catalog.port("dte-de9"), catalog.device_port(catalog.device("gauge-logger"))
    sheet = design(near, far, catalog.levels, frozenset(), next(iter(catalog.colours.values())))
    view = BuildView(Theme())
    qtbot.addWidget(view)
    view.show_sheet(sheet, catalog.shapes, Theme())
    view.resize(600, 400)
    told = []
    for _ in range(len(sheet.wires) + len(sheet.open)):
        told.append(view.accessibleDescription())
        qtbot.keyClick(view, Qt.Key.Key_Down)
    assert all(f"A {wire.a} to B {wire.b}" in words for wire, words in zip(sheet.wires, told, strict=False))
    assert sum("stays open" in words for words in told) == len(sheet.open)


def test_what_is_empty_is_passed_by(qtbot: QtBot) -> None:
    view = suspects()
    qtbot.addWidget(view)
    assert view.focusPolicy() is Qt.FocusPolicy.TabFocus
    view.show_suspects([], Theme())
    assert view.focusPolicy() is Qt.FocusPolicy.NoFocus and view.accessibleDescription() == ""
    qtbot.keyClick(view, Qt.Key.Key_Down)
