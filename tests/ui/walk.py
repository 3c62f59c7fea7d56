"""The technician's way through the demo, by mouse and keyboard; used offscreen and in a real window."""

import json
import subprocess
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from humble_courier.app.link.stages import Stage
from humble_courier.domain.facts import State
from humble_courier.ui.widgets.line_view import PlaceButton
from humble_courier.ui.window import Window

LEFT = Qt.MouseButton.LeftButton


def desk(window: Window, wanted: Stage) -> Any:
    """The desk of a stage, as its own kind."""
    return window.desk(wanted)


def stage(window: Window, wanted: Stage) -> Any:
    """The widget of a stage, as its own kind."""
    return window.desk(wanted).stage


def place(window: Window, id_: str) -> PlaceButton:
    return next(b for b in window.line.buttons if b.place.id == id_)


def choose(window: Window, qtbot: QtBot, part: str) -> None:
    """Exchange the cable with the list below the map, by keyboard."""
    picker = stage(window, Stage.WIRE).map.pickers[0]
    picker.setFocus()
    target = picker.findData(part)
    while picker.currentIndex() != target:
        qtbot.keyClick(picker, Qt.Key.Key_Down if picker.currentIndex() < target else Qt.Key.Key_Up)
        picker = stage(window, Stage.WIRE).map.pickers[0]
    if window.work.link is not None and window.work.link.document.link.parts[1].id != part:
        picker.activated.emit(target)


def walk(window: Window, qtbot: QtBot, folder: Path) -> None:
    """Points 2 to 7 of what the thinnest slice has to do."""
    assert window.work.link is not None
    # The line: every place has its state in words; touching one opens its stage.
    assert len(window.line.buttons) == 10
    assert all(b.place.state.value in b.accessibleName() for b in window.line.buttons)
    qtbot.mouseClick(place(window, "part:2"), LEFT)
    assert window.stack.currentWidget() is stage(window, Stage.WIRE)
    # Wire: the straight cable is marked with its reason, and mended by what is recommended.
    choose(window, qtbot, "straight-de9")
    assert "two senders meet" in stage(window, Stage.WIRE).headline.text()
    assert place(window, "joint:3").place.state is State.CONTRADICTED
    qtbot.mouseClick(window.facts.button, LEFT)
    assert window.work.link.document.link.parts[1].id == "crossed-de9-3wire"
    assert "works" in stage(window, Stage.WIRE).headline.text()
    # Settings: another rate, the bytes that would appear.
    qtbot.mouseClick(place(window, "settings"), LEFT)
    rate = stage(window, Stage.SETTINGS).ends.computer.rate
    line = rate.lineEdit()
    assert line is not None
    line.setText("2400")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert "disagree: rate" in stage(window, Stage.SETTINGS).headline.text()
    assert "with errors" in stage(window, Stage.SETTINGS).ends.appears.text()
    # Talk: garbled; then as the device is set: its power-up line.
    qtbot.mouseClick(place(window, "speech"), LEFT)
    qtbot.mouseClick(stage(window, Stage.TALK).listening.listen_button, LEFT)
    qtbot.waitUntil(lambda: "garbled" in stage(window, Stage.TALK).headline.text(), timeout=15_000)
    assert window.foot.state.text() == "Listening only"
    assert not stage(window, Stage.TALK).listening.card.words.isEnabled()
    qtbot.mouseClick(window.facts.button, LEFT)
    qtbot.waitUntil(lambda: stage(window, Stage.TALK).headline.text() == "Silent so far", timeout=15_000)
    assert window.work.link is not None and window.work.link.live.listening, "the port stays open at other settings"
    # Arm, say the first words, read the identity back.
    qtbot.mouseClick(window.foot.switch, LEFT)
    assert "Armed" in window.foot.state.text()
    qtbot.mouseClick(stage(window, Stage.TALK).listening.word_buttons[0], LEFT)
    qtbot.waitUntil(lambda: "It answers" in stage(window, Stage.TALK).headline.text(), timeout=15_000)
    assert "SKW-GH-07" in place(window, "speech").place.title
    # Record: the proof, the sheet, the drawing, the records.
    qtbot.mouseClick(window.facts.button, LEFT)
    assert window.work.link.evidence.proof_kept
    window.open_rail(Stage.RECORDS)
    assert "Proven" in stage(window, Stage.RECORDS).headline.text()
    assert "SKW-GH-07" in stage(window, Stage.RECORDS).proof.toPlainText()
    for kind in ("pdf", "svg", "json"):
        desk(window, Stage.RECORDS).save_to(kind, folder / f"out.{kind}")
    text = subprocess.run(["pdftotext", str(folder / "out.pdf"), "-"], capture_output=True, text=True, check=True).stdout
    assert "SKW-GH-07" in text
    assert "TXD" in (folder / "out.svg").read_text()
    kept = {link["name"]: link for link in json.loads((folder / "out.json").read_text())["links"]}
    assert kept["Gauge house, level logger"]["proofs"][0]["identity"]["station"] == "SKW-GH-07"
