"""Rows to type in, of any number: what is copied from a table elsewhere is put in with its rows and cells."""

from collections.abc import Sequence

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

Cells = tuple[str, ...]
NO_PARENT = QModelIndex()
LEAST_COLUMN = 70  # pixels
SHOWN = Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole


class TypedRows(QAbstractTableModel):
    """Texts in rows; `edited` after a person has changed one."""

    edited = pyqtSignal()

    def __init__(self, columns: Sequence[str]) -> None:
        super().__init__()
        self.columns, self.rows = list(columns), list[Cells]()

    def rowCount(self, parent: QModelIndex = NO_PARENT) -> int:
        """How many rows."""
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex = NO_PARENT) -> int:
        """How many cells a row has."""
        return 0 if parent.isValid() else len(self.columns)

    def data(self, index: QModelIndex, role: int = SHOWN[0]) -> object:
        """The text of a cell."""
        return self.rows[index.row()][index.column()] if role in SHOWN else None

    def headerData(self, section: int, way: Qt.Orientation, role: int = SHOWN[0]) -> object:
        """What a column is called."""
        return self.columns[section] if role == SHOWN[0] and way is Qt.Orientation.Horizontal else None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        """Every cell can be typed in."""
        return super().flags(index) | Qt.ItemFlag.ItemIsEditable

    def setData(self, index: QModelIndex, value: object, role: int = SHOWN[1]) -> bool:
        """A cell is typed."""
        if role not in SHOWN or str(value).strip() == self.rows[index.row()][index.column()]:
            return False
        row = list(self.rows[index.row()])
        row[index.column()] = str(value).strip()
        self.rows[index.row()] = tuple(row)
        self.dataChanged.emit(index, index)
        self.edited.emit()
        return True

    def replace(self, rows: Sequence[Cells]) -> None:
        """Other rows; nobody is told."""
        self.beginResetModel()
        self.rows = [tuple(row) for row in rows]
        self.endResetModel()


class TypedTable(QTableView):
    """The rows on the screen: the first column takes what is left, the others have one width."""

    edited = pyqtSignal()

    def __init__(self, columns: Sequence[str], name: str) -> None:
        super().__init__()
        self.typed = TypedRows(columns)
        self.setModel(self.typed)
        self.typed.edited.connect(self.edited.emit)
        self.setAccessibleName(name)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setTextElideMode(Qt.TextElideMode.ElideMiddle)
        header, side = self.horizontalHeader(), self.verticalHeader()
        if header is not None and side is not None:
            for column in range(1, len(columns)):
                header.setSectionResizeMode(column, QHeaderView.ResizeMode.Interactive)
            header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
            header.setResizeContentsPrecision(0)  # by the rows in view: by all it takes seconds
            header.setMinimumSectionSize(LEAST_COLUMN)
            self.resizeColumnsToContents()
            side.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
            side.hide()

    def show_rows(self, rows: Sequence[Cells]) -> None:
        """Other rows; nobody is told. Columns are as wide as the rows in view want."""
        self.typed.replace(rows)
        for column in range(1, len(self.typed.columns)):
            self.resizeColumnToContents(column)

    def take_out(self) -> bool:
        """Without the rows that are chosen; whether there were any."""
        model = self.selectionModel()
        gone = {index.row() for index in model.selectedIndexes()} if model is not None else set()
        self.show_rows([row for n, row in enumerate(self.typed.rows) if n not in gone])
        return bool(gone)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """What was copied elsewhere is put in from the chosen row on."""
        board = QGuiApplication.clipboard()
        if event is not None and board is not None and event.matches(QKeySequence.StandardKey.Paste):
            self.put_in(board.text())
        else:
            super().keyPressEvent(event)

    def put_in(self, text: str) -> None:
        """Lines with cells parted by tabs or semicolons, from the chosen row on; missing cells stay empty.

        By commas only where each line has a cell for each column: a name may hold one (“Gauge house, level logger”).
        """
        wide = len(self.typed.columns)
        commas = all(line.count(",") == wide - 1 for line in text.splitlines() if line.strip())
        parted = next((mark for mark in "\t;" if mark in text), "," if commas else "\t")
        made = [tuple(c.strip().strip('"') for c in (line.split(parted) + [""] * wide)[:wide]) for line in text.splitlines()]
        made = [row for row in made if any(row)]
        at = max(0, self.currentIndex().row())
        if made:
            self.show_rows([*self.typed.rows[:at], *made, *self.typed.rows[at + len(made) :]])
            self.edited.emit()
