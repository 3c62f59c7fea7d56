"""A day planned by widgets alone."""

import datetime
from pathlib import Path

import pytest
from PyQt6.QtCore import QDate, Qt
from PyQt6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from humble_courier.app.link.stages import Stage
from humble_courier.app.today.kept import Where
from humble_courier.domain.facts import State
from humble_courier.ui.stages.today.desk import TodayDesk
from humble_courier.ui.window import Window
from tests.app.today.test_calendar_visits import ELSEWHERE
from tests.ui.walk import LEFT, desk


def opened(window: Window, qtbot: QtBot) -> TodayDesk:
    window.open_rail(Stage.TODAY)
    made: TodayDesk = desk(window, Stage.TODAY)
    packed(made, qtbot)
    return made


def packed(today: TodayDesk, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not today.solving, timeout=60_000)


def test_the_day_of_the_demo_shows_its_bag(window: Window, qtbot: QtBot) -> None:
    today = opened(window, qtbot)
    stage = today.stage
    assert "serve" in stage.headline.text() and "of 5 links" in stage.headline.text()
    assert "Proven to be the least" in stage.reason.text() and "bought or built first" in stage.reason.text()
    assert "3. relay hut" in stage.line.accessibleName()
    tile = next(one for one in stage.bag.tiles if one.tile.id == "usb-rs232")
    qtbot.mouseClick(tile, LEFT)
    assert "USB adapter to RS-232, DTE fails: " in stage.told.text()
    assert any(place.lights for place in stage.line._places)
    assert stage.ticks and not stage.ticks[0].isChecked()
    stage.ticks[0].click()  # a click in the middle of the widget need not meet its box
    assert window.work.opened_records().today.kept.done


def test_a_visit_is_added_moved_changed_and_taken_out(window: Window, qtbot: QtBot) -> None:
    today = opened(window, qtbot)
    stage, plan = today.stage, window.work.opened_records().today
    qtbot.keyClicks(stage.sentence, "bench meter at the workshop 16:00")
    qtbot.keyClick(stage.sentence, Qt.Key.Key_Return)
    assert plan.kept.visits[-1].place == "workshop" and plan.kept.visits[-1].links
    packed(today, qtbot)
    assert "of 6 links" in stage.headline.text()
    stage.visit.choice.activated.emit(1)
    packed(today, qtbot)
    assert len(plan.kept.visits[-1].links) == 2 and "of 7 links" in stage.headline.text()
    stage.visit.note.setText("ring first")
    stage.visit.note.editingFinished.emit()
    stage.visit.minutes.setValue(40)
    stage.visit.minutes.editingFinished.emit()
    assert plan.kept.visits[-1].note == "ring first" and "16:00 · 40 min" in stage.line.accessibleName()
    stage.date.setDate(QDate(2026, 12, 1))
    stage.date.editingFinished.emit()
    assert plan.kept.date == datetime.date(2026, 12, 1) and plan.planned(window.work.catalog).day.date == plan.kept.date
    stage.visit.moved.emit(-1)
    assert plan.kept.visits[-2].place == "workshop"
    stage.back.click()
    assert plan.kept.visits[-1].place == "workshop", "what was done is taken back"
    stage.visit.moved.emit(-1)
    stage.line.setFocus()
    qtbot.keyClick(stage.line, Qt.Key.Key_Right)
    stage.visit.taken_out.emit()
    assert [visit.place for visit in plan.kept.visits][-1] == "workshop"
    qtbot.keyClicks(stage.sentence, "nobody knows what at the moon")
    qtbot.mouseClick(stage.add, LEFT)
    assert "no link of the records is meant" in stage.reason.text().lower()


def test_with_a_spare_or_under_a_weight_and_on_paper(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    today = opened(window, qtbot)
    stage, plan = today.stage, window.work.opened_records().today
    before = len(stage.bag.tiles)
    stage.spare.click()
    packed(today, qtbot)
    assert len(stage.bag.tiles) > before
    stage.wanted.emit("least", "chance")
    packed(today, qtbot)
    assert "The whole day succeeds with" in stage.reason.text() and stage.limit.isVisible() and not stage.spare.isVisible()
    stage.limit.setValue(10)
    stage.limit.editingFinished.emit()
    packed(today, qtbot)
    assert plan.kept.limit_g == 10 and "None that weighs 10 g or less does" in stage.reason.text()
    for name, signal in (("d.pdf", stage.paper), ("d.ics", stage.calendar)):
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, name=name: (str(tmp_path / name), ""))
        signal.emit()
    assert (tmp_path / "d.pdf").read_bytes().startswith(b"%PDF") and b"VEVENT" in (tmp_path / "d.ics").read_bytes()


def test_pieces_are_packed_one_by_one_and_come_back(window: Window, qtbot: QtBot) -> None:
    today = opened(window, qtbot)
    stage, records = today.stage, window.work.opened_records()
    many = len(stage.bag.tiles)
    while stage.next.isVisible():
        stage.next.click()
    assert f"{many} of {many} packed" in stage.reason.text()
    qtbot.mouseClick(stage.bag.tiles[0], LEFT)
    stage.fates[3].click()  # it failed
    qtbot.mouseClick(stage.bag.tiles[1], LEFT)
    stage.fates[1].click()  # is back
    wheres = [tile.tile.where for tile in stage.bag.tiles]
    assert wheres[:2] == [Where.FAILED, Where.BACK] and set(wheres[2:]) == {Where.PACKED}
    part = stage.bag.tiles[0].tile.id
    failures = {item.part: item.failures for item in records.bag.kit.items}
    stage.end.click()
    assert {item.part: item.failures for item in records.bag.kit.items}[part] == failures[part] + 1
    assert "No visit is planned yet" in stage.headline.text() and "Not back from an earlier day" in stage.reason.text()
    stage.back.click()
    packed(today, qtbot)
    assert stage.bag.tiles and {item.part: item.failures for item in records.bag.kit.items} == failures


def test_a_calendar_becomes_a_day(
    empty_window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    today = opened(empty_window, qtbot)
    assert today.stage.headline.text() == "No visit is planned yet" and not today.stage.bag.isVisible()
    once = ELSEWHERE.replace("RRULE:FREQ=WEEKLY;BYDAY=MO,FR;UNTIL=20261231T230000Z\r\n", "").replace("20261102", "20261127")
    (tmp_path / "c.ics").write_bytes(once.encode())
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "c.ics"), ""))
    today.stage.taken.click()
    packed(today, qtbot)
    assert [place.name for place in today.stage.line._places][1:3] == ["weir gauge house", "Relay hut"]
    assert all(place.state is State.UNKNOWN for place in today.stage.line._places)
    (tmp_path / "c.ics").write_bytes(b"nonsense")
    today.stage.taken.click()
    assert "no iCalendar file" in today.stage.reason.text()


def test_500_visits_are_a_day_and_no_more(window: Window, qtbot: QtBot) -> None:
    today = opened(window, qtbot)
    plan = window.work.opened_records().today
    links = [link_id for link_id, _ in window.work.opened_records().links()]
    first = plan.kept.visits[0]
    visits = [first.__class__(f"place {n}", [links[n % len(links)]]) for n in range(500)]
    window.work.do(lambda: plan._change(visits=visits))
    packed(today, qtbot)
    assert "of 500 links" in today.stage.headline.text() and "500. place 499" in today.stage.line.accessibleName()
    today.stage.asked.emit("one more at the weir")
    assert "at most 500 visits" in today.stage.reason.text().lower()
