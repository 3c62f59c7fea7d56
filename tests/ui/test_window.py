"""The real interface, offscreen; and the same way once in a real window under Xvfb (mark `window`)."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QColor, QGuiApplication
from PyQt6.QtWidgets import QCheckBox, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from humble_courier.app.link.stages import Stage
from humble_courier.app.link.step import Action
from humble_courier.catalog.load import Catalog
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.records.store import Store
from humble_courier.ui.help import show_help
from humble_courier.ui.start import show_records
from humble_courier.ui.theme import DARK, OUTDOOR, PALETTES, Palette, Theme
from humble_courier.ui.window import Window
from tests.app.link.test_road import KINDS, PATIENCE_S, begun
from tests.ui.walk import LEFT, choose, desk, place, stage, walk
from tests.virtual_time import VirtualTime


def test_the_whole_way(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    walk(window, qtbot, tmp_path)


@pytest.mark.window
def test_the_whole_way_in_a_real_window(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    assert QGuiApplication.platformName() == "xcb"
    walk(window, qtbot, tmp_path)


def test_closing_and_opening_brings_the_link_back(window: Window, qtbot: QtBot, tmp_path: Path, catalog: Catalog) -> None:
    window.go_to("part:2")
    choose(window, qtbot, "straight-de9")
    assert window.work.link is not None
    model = window.work.link.document.model
    window.close()
    again = Window(catalog, Theme())
    qtbot.addWidget(again)
    again.show()
    show_records(again, tmp_path / "demo", demo=True)
    assert again.work.link is not None
    assert again.work.link.document.model == model
    assert again.stack.currentWidget() is stage(again, Stage.WIRE)
    again.close()


def test_arrow_keys_go_along_the_line(window: Window, qtbot: QtBot) -> None:
    window.go_to("program")
    place(window, "program").setFocus()
    seen = []
    for _ in range(len(window.line.buttons)):
        current = next(b for b in window.line.buttons if b.isChecked())
        seen.append(current.place.id)
        qtbot.keyClick(window.line, Qt.Key.Key_Right)
    assert seen == [b.place.id for b in window.line.buttons]
    qtbot.keyClick(window.line, Qt.Key.Key_Home)
    assert window.place == "program"


def test_one_conductor_is_followed_by_keyboard(window: Window, qtbot: QtBot) -> None:
    window.go_to("part:2")
    stage(window, Stage.WIRE).map.view.setFocus()
    qtbot.keyClick(stage(window, Stage.WIRE).map.view, Qt.Key.Key_Down)
    assert "TXD" in stage(window, Stage.WIRE).map.story.text()
    assert "Crossed cable" in stage(window, Stage.WIRE).map.story.text()
    qtbot.keyClick(stage(window, Stage.WIRE).map.view, Qt.Key.Key_Down)
    assert "RXD" in stage(window, Stage.WIRE).map.story.text()


def test_an_empty_program_leads_to_a_first_link(qtbot: QtBot, tmp_path: Path, catalog: Catalog) -> None:
    """A link of one's own on a real port address: a port that is not there is told at its place."""
    window = Window(catalog, Theme())
    qtbot.addWidget(window)
    window.show()
    show_records(window, tmp_path / "own", demo=False)
    page = stage(window, Stage.NEW_LINK)
    assert "begin with what you see" in page.headline.text() and not page.create_button.isEnabled()
    qtbot.mouseClick(next(tile for tile in page.faces.tiles if "9 contacts" in tile.accessibleName()), LEFT)
    qtbot.mouseClick(page.halves["plug"], LEFT)
    page.search.setText("text instrument")
    qtbot.keyClick(page.devices, Qt.Key.Key_Down)
    assert "It can work" in page.headline.text() and "works" in page.preview_title.text()
    page.port.setCurrentText("/dev/ttyNONE9")
    page.name.setText("Weir, level logger")
    window.open_rail(Stage.KIT)
    window.open_rail(Stage.NEW_LINK)
    assert page.name.text() == "Weir, level logger" and page.port.currentText() == "/dev/ttyNONE9", "what was picked stays"
    assert page.ways.count() > 0
    qtbot.mouseClick(page.create_button, LEFT)
    assert window.work.link is not None
    assert window.work.link.document.name == "Weir, level logger"
    assert window.work.link.document.link.address == "/dev/ttyNONE9"
    qtbot.mouseClick(window.facts.button, LEFT)
    assert "There is no port" in stage(window, Stage.TALK).reason.text()
    assert not window.work.link.document.simulated
    window.close()


def test_a_device_without_a_sheet(qtbot: QtBot, tmp_path: Path, catalog: Catalog) -> None:
    window = Window(catalog, Theme())
    qtbot.addWidget(window)
    window.show()
    show_records(window, tmp_path / "own", demo=False)
    for device in ("dce-de9", "rs485-2w", "j1939-9"):
        window.open_rail(Stage.NEW_LINK)
        desk(window, Stage.NEW_LINK).choose(device)
        stage(window, Stage.NEW_LINK).port.setCurrentText("sim://bench/gauge-logger")
        stage(window, Stage.NEW_LINK).create_button.click()
        assert window.current is Stage.WIRE
        for button in list(window.line.buttons):
            window.go_to(button.place.id)
    window.close()


def test_wrong_settings_are_told_and_nothing_changes(window: Window, qtbot: QtBot) -> None:
    window.go_to("settings")
    assert window.work.link is not None
    before = window.work.link.document.model
    line = stage(window, Stage.SETTINGS).ends.computer.rate.lineEdit()
    assert line is not None
    line.setText("fast")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert "fast" in stage(window, Stage.SETTINGS).reason.text()
    window.refresh()
    assert "fast" in stage(window, Stage.SETTINGS).reason.text(), (
        "a message is not wiped away by the next look at the session"
    )
    window.go_to("speech")
    assert "fast" not in stage(window, Stage.TALK).reason.text()
    assert window.work.link.document.model == before


def test_records_that_cannot_be_opened_are_told(qtbot: QtBot, tmp_path: Path, catalog: Catalog) -> None:
    (tmp_path / "records.sqlite3").write_text("no database at all " * 100)
    window = Window(catalog, Theme())
    qtbot.addWidget(window)
    window.show()
    show_records(window, tmp_path, demo=False)
    assert "damaged" in stage(window, Stage.NEW_LINK).reason.text()
    window.close()


def test_a_file_that_cannot_be_written_is_told(window: Window, tmp_path: Path) -> None:
    window.open_rail(Stage.RECORDS)
    desk(window, Stage.RECORDS).save_to("pdf", tmp_path / "none" / "sheet.pdf")
    assert "cannot be written" in stage(window, Stage.RECORDS).reason.text()


@pytest.mark.parametrize("theme", [Theme(), Theme(DARK), Theme(OUTDOOR), Theme().scaled(1.5), Theme().scaled(2.0)])
@pytest.mark.parametrize("size", [(1280, 800), (1024, 700)])
def test_every_stage_in_every_theme(window: Window, theme: Theme, size: tuple[int, int]) -> None:
    window.set_theme(theme)
    window.resize(*size)
    for button in list(window.line.buttons):
        window.go_to(button.place.id)
        assert not window.grab().isNull()
    if theme.scale == 1.0:
        assert window.minimumSizeHint().width() <= 1024
        assert window.minimumSizeHint().height() <= 700


def luminance(color: str) -> float:
    """Relative luminance (WCAG 2.2, definition)."""
    parts = (QColor(color).redF(), QColor(color).greenF(), QColor(color).blueF())
    r, g, b = (c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


@pytest.mark.qt_log_ignore("does not support")  # the offscreen plugin
def test_the_keyboard_follows_to_another_page_and_stays_where_it_was(window: Window, qtbot: QtBot) -> None:
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    window.resize(1024, 700)  # on the pages of the rail the line folds away, and what had the keyboard with it
    window.line.setFocus()
    window.open_rail(Stage.KIT)
    assert stage(window, Stage.KIT).search.hasFocus()
    window.open_rail(Stage.DEVICES)
    assert stage(window, Stage.DEVICES).search.hasFocus()
    button = next(iter(window.rail.findChildren(QPushButton)))
    button.setFocus()
    window.open_rail(Stage.RECORDS)
    assert button.hasFocus()


def test_a_place_that_is_touched_twice_stays_marked(window: Window, qtbot: QtBot) -> None:
    window.go_to("part:2")
    made = next(one for one in window.line.buttons if one.place.id == "part:2")
    for _ in range(2):
        qtbot.mouseClick(made, LEFT)
        assert made.isChecked()


@pytest.mark.parametrize("palette", PALETTES, ids=lambda p: p.name)
def test_contrast(palette: Palette) -> None:
    """WCAG 2.2, 1.4.3: at least 4.5 to 1 for text on each ground it stands on."""
    on = [
        (text, ground)
        for text in ("ink", "quiet", "action", "assumed", "contradicted", "unknown")
        for ground in ("ground", "surface")
    ]
    on += [("ink", "socket"), ("ink", "armed"), ("quiet", "armed"), ("on_action", "action")]
    for text, ground in on:
        a, b = sorted((luminance(getattr(palette, text)), luminance(getattr(palette, ground))))
        assert (b + 0.05) / (a + 0.05) >= 4.5, f"{text} on {ground}"
    for ground in ("ground", "surface", "socket"):  # 1.4.11: at least 3 to 1 for what can be touched or moved
        a, b = sorted((luminance(palette.edge), luminance(getattr(palette, ground))))
        assert (b + 0.05) / (a + 0.05) >= 3, f"edge on {ground}"


def test_names_for_those_who_hear_the_window(window: Window) -> None:
    """Every control that takes the keyboard has a name; targets are at least 32 pixels high."""
    for button in list(window.line.buttons):
        window.go_to(button.place.id)
        for widget in window.findChildren(QWidget):
            if (
                widget.isVisible()
                and widget.focusPolicy() & Qt.FocusPolicy.TabFocus
                and not widget.objectName().startswith("qt_")
            ):
                name = widget.accessibleName() or (widget.property("text") or "") or widget.windowTitle()
                assert name or widget.parent().property("editable"), widget
                inside = widget.parent().property("editable")  # the field of a list that can be typed into
                assert (widget.parent() if inside else widget).height() >= 32, (widget, name)


def test_help_lists_the_keys(window: Window) -> None:
    dialog = show_help(window, window.work.theme)
    assert dialog.isVisible()
    dialog.close()


def test_a_record_that_cannot_be_written_is_told_and_the_session_goes_on(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    from humble_courier.errors import MachineRefused

    def full(*_: object) -> None:
        raise MachineRefused("records.sqlite3: database or disk is full", "Make room")

    assert window.work.link is not None
    window.go_to("speech")
    window.work.link.listen()
    monkeypatch.setattr(Store, "add_facts", full)
    qtbot.waitUntil(lambda: "disk is full" in stage(window, Stage.TALK).reason.text(), timeout=15_000)
    assert window.work.link.live.listening


def test_a_port_that_goes_away_is_told_at_its_place(window: Window, qtbot: QtBot) -> None:
    import msgspec

    assert window.work.link is not None
    window.work.link.change(
        msgspec.structs.replace(window.work.link.document.model, address="sim://bench/gauge-logger?pace=10&vanish=5")
    )
    window.go_to("speech")
    window.work.link.listen()
    qtbot.waitUntil(lambda: stage(window, Stage.TALK).headline.text() == "The port is gone", timeout=15_000)
    assert "Put the adapter back" in stage(window, Stage.TALK).reason.text()
    assert place(window, "port").place.word == "gone"
    assert window.work.link.live.utterances()[0].text == "LEVEL LOGGER FW 3.1 READY"
    assert window.work.link.next_step().button == "Try again"


@pytest.mark.parametrize("device", KINDS)
def test_each_device_of_the_valley_is_proven_by_pressing_what_is_recommended(
    window: Window, qtbot: QtBot, device: str, clock: VirtualTime
) -> None:
    """Widgets alone: the button of "Do next", and the boxes of the acts that the sheet wants done at the device."""
    work = window.work
    assert work.records is not None
    work.open(work.records.add(begun(device, work.catalog), device))
    link, kind = work.link, KINDS[device]
    assert link is not None
    link.bag.kit = KitModel("kit/1", [KitItem(part=part) for part in work.catalog.part_entries])
    acts: list[str] = []
    end = clock.now() + PATIENCE_S
    while not link.proofs():
        assert clock.now() < end, link.next_step()
        clock.pass_s(0.03)
        window.refresh()
        step = link.next_step()
        if step.action is Action.WAIT:
            continue
        assert window.facts.button.text().startswith(step.button)
        qtbot.mouseClick(window.facts.button, LEFT)
        acts.append(step.button)
        while step.action is Action.PREPARE and link.undone():
            clock.pass_s(0.005)  # the acts are shown anew, and the old boxes go
            boxes = stage(window, Stage.PREPARE).findChildren(QCheckBox)
            box = next(box for box in boxes if box.isVisible() and not box.isChecked())
            qtbot.mouseClick(box, LEFT, pos=QPoint(8, box.height() // 2))
            assert clock.now() < end, link.undone()
    proof = link.proofs()[0]
    assert (proof.kind, proof.grade) == kind[:2] and kind[2] in " ".join(proof.identity.values())
    assert len(acts) <= 12, acts
    link.stop()
