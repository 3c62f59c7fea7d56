"""The end of a part in a few strokes, so small that a list of parts shows them."""

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainter, QPolygonF

from humble_courier.ui.theme import Theme


def draw_end(
    painter: QPainter, at: QPointF, family: str, socket: bool, theme: Theme, lit: bool = False
) -> None:  # fmt: skip
    """A connector in a few strokes: sockets are tinted, plugs are not; one that is `lit` is filled."""
    w, h = theme.px(10), theme.px(8)
    painter.setBrush(theme.color("action" if lit else "hairline" if socket else "surface"))
    if family.startswith("D") or "D-sub" in family or family.startswith("IEEE"):
        corners = [QPointF(-w, -h), QPointF(w, -h * 0.6), QPointF(w, h * 0.6), QPointF(-w, h)]
        painter.drawPolygon(QPolygonF([at + corner for corner in corners]))
    elif family.startswith("USB"):
        painter.drawRect(QRectF(at.x() - w, at.y() - h * 0.6, 2 * w, 1.2 * h))
        painter.drawLine(at - QPointF(w * 0.5, 0), at + QPointF(w * 0.5, 0))
    elif family[:1].isdigit():
        painter.drawRect(QRectF(at.x() - w * 0.8, at.y() - h, 1.6 * w, 2 * h))
        for step in (-0.4, 0.0, 0.4):
            painter.drawLine(at + QPointF(step * w, -h), at + QPointF(step * w, -h * 0.3))
    else:
        for step in (-0.8, 0.0, 0.8):
            painter.drawEllipse(at + QPointF(step * w, 0), w * 0.3, w * 0.3)
