"""Kit: what is in the bag?"""

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QVBoxLayout

from humble_courier.app.kit.contents import KitRow
from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.stages.kit.parts_table import PartsTable
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, label
from humble_courier.ui.widgets.flow import FlowRow


class KitStage(StageWidget):
    """The parts at hand. `counted` gives the place in the list and the new count."""

    counted = pyqtSignal(int, int)
    added = pyqtSignal(str)
    made = pyqtSignal(str, str, str, str)
    told_apart = pyqtSignal(int, str, str)  # a piece of a row: its module and its serial number
    plugged_wanted = pyqtSignal()
    opened = pyqtSignal()
    saved = pyqtSignal()
    searched = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.search = QLineEdit()
        self.search.setPlaceholderText("a word of a part or of an end, as in crossed or D 25")
        self.search.setAccessibleName("Search the parts")
        self.search.textChanged.connect(self.searched.emit)
        self.column.addWidget(self.search)
        self.table = PartsTable()
        self.table.counted.connect(self.counted)
        self.column.addWidget(self.table, 1)
        pieces = QHBoxLayout()
        pieces.addWidget(button("One more of it", "", lambda: self.table.step(1)))
        pieces.addWidget(button("One fewer", "", lambda: self.table.step(-1)))
        pieces.addWidget(label("or the keys + and −", "small"), 1)
        self.column.addLayout(pieces)
        self.column.addWidget(self._piece())
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

    def _piece(self) -> FlowRow:
        """One piece of the chosen row as an individual: which module claims it, what it reports as its serial number."""
        self.module, self.serial = QLineEdit(), QLineEdit()
        for field, hint in ((self.module, "module that claims it, as ftdi_sio"), (self.serial, "its serial number")):
            field.setPlaceholderText(hint)
            field.setAccessibleName(hint)
            field.returnPressed.connect(self._named)
        self.plugged = button("As the one that is plugged in", "", self.plugged_wanted.emit, "Ctrl+P")
        fields = (self.module, self.serial)
        row = [label("This piece", "small"), *fields, button("Tell it apart", "", self._named), self.plugged]
        return FlowRow(row, wide=fields)

    def _named(self) -> None:
        row = self.table.row
        self.told_apart.emit(row.at if row is not None else -1, self.module.text(), self.serial.text())

    def show_piece(self, module: str, serial: str) -> None:
        """The individual of the chosen row."""
        self.module.setText(module)
        self.serial.setText(serial)

    def _own_lead(self) -> QVBoxLayout:
        """A lead of one's own in words."""
        column = QVBoxLayout()
        told = (
            "Or a part of your own: its ends (leads for loose conductors, several with “and”), contact to contact or colour"
        )
        column.addWidget(label(told, "small", wrap=True))
        row = QHBoxLayout()
        self.fields = [QLineEdit() for _ in range(4)]
        hints = zip(
            ("name on its label", "D9 socket, bayonet(3,4) plug", "D9 plug, or leads", "2-3, 3-2, or 2-white"),
            (3, 2, 2, 3),
            strict=True,
        )
        for field, (hint, stretch) in zip(self.fields, hints, strict=True):
            field.setPlaceholderText(hint)
            field.setAccessibleName(hint)
            row.addWidget(field, stretch)
        row.addWidget(button("Add the lead", "", self._made, "Ctrl+L"))
        column.addLayout(row)
        return column

    def _made(self) -> None:
        self.made.emit(*(field.text() for field in self.fields))

    def show_kit(
        self, rows: Sequence[KitRow], pieces: int, offered: list[tuple[str, str]], row_px: int, theme: Theme
    ) -> None:  # fmt: skip
        """Show the items in rows so high, of `pieces` in all, and what the catalog offers as (id, name)."""
        if pieces:
            found = "1 kind matches" if len(rows) == 1 else f"{len(rows)} kinds match"
            shown = f"; {found} what is searched" if self.search.text().strip() else ""
            told = "Ends that go into the chosen part are filled. Each proof notes that its parts have served."
            self.say(f"{pieces} parts are in the kit{shown}", told)
        else:
            self.say("The kit is empty", "Add what is in your bag: then the best chain is found for you.")
        if self.catalog.count() == 0:
            for id_, name in offered:
                self.catalog.addItem(name, id_)
        self.table.show_rows(rows, row_px, theme)
