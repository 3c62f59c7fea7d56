"""The Records page by widgets alone: the time of a link, what changed, words looked for, another laptop, a copy."""

import json
import subprocess
import zipfile
from pathlib import Path

import msgspec
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtPrintSupport import QPrinter
from PyQt6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot

from humble_courier.app.link.stages import Stage
from humble_courier.app.records.merge_file import Whose
from humble_courier.documents.link_changes import with_settings
from humble_courier.domain.settings import Settings
from humble_courier.ui.paper.printing import print_pages
from humble_courier.ui.stages.records.desk import RecordsDesk
from humble_courier.ui.window import Window
from tests.ui.walk import LEFT, desk

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
    for day, there in (("2026-01-01", True), ("2099-01-01", False), ("20", True)):
        stage.search.setText(f"battery since:{day}")
        assert (PILLOWS in [one.name for one in stage._links]) is there or day == "20", day
    stage.search.setText("no such word anywhere")
    assert stage._links == []


def test_another_laptop_is_taken_in_and_a_copy_is_made(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = opened(window)
    made.save_to("json", tmp_path / "all.json")
    theirs = json.loads((tmp_path / "all.json").read_text())
    theirs["links"][0]["id"], theirs["links"][0]["name"] = "of-another-laptop", "Somebody else's"
    theirs["links"][0]["versions"] = []
    (tmp_path / "theirs.json").write_text(json.dumps(theirs))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "theirs.json"), ""))
    made.stage.merge.emit()
    qtbot.waitUntil(lambda: "new pieces taken in, 12 links were the same" in made.stage.reason.text(), timeout=9000)
    assert "Somebody else's" in [name for _, name in window.work.opened_records().links()]
    copies = list((window.work.opened_records()._store.path.parent / "copies").glob("before-merge-*.zip"))
    assert len(copies) == 1
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "copy.zip"), ""))
    made.stage.copy.emit()
    assert "records.sqlite3" in zipfile.ZipFile(tmp_path / "copy.zip").namelist()
    (tmp_path / "theirs.json").write_text("{")
    made.stage.merge.emit()
    qtbot.waitUntil(lambda: "no file of records" in made.stage.reason.text(), timeout=9000)


def test_what_was_changed_on_both_sides_is_decided_and_taken_back(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    made, records = opened(window), window.work.opened_records()
    made.save_to("json", tmp_path / "theirs.json")
    theirs = json.loads((tmp_path / "theirs.json").read_text())
    one = next(link for link in theirs["links"] if link["name"] == PILLOWS)
    other = {**one["document"], "address": "/dev/ttyUSB7", "settings": {"computer": "9600,8E1"}}
    one["versions"].append({"updated": one["updated"] + 5, "name": PILLOWS, "document": other})
    (tmp_path / "theirs.json").write_text(json.dumps(theirs))
    records._store.save_link(
        msgspec.structs.replace(records.document(one["id"]), address="/dev/ttyUSB1"), f"{PILLOWS}, lower", one["id"]
    )
    made.merge_from(tmp_path / "theirs.json")
    view = made.stage.conflict
    qtbot.waitUntil(view.isVisible, timeout=9000)
    assert PILLOWS in view.title.text() and ("address", Whose.THEIRS) in view.choices
    view.choices["address", Whose.OURS].click()
    view.choices["settings.computer", Whose.THEIRS].click()
    view.choices["name", Whose.OURS].click()
    qtbot.mouseClick(view.keep, LEFT)
    assert not view.isVisible()
    now = records.document(one["id"])
    assert (now.name, now.address, now.settings.computer) == (f"{PILLOWS}, lower", "/dev/ttyUSB1", "9600,8E1")
    qtbot.mouseClick(made.stage.merge_back, LEFT)
    assert "gone again" in made.stage.reason.text() and not made.stage.merge_back.isVisible()


def test_a_search_is_kept_and_paper_is_made(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    made = opened(window)
    qtbot.keyClicks(made.stage.search, "ridge")
    qtbot.mouseClick(made.stage.keep_search, LEFT)
    made.stage.search.clear()
    made.stage.kept_searches.setCurrentIndex(1)
    made.stage.kept_searches.activated.emit(1)
    assert made.stage.search.text() == "ridge" and len(made.stage._links) == 3
    made.save_to("report", tmp_path / "report.pdf")
    made.save_to("handover", tmp_path / "handover.pdf")
    for name, told in (("report", "3 links, 3 of them proven"), ("handover", "What became of it")):
        text = subprocess.run(
            ["pdftotext", tmp_path / f"{name}.pdf", "-"], capture_output=True, text=True, check=True
        ).stdout
        assert told in text
    printer = QPrinter()
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "printed.pdf"))
    print_pages(tmp_path / "report.pdf", printer)
    assert (tmp_path / "printed.pdf").stat().st_size > 1000
    qtbot.mouseClick(made.stage.keep_search, LEFT)
    assert window.work.opened_records().searches == []


def test_leftovers_are_cleared_and_one_goes_back_and_forth_between_links(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    records, first = window.work.opened_records(), window.work.link
    assert first is not None
    old = records.add(first.document.model, "left over")
    made = opened(window)
    window.work.open(records.links()[-1][0])
    second = window.work.link
    assert second is not None and second.id != first.id and window.header.other.isVisible()
    qtbot.mouseClick(window.header.other, LEFT)
    assert window.work.link is not None and window.work.link.id == first.id
    qtbot.mouseClick(window.header.other, LEFT)
    assert window.work.link is not None and window.work.link.id == second.id
    later = records._store.rows()[0][2] + 91 * 86_400
    monkeypatch.setattr(window.work.clock, "wall", lambda: later)
    window.open_rail(Stage.RECORDS)
    made.stage.cleared.emit()
    assert "left over" in made.stage.reason.text() and old not in dict(records.links())
    while records.taken_out:
        made.stage.put_back.emit()
    assert {old, first.id} <= set(dict(records.links()))
