"""Mating faces drawn true to the order of their contacts, as the eye meets them."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from humble_courier.catalog.models import ShapeEntry
from humble_courier.ui.theme import Theme
from humble_courier.units.hardware import Connector, Gender


def draw_face(painter: QPainter, box: QRectF, connector: Connector, shape: ShapeEntry, used: set[str], theme: Theme) -> None:
    """Draw the mating face into `box`. `used` contacts are filled. Sockets are tinted and mirror the plug's order."""
    socket = connector.gender is Gender.SOCKET
    painter.save()
    painter.setPen(QPen(theme.color("ink"), 1.6))
    painter.setBrush(theme.color("socket") if socket else theme.color("surface"))
    _outline(painter, box, shape.outline, theme)
    painter.setFont(theme.font(11, bold=True))
    rows = [list(reversed(row)) if socket else row for row in shape.rows]
    widest = max(len(row) for row in rows)
    step = box.width() / (widest + 0.6)
    radius = min(step * 0.32, box.height() / (2.6 * max(2, len(rows))))
    for r, row in enumerate(rows):
        y = box.top() + box.height() * (r + 1) / (len(rows) + 1)
        left = box.center().x() - step * (len(row) - 1) / 2
        for i, contact in enumerate(row):
            centre = QPointF(left + step * i, y)
            painter.setPen(QPen(theme.color("ink"), 1.2))
            painter.setBrush(theme.color("ink") if contact in used else theme.color("surface"))
            painter.drawEllipse(centre, radius, radius)
            outside = r == len(rows) - 1 and len(rows) > 1
            at = QRectF(centre.x() - step, box.bottom() + 1 if outside else box.top() - theme.px(15), 2 * step, theme.px(14))
            if len(row) <= 13 and (r in (0, len(rows) - 1)):
                painter.setPen(theme.color("quiet"))
                painter.drawText(at, Qt.AlignmentFlag.AlignCenter, contact)
    painter.restore()


def _outline(painter: QPainter, box: QRectF, outline: str, theme: Theme) -> None:
    if outline == "d":
        slope = theme.px(9)
        corners = [(box.left(), box.top()), (box.right(), box.top()), (box.right() - slope, box.bottom()),
                   (box.left() + slope, box.bottom())]  # fmt: skip
        painter.drawPolygon(QPolygonF([QPointF(x, y) for x, y in corners]))
    elif outline == "round":
        painter.drawEllipse(box)
    else:
        painter.drawRoundedRect(box, 3, 3)
