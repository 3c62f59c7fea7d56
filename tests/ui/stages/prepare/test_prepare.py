"""Prepare: values are noted in place, pictures are kept by dropping them, and what holds at the site stands first."""

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QLabel, QPushButton
from pytestqt.qtbot import QtBot

from humble_courier.app.link.stages import Stage
from humble_courier.ui.window import Window
from tests.ui.walk import LEFT, stage


def test_a_value_is_typed_kept_and_its_history_shown(window: Window, qtbot: QtBot) -> None:
    window.go_to("device")
    link, notes = window.work.link, stage(window, Stage.PREPARE).notes
    assert link is not None
    for value in ("3.0", "3.1"):
        field = notes.fields["serial number"]
        field.setFocus()
        field.selectAll()
        qtbot.keyClicks(field, value)
        qtbot.keyClick(field, Qt.Key.Key_Return)
    assert [one.value for one in next(n for n in link.notes() if n.name == "serial number").values] == ["3.0", "3.1"]
    assert any("before that 3.0" in label.text() for label in notes.findChildren(QLabel))
    assert notes.fields["serial number"].text() == "3.1"
    notes.name.setCurrentText("hours run")
    qtbot.keyClicks(notes.value, "12 400")
    qtbot.keyClick(notes.value, Qt.Key.Key_Return)
    assert notes.fields["hours run"].text() == "12 400" and notes.value.text() == ""
    qtbot.keyClick(notes.value, Qt.Key.Key_Return)  # nothing typed: it is said, and nothing kept
    assert "noted" in stage(window, Stage.PREPARE).reason.text()


def test_a_picture_is_dropped_shown_and_taken_out(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    picture = QImage(4000, 3000, QImage.Format.Format_RGB32)
    picture.fill(Qt.GlobalColor.darkCyan)
    picture.save(str(tmp_path / "plate.png"))
    (tmp_path / "broken.jpg").write_bytes(b"no picture")
    window.go_to("device")
    for name in ("plate.png", "broken.jpg", "gone.png"):
        window.work.take_file(tmp_path / name)
    assert "no such file" in stage(window, Stage.PREPARE).reason.text()
    (tmp_path / "plate.png").unlink()
    files, link = stage(window, Stage.PREPARE).files, window.work.link
    assert link is not None and [one.name for one in link.ledger.files()] == ["plate.png", "broken.jpg"]
    shown = {label.accessibleName(): label for label in files.findChildren(QLabel) if label.accessibleName()}
    assert not shown["plate.png"].pixmap().isNull() and shown["broken.jpg"].text() == "JPG file"
    out = next(b for b in files.findChildren(QPushButton) if b.text() == "Take out")
    qtbot.mouseClick(out, LEFT)
    assert [one.name for one in link.ledger.files()] == ["broken.jpg"]


def test_what_holds_at_the_site_stands_before_all(window: Window) -> None:
    window.go_to("device")
    window.work.prefer(cautions=["Tell the gate"])
    window.refresh()
    assert any(label.text() == "At this site: Tell the gate" for label in stage(window, Stage.PREPARE).findChildren(QLabel))
