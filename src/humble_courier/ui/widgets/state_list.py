"""A list of things to choose from, each with its state as a mark, a title, what is said of it, and a word at the right."""

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QModelIndex, QPointF, QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPen, QResizeEvent
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from humble_courier.domain.facts import State
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.marks import draw_state

HIGH, LEFT, RIGHT = 46, 34, 12


@dataclass(frozen=True)
class ListEntry:
    """One entry."""

    state: State
    title: str
    told: str
    aside: str = ""

    @property
    def spoken(self) -> str:
        """For a reader."""
        return ", ".join(part for part in (self.title, self.told, self.aside, self.state.value) if part)


class StateDelegate(QStyledItemDelegate):
    """Draws a `ListEntry`."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        """Two lines of text."""
        return QSize(self.theme.px(120), self.theme.px(HIGH))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        """Mark, title, what is said, and the word at the right."""
        line = index.data(Qt.ItemDataRole.UserRole)
        if painter is None or not isinstance(line, ListEntry):
            return
        theme, box = self.theme, option.rect
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, theme.color("socket"))
            painter.fillRect(QRect(box.left(), box.top(), theme.px(4), box.height()), theme.color("action"))
        draw_state(painter, QPointF(box.left() + theme.px(18), box.center().y()), theme.px(16), line.state, theme)
        painter.setPen(QPen(theme.color("quiet")))
        painter.setFont(theme.font(12))
        aside = painter.fontMetrics().horizontalAdvance(line.aside) + theme.px(RIGHT) if line.aside else 0
        middle = box.top() + box.height() // 2
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(box.adjusted(0, 0, -theme.px(RIGHT), 0), right, line.aside)
        room = QRect(box.left() + theme.px(LEFT), box.top(), box.width() - theme.px(LEFT + RIGHT) - aside, box.height())
        told = QRect(room.left(), middle, room.width(), box.height() // 2 - 3)
        painter.drawText(told, Qt.AlignmentFlag.AlignVCenter, self._short(painter, line.told, room.width()))
        painter.setFont(theme.font(13, bold=True))
        painter.setPen(QPen(theme.color("ink")))
        title = QRect(room.left(), box.top() + 3, room.width(), box.height() // 2 - 3)
        painter.drawText(title, Qt.AlignmentFlag.AlignVCenter, self._short(painter, line.title, room.width()))
        painter.restore()

    @staticmethod
    def _short(painter: QPainter, text: str, width: int) -> str:
        return painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, width)


class StateList(QListWidget):
    """`taken` gives the place of the entry that was chosen by a person."""

    taken = pyqtSignal(int)

    def __init__(self, name: str) -> None:
        super().__init__()
        self._delegate = StateDelegate(Theme())
        self.setItemDelegate(self._delegate)
        self.setAccessibleName(name)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._lines: tuple[ListEntry, ...] = ()
        self._in_view: tuple[tuple[ListEntry, ...], int] = ((), -1)  # what was last scrolled to
        self.currentRowChanged.connect(lambda row: self.taken.emit(row) if row >= 0 else None)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """In another size the chosen one stays in view."""
        super().resizeEvent(event)
        self.scrollToItem(self.currentItem())

    def show_lines(self, lines: Sequence[ListEntry], current: int, theme: Theme) -> None:
        """Show these; a choice that is set here is told to nobody."""
        self.blockSignals(True)
        self._delegate.theme = theme
        shown = self._in_view
        if tuple(lines) != self._lines:
            self._lines = tuple(lines)
            self.clear()
            for line in lines:
                item = QListWidgetItem(line.title, self)
                item.setData(Qt.ItemDataRole.UserRole, line)
                item.setData(Qt.ItemDataRole.AccessibleTextRole, line.spoken)
                item.setToolTip(f"{line.title}\n{line.told}")
        self.setCurrentRow(current)
        self._in_view = (self._lines, current)
        if shown != self._in_view:  # else the person may have scrolled elsewhere
            self.scrollToItem(self.item(current))
        self.blockSignals(False)
