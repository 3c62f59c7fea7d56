"""A list of things to choose from, each with its state as a mark, a title, what is said of it, and a word at the right."""

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QObject, QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPen, QResizeEvent
from PyQt6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from humble_courier.domain.facts import State
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import plain_tip
from humble_courier.ui.widgets.fitting import draw_fitting
from humble_courier.ui.widgets.marks import draw_state

HIGH, LEFT, RIGHT = 46, 34, 12
TITLE_SIZES = (13, 12, 11, 10, 9, 8)  # of a title, at 100 %: as large as there is room for
AT_LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
NO_PARENT = QModelIndex()


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
        painter.setPen(QPen(theme.color("ink")))
        title = QRectF(room.left(), box.top() + 3, room.width(), box.height() // 2 - 3)
        draw_fitting(painter, title, line.title, theme, TITLE_SIZES, bold=True, align=AT_LEFT)
        painter.restore()

    @staticmethod
    def _short(painter: QPainter, text: str, width: int) -> str:
        return painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, width)


class _Lines(QAbstractListModel):
    """Entries as a model: as many as there are, only those in view are drawn."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.lines: tuple[ListEntry, ...] = ()

    def rowCount(self, parent: QModelIndex = NO_PARENT) -> int:
        """How many."""
        return 0 if parent.isValid() else len(self.lines)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """The entry, and its words for a reader."""
        line = self.lines[index.row()]
        words: dict[int, object] = {
            Qt.ItemDataRole.DisplayRole: line.title, Qt.ItemDataRole.UserRole: line,
            Qt.ItemDataRole.AccessibleTextRole: line.spoken,
        }  # fmt: skip
        return plain_tip(f"{line.title}\n{line.told}") if role == Qt.ItemDataRole.ToolTipRole else words.get(role)

    def replace(self, lines: tuple[ListEntry, ...]) -> None:
        """Other entries."""
        self.beginResetModel()
        self.lines = lines
        self.endResetModel()


class StateList(QListView):
    """`taken` gives the place of the entry that was chosen by a person, `opened` that of one that was activated."""

    taken = pyqtSignal(int)
    opened = pyqtSignal(int)

    def __init__(self, name: str) -> None:
        super().__init__()
        self._delegate, self._model = StateDelegate(Theme()), _Lines(self)
        self.setItemDelegate(self._delegate)
        self.setModel(self._model)
        self.setUniformItemSizes(True)
        self.setAccessibleName(name)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._in_view: tuple[tuple[ListEntry, ...], int] = ((), -1)  # what was last scrolled to
        self.activated.connect(lambda index: self.opened.emit(index.row()))

    def currentChanged(self, current: QModelIndex, previous: QModelIndex) -> None:
        """Another one is chosen."""
        super().currentChanged(current, previous)
        if current.isValid() and not self.signalsBlocked():
            self.taken.emit(current.row())

    def currentRow(self) -> int:
        """The place of the chosen one; -1 for none."""
        return self.currentIndex().row()

    def setCurrentRow(self, row: int) -> None:
        """Choose one."""
        self.setCurrentIndex(self._model.index(row))

    def count(self) -> int:
        """How many entries."""
        return len(self._model.lines)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """In another size the chosen one stays in view."""
        super().resizeEvent(event)
        self.scrollTo(self.currentIndex())

    def show_lines(self, lines: Sequence[ListEntry], current: int, theme: Theme) -> None:
        """Show these; a choice that is set here is told to nobody."""
        self.blockSignals(True)
        other_size = self._delegate.theme.scale != theme.scale
        self._delegate.theme = theme
        shown = self._in_view
        if tuple(lines) != self._model.lines:
            self._model.replace(tuple(lines))
        elif other_size:
            self.scheduleDelayedItemsLayout()
        self.setCurrentRow(current)
        self._in_view = (self._model.lines, current)
        if shown != self._in_view:  # else the person may have scrolled elsewhere
            self.scrollTo(self.currentIndex())
        self.blockSignals(False)
        view = self.viewport()
        if view is not None:
            view.update()
