"""A sheet as text: lines wrap, and a key that is begun is completed from those that a sheet knows (Enter takes it)."""

from collections.abc import Sequence

from PyQt6.QtCore import QStringListModel, Qt
from PyQt6.QtGui import QKeyEvent, QTextCursor
from PyQt6.QtWidgets import QCompleter, QPlainTextEdit

SHORTEST = 2  # letters of a key that are typed before it is offered
TAKES = (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Tab)


class SheetEditor(QPlainTextEdit):
    """Text with completion. Ctrl+Space offers all keys."""

    def __init__(self, keys: Sequence[str]) -> None:
        super().__init__()
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.WidgetWidth)
        self._keys = QStringListModel(sorted(keys))
        self.completer = QCompleter(self._keys, self)
        self.completer.setWidget(self)
        self.completer.setCompletionMode(QCompleter.CompletionMode.PopupCompletion)
        self.completer.activated[str].connect(self._take)

    def begun(self) -> str:
        """The key that is being typed: the word at the begin of the line (or of a member), up to the cursor."""
        cursor = self.textCursor()
        before = cursor.block().text()[: cursor.positionInBlock()]
        word = before.lstrip(" -{").rpartition("{")[2].rpartition(",")[2].strip()
        return word if word.replace("_", "").isalpha() else ""

    def _take(self, key: str) -> None:
        cursor = self.textCursor()
        cursor.movePosition(QTextCursor.MoveOperation.Left, QTextCursor.MoveMode.KeepAnchor, len(self.begun()))
        cursor.insertText(f"{key}: ")
        self.setTextCursor(cursor)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Typing offers keys; the open list takes Enter, Tab and Esc for itself."""
        popup = self.completer.popup()
        if event is None or popup is None:
            return
        if popup.isVisible() and event.key() in (*TAKES, Qt.Key.Key_Escape):
            event.ignore()  # it is the list's
            return
        asked = event.key() == Qt.Key.Key_Space and bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if not asked:
            super().keyPressEvent(event)
        begun = self.begun()
        if not asked and (len(begun) < SHORTEST or not event.text().isalpha()):
            popup.hide()
            return
        self.completer.setCompletionPrefix(begun)
        if self.completer.completionCount() == 0 or (not asked and self.completer.currentCompletion() == begun):
            popup.hide()
            return
        popup.setCurrentIndex(self.completer.completionModel().index(0, 0))  # type: ignore[union-attr]
        at = self.cursorRect()
        at.setWidth(max(160, popup.sizeHintForColumn(0) + 24))
        self.completer.complete(at)
