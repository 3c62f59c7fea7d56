"""Devices: which sheets are there, the chosen one as one meets the device, or as text with what follows from it."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QColor, QTextCursor, QTextFormat
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QScrollArea,
    QTextEdit,
    QVBoxLayout,
    QWidget,
)

from humble_courier.app.devices.own_sheets import Checked, keys
from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.stages.devices.ports_view import DrawnPort, PortsView
from humble_courier.ui.theme import Theme
from humble_courier.ui.timer import Timer
from humble_courier.ui.widgets.basics import Pages, button, clear, label
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.sheet_editor import SheetEditor
from humble_courier.ui.widgets.state_list import ListEntry, StateList

PAUSE_MS = 300  # after the last key before the sheet is judged


class DevicesStage(StageWidget):
    """`changed` fires a moment after typing; `begun` gives the place in the list of the relative (-1: a blank).

    `searched` gives words; `wanted` asks for a new link with the chosen device.
    """

    changed = pyqtSignal()
    opened = pyqtSignal(int)
    begun = pyqtSignal(int)
    saved = pyqtSignal()
    searched = pyqtSignal(str)
    wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.search = QLineEdit()
        self.search.setPlaceholderText("a word of a name or a use")
        self.search.setAccessibleName("Search the devices")
        self.search.textChanged.connect(self.searched.emit)
        self.sheets = StateList("Device sheets")
        self.sheets.taken.connect(self.opened.emit)
        self.ports = PortsView()
        self.text = SheetEditor(keys())
        self.text.setAccessibleName("The sheet as text")
        self.text.setTabChangesFocus(True)
        self._pause = Timer(self, self.changed.emit, PAUSE_MS, once=True)
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
        left = QVBoxLayout()
        left.addWidget(self.search)
        left.addWidget(self.sheets, 1)
        self._middle = Pages()
        self._middle.addWidget(self.ports)
        self._middle.addWidget(self.text)
        body.addLayout(left, 5)
        body.addWidget(self._middle, 7)
        body.addWidget(scroll, 6)
        self.column.addLayout(body, 1)
        self.begin_link = button("New link with it", "main", self.wanted.emit, "Ctrl+Return")
        self.as_text = button("Write it as text", "", self._turn_over, "Ctrl+E")
        blank = button("New from a blank", "", lambda: self.begun.emit(-1), "Ctrl+B")
        alike = button("New from this one", "", lambda: self.begun.emit(self.sheets.currentRow()), "Ctrl+N")
        self.back = button("Take back", "", self.text.undo, "Ctrl+Z")
        self.save = button("Save this sheet", "main", self.saved.emit, "Ctrl+S")
        self.column.addWidget(FlowRow([self.begin_link, self.save, self.as_text, alike, blank, self.back]))
        self.show_writing(False)

    @property
    def writing(self) -> bool:
        """Whether the sheet is shown as text."""
        return self._middle.currentWidget() is self.text

    def _turn_over(self) -> None:
        self.show_writing(not self.writing)
        if self.writing:
            self.text.setFocus()

    def show_writing(self, writing: bool) -> None:
        """The sheet as text, or the device as one meets it."""
        self._middle.setCurrentWidget(self.text if writing else self.ports)
        self.as_text.setText("Show its ports  Ctrl+E" if writing else "Write it as text  Ctrl+E")
        self.as_text.setShortcut("Ctrl+E")  # Qt drops the key with the old words
        self.save.setVisible(writing)
        self.back.setVisible(writing)
        self.begin_link.setVisible(not writing)

    def show_sheets(self, lines: list[ListEntry], current: int, theme: Theme) -> None:
        """The list of sheets."""
        self.sheets.show_lines(lines, current, theme)

    def show_ports(self, ports: list[DrawnPort], words: list[tuple[str, str]], theme: Theme) -> None:
        """The device as one meets it."""
        self.ports.show_ports(ports, words, theme)

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
        if found.acts:
            self.told.addWidget(label("What to do there", "title"))
        for act in found.acts:
            if act.caution:
                self.told.addWidget(label(f"▲ {act.caution}", "caution", wrap=True))
            self.told.addWidget(label(act.act, "", wrap=True))
            self.told.addWidget(label(f"done when: {act.proof}", "small", wrap=True))
        for what, value in found.about:
            self.told.addWidget(label(what, "small", wrap=True))
            self.told.addWidget(label(value, "", wrap=True))
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
