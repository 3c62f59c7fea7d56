"""Devices: which sheets are there, and one in the making with what follows from it beside it."""

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QTextCursor, QTextFormat
from PyQt6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QListWidget,
    QScrollArea,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from humble_courier.app.devices.own_sheets import Checked, keys
from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, label
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.sheet_editor import SheetEditor

PAUSE_MS = 300  # after the last key before the sheet is judged


class DevicesStage(StageWidget):
    """`changed` fires a moment after typing; `begun` gives the place in the list of the relative (-1: a blank)."""

    changed = pyqtSignal()
    opened = pyqtSignal(int)
    begun = pyqtSignal(int)
    saved = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.sheets = QListWidget()
        self.sheets.setAccessibleName("Device sheets")
        self.sheets.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.sheets.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.sheets.currentRowChanged.connect(self.opened.emit)
        self.text = SheetEditor(keys())
        self.text.setAccessibleName("The sheet as text")
        self.text.setTabChangesFocus(True)
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(PAUSE_MS)
        self._pause.timeout.connect(self.changed.emit)
        self.text.textChanged.connect(self._pause.start)
        self.told = QVBoxLayout()
        inner = QWidget()
        inner.setObjectName("lanes")
        inner.setLayout(self.told)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setAccessibleName("What follows from the sheet")
        scroll.setWidget(inner)
        body = QHBoxLayout()
        body.setSpacing(12)
        for widget, stretch in ((self.sheets, 3), (self.text, 7), (scroll, 6)):
            body.addWidget(widget, stretch)
        self.column.addLayout(body, 1)
        blank = button("New from a blank", "", lambda: self.begun.emit(-1), "Ctrl+B")
        alike = button("New from this one", "", lambda: self.begun.emit(self.sheets.currentRow()), "Ctrl+N")
        back = button("Take back", "", self.text.undo, "Ctrl+Z")
        self.save = button("Save this sheet", "main", self.saved.emit, "Ctrl+S")
        self.column.addWidget(FlowRow([blank, alike, back, self.save]))
        self._rows: list[str] = []

    def show_sheets(self, names: list[str], current: int) -> None:
        """The list of sheets."""
        self.sheets.blockSignals(True)
        if names != self._rows:
            self._rows = names
            self.sheets.clear()
            self.sheets.addItems(names)
        self.sheets.setCurrentRow(current)
        self.sheets.blockSignals(False)

    def show_text(self, text: str) -> None:
        """Put a text into the editor, in a way that can be taken back."""
        cursor = self.text.textCursor()
        cursor.select(QTextCursor.SelectionType.Document)
        cursor.insertText(text)
        cursor.movePosition(QTextCursor.MoveOperation.Start)
        self.text.setTextCursor(cursor)

    def show_check(self, found: Checked, theme: Theme) -> None:
        """What follows from the sheet as it stands, or what is wrong with which line."""
        clear(self.told)
        self.save.setEnabled(not found.problem)
        self._mark(found.line if found.problem else None, theme)
        if found.problem:
            where = f"Line {found.line}" if found.line else "This sheet"
            self.told.addWidget(label(where, "title"))
            self.told.addWidget(label(found.problem, "wrong", wrap=True))
        for act in found.acts:
            if act.caution:
                self.told.addWidget(label(f"▲ {act.caution}", "caution", wrap=True))
            self.told.addWidget(label(act.act, "title", wrap=True))
            self.told.addWidget(label(f"done when: {act.proof}", "small", wrap=True))
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        for line, (what, value) in enumerate(found.about):
            grid.addWidget(label(what, "quiet", wrap=True), line, 0)
            grid.addWidget(label(value, "", wrap=True), line, 1)
        self.told.addLayout(grid)
        self.told.addStretch(1)

    def _mark(self, line: int | None, theme: Theme) -> None:
        """Mark the line that is wrong, so that it is found."""
        marks = []
        document = self.text.document()
        if line is not None and document is not None:
            mark = QTextEdit.ExtraSelection()
            mark.cursor = QTextCursor(document.findBlockByNumber(line - 1))
            colour = QColor(theme.color("contradicted"))
            mark.format.setUnderlineColor(colour)
            mark.format.setProperty(QTextFormat.Property.FullWidthSelection, True)
            colour.setAlpha(48)
            mark.format.setBackground(colour)
            marks.append(mark)
        self.text.setExtraSelections(marks)

    def rest(self) -> None:
        """The window goes: what was typed last is not judged any more."""
        self._pause.stop()
