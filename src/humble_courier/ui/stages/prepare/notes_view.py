"""Values that are noted at the device: a field each, what it was before under it, and what the device has told."""

from collections.abc import Sequence
from datetime import datetime
from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from humble_courier.app.link.notes import USUAL, Note, NotedValue
from humble_courier.ui.widgets.basics import button, clear, label

MOST_BEFORE = 3  # earlier values that are shown


class NotesView(QWidget):
    """`noted` gives the name and the value."""

    noted = pyqtSignal(str, str)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 10, 0, 0)
        column.addWidget(label("Values noted here, each with its history", "title"))
        self.rows = QGridLayout()
        self.rows.setHorizontalSpacing(16)
        self.rows.setColumnStretch(1, 1)
        column.addLayout(self.rows)
        self.fields: dict[str, QLineEdit] = {}
        self.name, self.value = QComboBox(), QLineEdit()
        self.name.setEditable(True)
        self.name.addItems(list(USUAL))
        self.name.setCurrentText("")
        self.name.setAccessibleName("What else is noted")
        self.name.setMinimumContentsLength(14)
        line = self.name.lineEdit()
        if line is not None:
            line.setPlaceholderText("what else")
        self.value.setAccessibleName("Its value")
        self.value.setPlaceholderText("its value, as it was read")
        self.value.returnPressed.connect(self._added)
        row = QHBoxLayout()
        row.addWidget(self.name, 2)
        row.addWidget(self.value, 3)
        row.addWidget(button("Note it", "", self._added))
        column.addLayout(row)
        self._shown: tuple[Note, ...] | None = None

    def show_notes(self, notes: Sequence[Note]) -> None:
        """Show them; a field that is being typed in is left alone as long as nothing is other."""
        if tuple(notes) == self._shown:
            return
        self._shown = tuple(notes)
        typed = {name: field.text() for name, field in self.fields.items() if field.isModified()}
        at = next((name for name, field in self.fields.items() if field.hasFocus()), None)
        clear(self.rows)
        self.fields = {}
        for i, note in enumerate(notes):
            self._show(i, note, typed.get(note.name))
        if at in self.fields:
            self.fields[at].setFocus()

    def _show(self, i: int, note: Note, typed: str | None) -> None:
        field = QLineEdit(note.now)
        if typed is not None and typed != note.now:
            field.setText(typed)
            field.setModified(True)
        field.setAccessibleName(note.name)
        field.setPlaceholderText("not noted yet")
        field.editingFinished.connect(partial(self._typed, field, note))
        self.fields[note.name] = field
        self.rows.addWidget(label(note.name, "quiet", wrap=True), 2 * i, 0)
        self.rows.addWidget(field, 2 * i, 1)
        if note.offered:
            take = button(f"It told {note.offered}: note that", "", partial(self.noted.emit, note.name, note.offered))
            self.rows.addWidget(take, 2 * i, 2)
        if note.values:
            self.rows.addWidget(label(_told(note), "small", wrap=True), 2 * i + 1, 1, 1, 2)

    def _typed(self, field: QLineEdit, note: Note) -> None:
        if field.isModified() and field.text().strip() and field.text().strip() != note.now:
            field.setModified(False)
            self.noted.emit(note.name, field.text())

    def _added(self) -> None:
        name, value = self.name.currentText().strip(), self.value.text().strip()
        self.noted.emit(name, value)
        if name and value:
            self.value.clear()
            self.name.setCurrentText("")


def _told(note: Note) -> str:
    """When the value was noted, and what it was before."""
    told = f"{note.values[-1].source}, {_day(note.values[-1])}"
    before = ", ".join(f"{one.value} ({_day(one)})" for one in note.before[:MOST_BEFORE])
    more = f" and {len(note.before) - MOST_BEFORE} more" if len(note.before) > MOST_BEFORE else ""
    return f"{told}; before that {before}{more}" if before else told


def _day(one: NotedValue) -> str:
    return f"{datetime.fromtimestamp(one.at):%Y-%m-%d}"
