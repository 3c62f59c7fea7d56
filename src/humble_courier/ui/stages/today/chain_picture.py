"""How the computer gets to a device: the parts between them as boxes on a line, in further rows where there is no room."""

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent

from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.pieces import Pieces

HIGH, GAP, ROW, SIDE = 26, 16, 34, 8  # pixels at 100 %: a box, between two, a row, room beside the words


class ChainPicture(Pieces):
    """`places`: computer, parts, device."""

    def __init__(self, places: Sequence[str], theme: Theme) -> None:
        super().__init__()
        self._places, self._theme = list(places), theme
        self.tell(f"Chain: {', then '.join(places)}", list(places))
        self._claim()

    def _boxes(self) -> list[QRectF]:
        t = self._theme
        measure = QFontMetricsF(t.font(12))
        found, x, y = list[QRectF](), 0.0, 0.0
        for place in self._places:
            wide = min(measure.horizontalAdvance(place) + 2 * t.px(SIDE), float(max(self.width(), t.px(60))))
            if x and x + wide > self.width():
                x, y = float(t.px(GAP)), y + t.px(ROW)
                wide = min(wide, self.width() - x)
            found.append(QRectF(x, y + 1, wide, t.px(HIGH)))
            x += wide + t.px(GAP)
        return found

    def _claim(self) -> None:
        boxes = self._boxes()
        self.setFixedHeight(int(boxes[-1].bottom()) + 4 if boxes else 0)

    def resizeEvent(self, event: object) -> None:
        """As many rows as the width wants."""
        super().resizeEvent(event)  # type: ignore[arg-type]
        self._claim()

    def minimumSizeHint(self) -> QSize:
        """One box wide."""
        return QSize(self._theme.px(60), self._theme.px(HIGH))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw it."""
        t, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(t.font(12))
        boxes = self._boxes()
        for number, (box, place) in enumerate(zip(boxes, self._places, strict=True)):
            painter.setPen(t.color("ink"))
            if number:
                before = boxes[number - 1]
                start = (
                    QPointF(before.right(), before.center().y()) if before.y() == box.y() else QPointF(0, box.center().y())
                )
                painter.drawLine(start, QPointF(box.left(), box.center().y()))
            painter.setBrush(t.color("surface"))
            end = number in (0, len(boxes) - 1)
            painter.drawRoundedRect(
                box.adjusted(0.5, 0.5, -0.5, -0.5), 3 if end else t.px(HIGH) / 2, 3 if end else t.px(HIGH) / 2
            )
            inside = box.adjusted(t.px(SIDE), 0, -t.px(SIDE), 0)
            shown = painter.fontMetrics().elidedText(place, Qt.TextElideMode.ElideRight, int(inside.width() + 1))
            painter.drawText(inside, Qt.AlignmentFlag.AlignCenter, shown)
        painter.end()
