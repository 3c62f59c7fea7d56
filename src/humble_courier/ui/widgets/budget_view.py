"""What is used of what is allowed, a bar each with the limit as a mark in it; what is out of order ends in a triangle."""

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen

from humble_courier.app.amounts import Budget
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.marks import triangle
from humble_courier.ui.widgets.pieces import Pieces

ROW, BAR = 40.0, 10.0  # pixels: words above, the bar below
ROOM = 1.25  # of what is larger, so that a limit never stands at the end
MOST = 4.0  # times the limit: more is drawn as so much


class BudgetView(Pieces):
    """Rows in the order in which they are given."""

    def __init__(self) -> None:
        super().__init__()
        self._rows: tuple[Budget, ...] = ()
        self._theme = Theme()

    def show_budgets(self, rows: Sequence[Budget], theme: Theme) -> None:
        """Show them."""
        self._rows, self._theme = tuple(rows), theme
        self.tell("What is used of what is allowed", [_in_words(row) for row in rows])
        self.setFixedHeight(sum(int(self._height(row)) for row in rows))
        self.update()

    def _height(self, row: Budget) -> float:
        return self._theme.px(ROW if row.allowed is not None else ROW / 2)

    def box_of(self, i: int) -> QRectF | None:
        """A row."""
        return QRectF(0, sum(self._height(row) for row in self._rows[:i]), self.width(), self._height(self._rows[i]))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw them."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for i, row in enumerate(self._rows):
            box = self.box_of(i)
            if box is not None:
                self._row(painter, row, box)
        painter.end()

    def _row(self, painter: QPainter, row: Budget, box: QRectF) -> None:
        t = self._theme
        text = QRectF(box.x(), box.y(), box.width(), t.px(20))
        painter.setFont(t.font(12, bold=True))
        painter.setPen(t.color("ink" if row.good else "contradicted"))
        told = QRectF(text)
        room = painter.fontMetrics().horizontalAdvance(row.told) + t.px(8)
        told.setLeft(text.right() - room)
        painter.drawText(told, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, row.told)
        painter.setFont(t.font(12))
        painter.setPen(t.color("quiet"))
        what = painter.fontMetrics().elidedText(row.what, Qt.TextElideMode.ElideRight, int(text.width() - room))
        painter.drawText(text, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, what)
        if row.allowed:
            self._bar(painter, row, row.allowed, QRectF(box.x(), text.bottom(), box.width() - t.px(12), t.px(BAR)))

    def _bar(self, painter: QPainter, row: Budget, allowed: float, bar: QRectF) -> None:
        t = self._theme
        used = min(row.used, MOST * allowed)
        scale = bar.width() / (ROOM * max(used, allowed))
        painter.setPen(QPen(t.color("hairline"), 1))
        painter.setBrush(t.color("ground"))
        painter.drawRoundedRect(bar, 3, 3)
        color = t.color("action" if row.good else "contradicted")
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color)
        filled = QRectF(bar.x(), bar.y(), max(2.0, used * scale), bar.height())
        painter.drawRoundedRect(filled, 3, 3)
        at = bar.x() + allowed * scale
        painter.setPen(QPen(t.color("ink"), 2))
        painter.drawLine(QPointF(at, bar.top() - 1), QPointF(at, bar.bottom() + t.px(4)))
        if not row.good:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawPolygon(triangle(QPointF(filled.right() + t.px(9), bar.center().y()), t.px(6)))


def _in_words(row: Budget) -> str:
    return f"{row.what}: {row.told}" + ("" if row.good else ", not in order")
