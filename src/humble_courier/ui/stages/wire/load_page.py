"""Length and load: how far it carries, what surrounds the line, and what is used of what is allowed."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QHBoxLayout, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from humble_courier.app.amounts import Budget
from humble_courier.app.wire.line_load import ReachCurve
from humble_courier.ui.stages.wire.reach_view import ReachView
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import clear, label
from humble_courier.ui.widgets.budget_view import BudgetView

UNKNOWN = "not known"
ISOLATOR = "Between buildings an isolator is the safe answer; lightning protection is for licensed people and local codes."
BUS = "A bus is a line, not a star: two terminators at its two ends, bias at one place, branches as short as they can be."


def _title(text: str) -> QWidget:
    made = label(text, "title")
    made.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
    return made


class LoadPage(QWidget):
    """The reach above, fields to the left, budgets to the right. `changed` fires when a field is left."""

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
        self.reach, self.figures = ReachView(), BudgetView()
        self.remarks = label("", "", wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        row = QHBoxLayout()
        row.setSpacing(32)
        self._form.setVerticalSpacing(6)
        side = QVBoxLayout()
        side.addWidget(_title("On site"))
        side.addLayout(self._form)
        side.addStretch(1)
        row.addLayout(side, 1)
        side = QVBoxLayout()
        side.addWidget(_title("What follows; the mark in a bar is the limit"))
        side.addWidget(self.figures)
        side.addStretch(1)
        row.addLayout(side, 1)
        column.addWidget(self.reach)
        column.addLayout(row)
        column.addSpacing(12)
        column.addWidget(self.remarks)
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

    def show_figures(self, reach: ReachCurve | None, rows: list[Budget], remarks: list[str], theme: Theme) -> None:
        """How far it carries, what is used of what is allowed, and what is wrong with it."""
        self.reach.show_reach(reach, theme)
        self.figures.show_budgets(rows, theme)
        self.remarks.setText("\n".join(remarks))
        self.remarks.setVisible(bool(remarks))
