"""A defect while the window is open: one dialog that names the report, and the program goes on."""

import sys
import threading
from pathlib import Path

import pytest
from PyQt6.QtCore import QTimer
from pytestqt.qtbot import QtBot

from humble_courier.ui.defects import Defects
from humble_courier.ui.window import Window


@pytest.mark.parametrize("where", ["a slot", "a thread"])
def test_a_defect_is_told_once_and_the_window_lives(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, where: str
) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    monkeypatch.setattr(threading, "excepthook", threading.excepthook)
    defects = Defects(window)
    defects.watch()

    def broken() -> None:
        raise ZeroDivisionError("<b>a bug</b>")

    for _ in range(3):
        if where == "a thread":
            worker = threading.Thread(target=broken)
            worker.start()
            worker.join()
        else:
            QTimer.singleShot(0, lambda: defects.take(ZeroDivisionError, ZeroDivisionError("a bug"), None))
    qtbot.waitUntil(lambda: defects.dialog is not None)
    assert (
        defects.dialog is not None and "details are in" in defects.dialog.text() and str(tmp_path) in defects.dialog.text()
    )
    assert len(list(tmp_path.rglob("*.txt"))) >= 1
    defects.dialog.accept()
    qtbot.waitUntil(lambda: defects.dialog is None)
    assert window.isVisible()
