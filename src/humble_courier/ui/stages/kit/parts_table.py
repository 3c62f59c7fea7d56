"""The parts in the bag as a table: only the rows that are seen are drawn, so that thousands open at once."""

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

from humble_courier.domain.text import signs

Row = tuple[str, str, int, str]  # name, what it is, count, history
_HEADS = ("Part", "Ends and length", "Pieces", "What it went through")
_PIECES = 2
LEAST_ROWS = 6
MEASURED = 60  # rows whose width is looked at


class _Rows(QAbstractTableModel):
    """Rows for the table."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.rows: Sequence[Row] = ()

    def take(self, rows: Sequence[Row]) -> None:
        """Other rows."""
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, _parent: QModelIndex | None = None) -> int:
        """How many."""
        return len(self.rows)

    def columnCount(self, _parent: QModelIndex | None = None) -> int:
        """How many."""
        return len(_HEADS)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """A cell."""
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return signs(str(self.rows[index.row()][index.column()]))
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() == _PIECES:
            return Qt.AlignmentFlag.AlignCenter
        return None

    def headerData(self, section: int, way: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """A head."""
        if role == Qt.ItemDataRole.DisplayRole and way is Qt.Orientation.Horizontal:
            return _HEADS[section]
        return None


class PartsTable(QTableView):
    """`counted`: the place in the list and the new count. Plus and minus on the keyboard change the chosen row."""

    counted = pyqtSignal(int, int)
    chosen = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self._rows = _Rows(self)
        self.setModel(self._rows)
        self.setAccessibleName("Parts in the kit")
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setShowGrid(False)
        self.setTabKeyNavigation(False)
        head, side = self.horizontalHeader(), self.verticalHeader()
        assert head is not None
        assert side is not None
        side.hide()
        side.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        head.setResizeContentsPrecision(MEASURED)
        head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        for column in range(len(_HEADS)):
            wide = QHeaderView.ResizeMode.Stretch if column < _PIECES else QHeaderView.ResizeMode.ResizeToContents
            head.setSectionResizeMode(column, wide)
        head.setHighlightSections(False)

    def show_rows(self, rows: Sequence[Row], row_px: int) -> None:
        """Other rows, `row_px` high; the chosen place stays chosen."""
        side, chosen = self.verticalHeader(), self.currentIndex().row()
        assert side is not None
        side.setDefaultSectionSize(row_px)
        self.setMinimumHeight(LEAST_ROWS * row_px)
        if rows != self._rows.rows:
            self._rows.take(rows)
            self.selectRow(max(0, min(chosen, len(rows) - 1)))

    def currentChanged(self, current: QModelIndex, previous: QModelIndex) -> None:
        """Another row is chosen."""
        super().currentChanged(current, previous)
        if current.isValid():
            self.chosen.emit(current.row())

    def step(self, by: int) -> None:
        """One more or one fewer of the chosen row."""
        row = self.currentIndex().row()
        if 0 <= row < len(self._rows.rows):
            self.counted.emit(row, self._rows.rows[row][2] + by)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Plus and minus."""
        if event is not None and event.text() in ("+", "-") and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.step(1 if event.text() == "+" else -1)
        else:
            super().keyPressEvent(event)
