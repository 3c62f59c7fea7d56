"""Kit: what is in the bag?"""

from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.widgets.basics import button, clear, label

Row = tuple[str, str, int, str]  # name, what it is, count, history


class KitStage(StageWidget):
    """The parts at hand. `counted` gives the place in the list and the new count."""

    counted = pyqtSignal(int, int)
    added = pyqtSignal(str)
    made = pyqtSignal(str, str, str, str)
    opened = pyqtSignal()
    saved = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(12)
        inner = QWidget()
        inner.setObjectName("lanes")
        inner.setLayout(self._grid)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setAccessibleName("Parts in the kit")
        scroll.setWidget(inner)
        self.column.addWidget(scroll, 1)
        self.catalog = QComboBox()
        self.catalog.setAccessibleName("Part of the catalog to add")
        add = QHBoxLayout()
        add.addWidget(label("Add a standard part", "small"))
        add.addWidget(self.catalog, 1)
        add.addWidget(button("Add", "main", lambda: self.added.emit(self.catalog.currentData()), "Ctrl+A"))
        self.column.addLayout(add)
        self.column.addLayout(self._own_lead())
        files = QHBoxLayout()
        files.addWidget(button("Open a kit file", "", self.opened.emit, "Ctrl+O"))
        files.addWidget(button("Save the kit as a file", "", self.saved.emit, "Ctrl+S"))
        files.addStretch(1)
        self.column.addLayout(files)
        self._shown: list[Row] | None = None

    def _own_lead(self) -> QVBoxLayout:
        """A lead of one's own in words."""
        column = QVBoxLayout()
        column.addWidget(label("Or a lead of your own: name, its two ends, contact to contact", "small"))
        row = QHBoxLayout()
        self.fields = [QLineEdit() for _ in range(4)]
        hints = zip(("name on its label", "D9 socket", "D9 plug", "2-3, 3-2, 5-5"), (3, 2, 2, 3), strict=True)
        for field, (hint, stretch) in zip(self.fields, hints, strict=True):
            field.setPlaceholderText(hint)
            field.setAccessibleName(hint)
            row.addWidget(field, stretch)
        row.addWidget(button("Add the lead", "", self._made, "Ctrl+L"))
        column.addLayout(row)
        return column

    def _made(self) -> None:
        self.made.emit(*(field.text() for field in self.fields))

    def show_kit(self, rows: list[Row], offered: list[tuple[str, str]]) -> None:
        """Show the items, and what the catalog offers as (id, name)."""
        pieces = sum(row[2] for row in rows)
        if rows:
            self.say(
                f"{pieces} parts are in the kit",
                "Chains are searched in it. Each proof notes that its parts have served.",
            )
        else:
            self.say("The kit is empty", "Add what is in your bag: then the best chain is found for you.")
        if self.catalog.count() == 0:
            for id_, name in offered:
                self.catalog.addItem(name, id_)
        if rows == self._shown:
            return
        self._shown = rows
        clear(self._grid)
        for i, (name, what, count, history) in enumerate(rows):
            self._grid.addWidget(label(name, "title"), i, 0)
            self._grid.addWidget(label(what, "quiet"), i, 1)
            self._grid.addWidget(label(history, "quiet"), i, 2)
            self._grid.addWidget(label(str(count), "title"), i, 3)
            for column, (text, step, spoken) in enumerate((("−", -1, "fewer"), ("+", 1, "more")), start=4):
                made = button(text, "", partial(self.counted.emit, i, count + step))
                made.setAccessibleName(f"{spoken}: {name}")
                self._grid.addWidget(made, i, column)
        self._grid.setColumnStretch(1, 1)
        self._grid.setRowStretch(len(rows), 1)
