"""How far this kind of line carries at which rate, as a curve over both, with this link on it. Both axes by decades."""

from math import log10

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF

from humble_courier.app.wire.line_load import ReachCurve
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.marks import triangle
from humble_courier.ui.widgets.pieces import Pieces

HIGH = 190  # pixels at 100 %
LEFT, RIGHT, ABOVE, BELOW = 52, 16, 12, 24  # pixels around the curve, for the words of the axes
ROOM = 1.6  # factor above and below what is shown


class ReachView(Pieces):
    """Without a curve nothing is drawn and the widget is hidden."""

    def __init__(self) -> None:
        super().__init__()
        self._reach: ReachCurve | None = None
        self._theme = Theme()

    def show_reach(self, reach: ReachCurve | None, theme: Theme) -> None:
        """Show it."""
        self._reach, self._theme = reach, theme
        self.setVisible(reach is not None)
        if reach is None:
            self.tell("", [])
            return
        here = f"this link: {reach.length_m:g} m at {reach.rate} bit/s"
        self.tell(f"How far it carries; {here}", [here, *(f"{rate} bit/s carry {far:.0f} m" for rate, far in reach.points)])
        self.setFixedHeight(theme.px(HIGH))
        self.update()

    def box_of(self, i: int) -> QRectF | None:
        """Around this link, or around a point of the curve."""
        if self._reach is None:
            return None
        reach, r = self._reach, self._theme.px(8)
        at = self._point(reach.rate, reach.length_m) if i == 0 else self._point(*reach.points[i - 1])
        return QRectF(at.x() - r, at.y() - r, 2 * r, 2 * r)

    def _ranges(self, reach: ReachCurve) -> tuple[float, float, float, float]:
        rates = [rate for rate, _ in reach.points] + [reach.rate]
        fars = [far for _, far in reach.points] + [max(reach.length_m, 0.5)]
        return min(rates) / ROOM, max(rates) * ROOM, min(fars) / ROOM, max(fars) * ROOM

    def _point(self, rate: float, metres: float) -> QPointF:
        assert self._reach is not None
        t, (low, high, near, far) = self._theme, self._ranges(self._reach)
        wide = self.width() - t.px(LEFT + RIGHT)
        tall = self.height() - t.px(ABOVE + BELOW)
        x = log10(rate / low) / log10(high / low)
        y = log10(max(metres, near) / near) / log10(far / near)
        return QPointF(t.px(LEFT) + wide * x, t.px(ABOVE) + tall * (1 - y))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the axes, what carries, the limit and this link."""
        if self._reach is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._axes(painter, self._reach)
        self._curve(painter, self._reach)
        self._link(painter, self._reach)
        painter.end()

    def _axes(self, painter: QPainter, reach: ReachCurve) -> None:
        t, (_, _, near, far) = self._theme, self._ranges(reach)
        foot = self.height() - t.px(BELOW)
        painter.setFont(t.font(11))
        taken = 0.0
        for rate, _ in reach.points:
            x, text = self._point(rate, near).x(), f"{rate:g}"
            width = painter.fontMetrics().horizontalAdvance(text) + t.px(8)
            if x - width / 2 < taken:
                continue  # words do not run into each other; the curve has its corner all the same
            taken = x + width / 2
            painter.setPen(QPen(t.color("hairline"), 1))
            painter.drawLine(QPointF(x, t.px(ABOVE)), QPointF(x, foot))
            painter.setPen(t.color("quiet"))
            painter.drawText(QRectF(x - width / 2, foot + t.px(4), width, t.px(16)), Qt.AlignmentFlag.AlignCenter, text)
        painter.setPen(t.color("quiet"))
        corner = QRectF(0, foot + t.px(4), t.px(LEFT - 8), t.px(16))
        painter.drawText(corner, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, "bit/s")
        for metres in (m for m in (1, 3, 10, 30, 100, 300, 1000, 3000, 10_000) if near < m < far):
            y = self._point(reach.points[0][0], metres).y()
            painter.drawText(QRectF(0, y - t.px(8), t.px(LEFT - 8), t.px(16)),
                             Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{metres} m")  # fmt: skip

    def _curve(self, painter: QPainter, reach: ReachCurve) -> None:
        t, (_, _, near, _) = self._theme, self._ranges(reach)
        line = [self._point(rate, far) for rate, far in reach.points]
        under = [self._point(reach.points[0][0], near), *line, self._point(reach.points[-1][0], near)]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.color("socket"))
        painter.drawPolygon(QPolygonF(under))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(t.color("ink"), 2))
        painter.drawPolyline(QPolygonF(line))
        painter.setFont(t.font(12))
        painter.setPen(t.color("quiet"))
        words = "below the line it carries"
        box = QRectF(0, 0, painter.fontMetrics().horizontalAdvance(words) + t.px(4), t.px(18))
        box.moveTopLeft(QPointF(line[0].x() + t.px(10), self.height() - t.px(BELOW + 22)))
        painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words)

    def _link(self, painter: QPainter, reach: ReachCurve) -> None:
        t = self._theme
        color = t.color("action" if reach.carries else "contradicted")
        here, limit = self._point(reach.rate, reach.length_m), self._point(reach.rate, reach.far_m)
        painter.setPen(QPen(color, 1.6, Qt.PenStyle.DashLine))
        painter.drawLine(here, limit)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color)
        r = t.px(6)
        if reach.carries:
            painter.drawEllipse(here, r, r)
        else:
            painter.drawPolygon(triangle(here, r))
        painter.setPen(color)
        painter.setFont(t.font(12, bold=True))
        for at, words in ((here, f"this link: {reach.length_m:g} m"), (limit, f"{reach.far_m:.0f} m would carry")):
            width = painter.fontMetrics().horizontalAdvance(words) + t.px(4)
            left = at.x() + t.px(12) if at.x() + t.px(12) + width < self.width() else at.x() - t.px(12) - width
            top = min(max(0.0, at.y() - t.px(20)), self.height() - t.px(BELOW + 20))
            room = QRectF(left, top, width, t.px(18))
            painter.fillRect(room, t.color("surface"))  # words over the curve
            painter.drawText(room.adjusted(t.px(2), 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)
