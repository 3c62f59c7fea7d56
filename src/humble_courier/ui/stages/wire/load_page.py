"""Length and load: what surrounds the line, and the figures that follow."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from humble_courier.ui.widgets.basics import clear, label

UNKNOWN = "not known"
ISOLATOR = "Between buildings an isolator is the safe answer; lightning protection is for licensed people and local codes."
BUS = "A bus is a line, not a star: two terminators at its two ends, bias at one place, branches as short as they can be."


class LoadPage(QWidget):
    """Fields to the left, figures to the right. `changed` fires when a field is left; `values` gives what is typed."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.fields: dict[str, QLineEdit] = {}
        self._terminators_label = label("Terminators fitted")
        self.terminators = QComboBox()
        for text, value in ((UNKNOWN, None), ("none", 0), ("one", 1), ("both ends", 2)):
            self.terminators.addItem(text, value)
        self.terminators.activated.connect(lambda _: self.changed.emit())
        self.buildings = QCheckBox("It runs between buildings")
        self.buildings.clicked.connect(lambda _: self.changed.emit())
        self._form = QGridLayout()
        self._form.setHorizontalSpacing(12)
        self._figures = QGridLayout()
        self._figures.setHorizontalSpacing(16)
        self.remarks = label("", "", wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        row = QHBoxLayout()
        row.setSpacing(32)
        for title, grid in (("On site", self._form), ("What follows", self._figures)):
            side = QVBoxLayout()
            side.addWidget(label(title, "title"))
            side.addLayout(grid)
            side.addStretch(1)
            grid.setVerticalSpacing(6)
            row.addLayout(side, 1)
        column.addLayout(row)
        column.addSpacing(12)
        column.addWidget(self.remarks)
        self.reaches = label("", "quiet", wrap=True)
        column.addWidget(self.reaches)
        column.addStretch(1)
        for line in (ISOLATOR, BUS):
            column.addWidget(label(line, "quiet", wrap=True))
        self._asked: list[str] = []

    def show_fields(self, rows: list[tuple[str, str, str]], terminators: int | None, buildings: bool, bus: bool) -> None:
        """Fields as (key, label, value); what is asked of a bus only where there is one."""
        if [key for key, _, _ in rows] != self._asked:
            self._asked = [key for key, _, _ in rows]
            self._lay_out_fields(rows)
        for key, _, value in rows:
            if not self.fields[key].hasFocus():
                self.fields[key].setText(value)
        self.terminators.setVisible(bus)
        self._terminators_label.setVisible(bus)
        self.terminators.setCurrentIndex(self.terminators.findData(terminators))
        self.buildings.setChecked(buildings)

    def _lay_out_fields(self, rows: list[tuple[str, str, str]]) -> None:
        for widget in (self.terminators, self.buildings, self._terminators_label):
            widget.setParent(None)
        clear(self._form)
        self.fields = {}
        for i, (key, text, _) in enumerate(rows):
            field = QLineEdit()
            field.setAccessibleName(text)
            field.editingFinished.connect(self.changed.emit)
            self._form.addWidget(label(text, wrap=True), i, 0)
            self._form.addWidget(field, i, 1)
            self.fields[key] = field
        self._form.addWidget(self._terminators_label, len(rows), 0)
        self._form.addWidget(self.terminators, len(rows), 1)
        self._form.addWidget(self.buildings, len(rows) + 1, 0, 1, 2)

    def show_figures(self, rows: list[tuple[str, str]], remarks: list[str]) -> None:
        """Figures as (name, value), and what is wrong with them."""
        clear(self._figures)
        for i, (name, value) in enumerate(rows):
            self._figures.addWidget(label(name, "quiet"), i, 0)
            self._figures.addWidget(label(value, "title"), i, 1)
        self.remarks.setText("\n".join(remarks))
