"""The Records page by widgets alone: the time of a link, what changed, words looked for, another laptop, a copy."""

import json
import zipfile
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from humble_courier.app.link.stages import Stage
from humble_courier.documents.link_changes import with_settings
from humble_courier.domain.settings import Settings
from humble_courier.ui.stages.records.desk import RecordsDesk
from humble_courier.ui.window import Window
from tests.ui.walk import desk

PILLOWS = "Upper snow field, pillows"


def opened(window: Window, name: str = PILLOWS) -> RecordsDesk:
    window.open_rail(Stage.RECORDS)
    made: RecordsDesk = desk(window, Stage.RECORDS)
    names = [one.name for one in made.stage._links]
    made.stage.links.setCurrentRow(names.index(name))
    made.stage.chosen_id = made.stage._links[names.index(name)].id
    made.show()
    return made


def test_the_time_of_a_link_is_gone_through_by_keys(window: Window, qtbot: QtBot) -> None:
    stage = opened(window).stage
    qtbot.waitUntil(lambda: "What this says about its parts" in stage.proof.toPlainText(), timeout=10_000)
    assert "failed: Units 3 and 4 answered at once" in stage.time.accessibleName()
    assert "adapter: SK0007" in stage.time.accessibleDescription()
    last = stage.proof.toPlainText()
    assert "What this says about its parts" in last and "USB adapter to two-wire RS-485" in last
    stage.time.setFocus()
    for _ in range(3):
        qtbot.keyClick(stage.time, Qt.Key.Key_Left)
    assert stage.proof.toPlainText() != last and "388 mm" in stage.proof.toPlainText()
    qtbot.mouseClick(stage.time, Qt.MouseButton.LeftButton, pos=stage.time.rect().topRight())
    assert "Otherwise than at the proof before" in stage.proof.toPlainText()


def test_what_changed_since_it_last_worked_is_the_headline(window: Window) -> None:
    records = window.work.opened_records()
    ids = {name: link_id for link_id, name in records.links()}
    assert window.work.open(ids[PILLOWS])
    link = window.work.link
    assert link is not None
    link.change(with_settings(link.document.model, computer=Settings.parse("9600,8N1")))
    stage = opened(window).stage
    told = f"{PILLOWS}: since it last worked: settings of the computer 9600,8N1 in place of 19200,8E1"
    assert stage.headline.text() == told


def test_words_are_found_in_what_was_noted(window: Window, qtbot: QtBot) -> None:
    stage = opened(window).stage
    qtbot.keyClicks(stage.search, "battery")
    assert PILLOWS in [one.name for one in stage._links]
    assert "These words stand in" in stage.proof.toPlainText() and "battery change" in stage.proof.toPlainText()
    stage.search.setText("no such word anywhere")
    assert stage._links == []


def test_another_laptop_is_taken_in_and_a_copy_is_made(
    window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = opened(window)
    made.save_to("json", tmp_path / "all.json")
    theirs = json.loads((tmp_path / "all.json").read_text())
    theirs["links"][0]["id"], theirs["links"][0]["name"] = "of-another-laptop", "Somebody else's"
    theirs["links"][0]["versions"] = []
    (tmp_path / "theirs.json").write_text(json.dumps(theirs))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "theirs.json"), ""))
    made.stage.merge.emit()
    assert "new pieces taken in, 12 links were the same" in made.stage.reason.text()
    assert "Somebody else's" in [name for _, name in window.work.opened_records().links()]
    copies = list((window.work.opened_records()._store.path.parent / "copies").glob("before-merge-*.zip"))
    assert len(copies) == 1
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "copy.zip"), ""))
    made.stage.copy.emit()
    assert "records.sqlite3" in zipfile.ZipFile(tmp_path / "copy.zip").namelist()
    (tmp_path / "theirs.json").write_text("{")
    made.stage.merge.emit()
    assert "no file of records" in made.stage.reason.text()
