"""Keys of a sheet are completed where a key may stand, and nowhere else."""

import pytest
from PyQt6.QtCore import Qt
from pytestqt.qtbot import QtBot

from humble_courier.app.devices.own_sheets import keys
from humble_courier.ui.widgets.sheet_editor import SheetEditor


@pytest.mark.qt_log_ignore("does not support")
def test_a_key_that_is_begun_is_completed(qtbot: QtBot) -> None:
    editor = SheetEditor(keys())
    qtbot.addWidget(editor)
    editor.show()
    assert {"first_words", "connector", "set_in", "forbidden", "msb_first"} <= set(keys())
    qtbot.keyClicks(editor, "first_w")
    popup = editor.completer.popup()
    assert popup is not None and popup.isVisible() and editor.completer.currentCompletion() == "first_words"
    qtbot.keyClick(popup, Qt.Key.Key_Return)
    assert editor.toPlainText() == "first_words: "
    qtbot.keyClicks(editor, "menu")
    assert not popup.isVisible(), "what stands behind a key is no key"


@pytest.mark.parametrize(("line", "begun"), [("  - sa", "sa"), ("  - {act: x, pro", "pro"), ("name: Pum", ""), ("", "")])
def test_where_a_key_may_stand(qtbot: QtBot, line: str, begun: str) -> None:
    editor = SheetEditor(keys())
    qtbot.addWidget(editor)
    editor.setPlainText(line)
    cursor = editor.textCursor()
    cursor.movePosition(cursor.MoveOperation.End)
    editor.setTextCursor(cursor)
    assert editor.begun() == begun
