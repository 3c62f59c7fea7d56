"""A day planned by widgets alone."""

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from humble_courier.app.link.stages import Stage
from humble_courier.ui.stages.today.desk import TodayDesk
from humble_courier.ui.window import Window
from tests.ui.walk import LEFT, desk


def opened(window: Window, qtbot: QtBot) -> TodayDesk:
    window.open_rail(Stage.TODAY)
    made: TodayDesk = desk(window, Stage.TODAY)
    qtbot.waitUntil(lambda: not made.solving, timeout=20_000)
    return made


def test_the_day_of_the_demo_shows_its_bag(window: Window, qtbot: QtBot) -> None:
    today = opened(window, qtbot)
    stage = today.stage
    assert "serve" in stage.headline.text() and "of 5 links" in stage.headline.text()
    assert "Proven to be the fewest" in stage.reason.text() and "bought or built first" in stage.reason.text()
    assert "3. relay hut" in stage.line.accessibleName()
    tile = next(one for one in stage.bag.tiles if one.tile.id == "usb-rs232")
    qtbot.mouseClick(tile, LEFT)
    assert "USB adapter to RS-232, DTE fails: " in stage.told.text()
    assert any(place.lights for place in stage.line._places)
    assert stage.ticks and not stage.ticks[0].isChecked()
    qtbot.mouseClick(stage.ticks[0], LEFT)
    assert window.work.opened_records().today.kept.done


def test_a_visit_is_added_moved_and_taken_out(window: Window, qtbot: QtBot) -> None:
    today = opened(window, qtbot)
    stage, plan = today.stage, window.work.opened_records().today
    qtbot.keyClicks(stage.sentence, "bench meter at the workshop 16:00")
    qtbot.keyClick(stage.sentence, Qt.Key.Key_Return)
    assert plan.kept.visits[-1].place == "workshop" and plan.kept.visits[-1].links
    qtbot.waitUntil(lambda: not today.solving, timeout=20_000)
    assert "of 6 links" in stage.headline.text()
    stage.moved.emit(-1)
    assert plan.kept.visits[-2].place == "workshop"
    stage.line.setFocus()
    qtbot.keyClick(stage.line, Qt.Key.Key_Right)
    stage.taken_out.emit()
    assert [visit.place for visit in plan.kept.visits][-1] == "workshop"
    qtbot.keyClicks(stage.sentence, "nobody knows what at the moon")
    qtbot.mouseClick(stage.add, LEFT)
    assert "no link of the records is meant" in stage.reason.text().lower()


def test_with_a_spare_and_on_paper(window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    today = opened(window, qtbot)
    before = sum(int(n) for n in today._found.bag)  # type: ignore[union-attr]
    today.stage.spare.click()
    qtbot.waitUntil(lambda: not today.solving, timeout=30_000)
    assert sum(int(n) for n in today._found.bag) > before  # type: ignore[union-attr]
    for name, signal in (("d.pdf", today.stage.paper), ("d.ics", today.stage.calendar)):
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, name=name: (str(tmp_path / name), ""))
        signal.emit()
    assert (tmp_path / "d.pdf").read_bytes().startswith(b"%PDF") and b"VEVENT" in (tmp_path / "d.ics").read_bytes()


def test_an_empty_day_says_what_to_do_first(empty_window: Window, qtbot: QtBot) -> None:
    empty_window.open_rail(Stage.TODAY)
    stage = desk(empty_window, Stage.TODAY).stage
    assert stage.headline.text() == "No visit is planned yet" and not stage.bag.isVisible()
