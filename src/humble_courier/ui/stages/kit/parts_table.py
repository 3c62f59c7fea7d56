"""The parts in the bag, each drawn with its ends: those that go into the chosen one light up.

Only the rows that are seen are drawn, so that thousands open at once.
"""

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QObject, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter, QPen
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
)

from humble_courier.app.kit.contents import KitRow, mating
from humble_courier.domain.hardware import Gender
from humble_courier.domain.text import signs
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import plain_tip
from humble_courier.ui.widgets.end_glyph import draw_end

_HEADS = ("", "Part", "Goes into it", "Pieces", "What it went through")
_DRAWN, _PART, _PIECES = 0, 1, 3
LEAST_ROWS = 5
MEASURED = 60  # rows whose width is looked at
DRAWN_WIDE = 96  # pixels at 100 % for a part with its ends
LETTERS = "ABCDEFGH"


class _Rows(QAbstractTableModel):
    """Rows for the table, and which of their ends go into an end of the chosen one."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.rows: Sequence[KitRow] = ()
        self.goes: Sequence[frozenset[int]] = ()

    def take(self, rows: Sequence[KitRow]) -> None:
        """Other rows."""
        self.beginResetModel()
        self.rows, self.goes = rows, [frozenset[int]()] * len(rows)
        self.endResetModel()

    def light(self, chosen: int) -> None:
        """Another one is chosen."""
        row = self.rows[chosen] if 0 <= chosen < len(self.rows) else None
        self.goes = mating(row, self.rows)
        if self.rows:
            self.dataChanged.emit(self.index(0, 0), self.index(len(self.rows) - 1, len(_HEADS) - 1))

    def rowCount(self, _parent: QModelIndex | None = None) -> int:
        """How many."""
        return len(self.rows)

    def columnCount(self, _parent: QModelIndex | None = None) -> int:
        """How many."""
        return len(_HEADS)

    def words(self, index: QModelIndex) -> str:
        """A cell in words."""
        row = self.rows[index.row()]
        lit = sorted(self.goes[index.row()])
        goes = "end " + " and ".join(LETTERS[i] for i in lit) if lit else ""
        return ("", row.name, goes, str(row.count), row.history)[index.column()]

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """A cell."""
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.AccessibleTextRole and index.column() == _PART:
            return signs(f"{row.name}, {row.told}")
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return signs(self.words(index))
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(f"{row.name}\n{row.told}")
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() == _PIECES:
            return Qt.AlignmentFlag.AlignCenter
        return None

    def headerData(self, section: int, way: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        """A head."""
        if role == Qt.ItemDataRole.DisplayRole and way is Qt.Orientation.Horizontal:
            return _HEADS[section]
        return None


class _Drawn(QStyledItemDelegate):
    """A part in a few strokes: its ends at both sides, those that light up filled."""

    def __init__(self, rows: _Rows) -> None:
        super().__init__()
        self._rows, self.theme = rows, Theme()

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        """Room for a part with two ends."""
        return QSize(self.theme.px(DRAWN_WIDE), self.theme.px(26))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """Line and ends."""
        if painter is None:
            return
        t, box, row = self.theme, QRectF(option.rect), self._rows.rows[index.row()]
        lit = self._rows.goes[index.row()]
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, t.color("socket"))
        painter.setPen(QPen(t.color("ink"), 1.4))
        y, left, right = box.center().y(), box.left() + t.px(22), box.right() - t.px(18)
        if row.ends:
            painter.drawLine(QPointF(left, y), QPointF(right, y))
        places = [left, right] if len(row.ends) == 2 else [left + (right - left) * i / max(1, len(row.ends) - 1)
                                                           for i in range(len(row.ends))]  # fmt: skip
        for i, (x, end) in enumerate(zip(places, row.ends, strict=True)):
            draw_end(painter, QPointF(x, y), end.family, end.gender is Gender.SOCKET, t, lit=i in lit)
        painter.restore()


class _Named(QStyledItemDelegate):
    """A part by its name, and below it its ends and length."""

    def __init__(self, rows: _Rows) -> None:
        super().__init__()
        self._rows, self.theme = rows, Theme()

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        """Two lines."""
        return QSize(self.theme.px(140), self.theme.px(44))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """Name above, ends below."""
        if painter is None:
            return
        t, row, box = self.theme, self._rows.rows[index.row()], QRectF(option.rect)
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, t.color("socket"))
        half = box.height() / 2
        for text, top, size, color, bold in (
            (row.name, box.top() + 2, 13, "ink", True), (row.told, box.top() + half - 2, 12, "quiet", False)
        ):  # fmt: skip
            painter.setFont(t.font(size, bold))
            painter.setPen(t.color(color))
            room = QRectF(box.left() + 3, top, box.width() - 6, half)
            shown = painter.fontMetrics().elidedText(signs(text), Qt.TextElideMode.ElideRight, int(room.width()))
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, shown)
        painter.restore()


class PartsTable(QTableView):
    """`counted`: the place in the kit and the new count. Plus and minus on the keyboard change the chosen row.

    `chosen` gives the place in the kit, whatever rows are shown.
    """

    counted = pyqtSignal(int, int)
    chosen = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self._rows = _Rows(self)
        self._drawn, self._named = _Drawn(self._rows), _Named(self._rows)
        self.setModel(self._rows)
        self.setItemDelegateForColumn(_DRAWN, self._drawn)
        self.setItemDelegateForColumn(_PART, self._named)
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
            wide = QHeaderView.ResizeMode.Stretch if column == _PART else QHeaderView.ResizeMode.ResizeToContents
            head.setSectionResizeMode(column, wide)
        head.setHighlightSections(False)

    @property
    def row(self) -> KitRow | None:
        """The chosen one."""
        at = self.currentIndex().row()
        return self._rows.rows[at] if 0 <= at < len(self._rows.rows) else None

    def show_rows(self, rows: Sequence[KitRow], row_px: int, theme: Theme) -> None:
        """Other rows, `row_px` high; the chosen place stays chosen."""
        side, chosen = self.verticalHeader(), self.currentIndex().row()
        assert side is not None
        self._drawn.theme = self._named.theme = theme
        side.setDefaultSectionSize(row_px)
        self.setMinimumHeight(LEAST_ROWS * row_px)
        if list(rows) != list(self._rows.rows):
            self._rows.take(rows)
            self.selectRow(max(0, min(chosen, len(rows) - 1)))

    def currentChanged(self, current: QModelIndex, previous: QModelIndex) -> None:
        """Another row is chosen."""
        super().currentChanged(current, previous)
        self._rows.light(current.row())
        if current.isValid():
            self.chosen.emit(self._rows.rows[current.row()].at)

    def step(self, by: int) -> None:
        """One more or one fewer of the chosen row."""
        row = self.row
        if row is not None:
            self.counted.emit(row.at, row.count + by)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Plus and minus."""
        if event is not None and event.text() in ("+", "-") and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.step(1 if event.text() == "+" else -1)
        else:
            super().keyPressEvent(event)
