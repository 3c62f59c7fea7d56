"""The state marks: shape first, colour second. Proven a disc with a tick, proven on an earlier day a ring with one, assumed
half a disc, unknown a dashed ring, contradicted a triangle with a stroke."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from humble_courier.domain.facts import State
from humble_courier.ui.theme import Theme


def draw_state(painter: QPainter, centre: QPointF, size: float, state: State, theme: Theme) -> None:
    """Draw a state mark of `size` pixels around `centre`."""
    color, r = theme.palette.state(state), size / 2
    box = QRectF(centre.x() - r, centre.y() - r, size, size)
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(theme.color("surface"))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.drawEllipse(box.adjusted(-2, -2, 2, 2))
    if state is State.PROVEN:
        _tick(painter, box, color, theme)
    elif state is State.EARLIER:
        _hollow_tick(painter, box, color)
    elif state is State.ASSUMED:
        painter.setPen(QPen(color, 2))
        painter.drawEllipse(box.adjusted(1, 1, -1, -1))
        painter.setBrush(color)
        painter.drawPie(box.adjusted(1, 1, -1, -1), 90 * 16, 180 * 16)
    elif state is State.UNKNOWN:
        pen = QPen(color, 2)
        pen.setDashPattern([2.0, 1.6])
        painter.setPen(pen)
        painter.drawEllipse(box.adjusted(1, 1, -1, -1))
    else:
        _triangle(painter, box, color, theme)
    painter.restore()


def triangle(at: QPointF, r: float) -> QPolygonF:
    """What is out of order, small enough for a drawing: a triangle around `at`."""
    return QPolygonF([at + QPointF(0, -r), at + QPointF(r, r), at + QPointF(-r, r)])


def _tick(painter: QPainter, box: QRectF, color: QColor, theme: Theme) -> None:
    painter.setBrush(color)
    painter.drawEllipse(box)
    _stroke(painter, box, theme.color("surface"))


def _hollow_tick(painter: QPainter, box: QRectF, color: QColor) -> None:
    painter.setPen(QPen(color, 1.8))
    painter.drawEllipse(box.adjusted(1, 1, -1, -1))
    _stroke(painter, box.adjusted(1.5, 1.5, -1.5, -1.5), color)


def _stroke(painter: QPainter, box: QRectF, color: QColor) -> None:
    pen = QPen(color, max(1.6, box.width() / 8))
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    painter.setPen(pen)
    x, y, w = box.x(), box.y(), box.width()
    tick = QPolygonF(
        [QPointF(x + 0.27 * w, y + 0.53 * w), QPointF(x + 0.44 * w, y + 0.7 * w), QPointF(x + 0.75 * w, y + 0.34 * w)]
    )
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolyline(tick)


def _triangle(painter: QPainter, box: QRectF, color: QColor, theme: Theme) -> None:
    painter.setBrush(color)
    top = QPointF(box.center().x(), box.top() - 1)
    painter.drawPolygon(QPolygonF([top, QPointF(box.right() + 1.5, box.bottom()), QPointF(box.left() - 1.5, box.bottom())]))
    painter.setPen(QPen(theme.color("surface"), max(1.6, box.width() / 8)))
    middle = box.center().x()
    painter.drawLine(QPointF(middle, box.top() + 0.36 * box.height()), QPointF(middle, box.top() + 0.64 * box.height()))
    painter.drawPoint(QPointF(middle, box.top() + 0.84 * box.height()))
