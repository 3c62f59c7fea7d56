"""The way that the played instrument goes, north up and true to scale, with the waypoints that a listener steers by."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF

from humble_courier.app.talk.playing import Picture
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.pieces import Pieces
from humble_courier.ui.widgets.turns_view import short

SIDE, EDGE = 200, 30  # pixels at 100 %: of the square, and around the way for names
STEPS = (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100)  # nautical miles of the scale


class TrackView(Pieces):
    """Begins at a disc, ends at an arrow head."""

    def __init__(self) -> None:
        super().__init__()
        self._picture: Picture | None = None
        self._theme = Theme()

    def show_track(self, picture: Picture, theme: Theme) -> None:
        """Show it."""
        self._picture, self._theme = picture, theme
        told = f"the way of {short(picture.lasts_s)}"
        around = f", round {len(picture.waypoints)} waypoints" if picture.waypoints else ""
        points = [f"{name}: {y:.2f} miles north, {x:.2f} east" for name, x, y in picture.waypoints]
        self.tell(f"The track: {told}{around}", points)
        self.setFixedSize(theme.px(SIDE), theme.px(SIDE))
        self.update()

    def box_of(self, i: int) -> QRectF | None:
        """A waypoint."""
        if self._picture is None:
            return None
        _, x, y = self._picture.waypoints[i]
        at, r = self._point(x, y), self._theme.px(12)
        return QRectF(at.x() - r, at.y() - r, 2 * r, 2 * r)

    def _all(self) -> list[tuple[float, float]]:
        picture = self._picture
        return [] if picture is None else [*picture.way, *((x, y) for _, x, y in picture.waypoints)]

    def _frame_of_miles(self) -> tuple[float, float, float]:
        """Middle east, middle north, and pixels a mile."""
        xs, ys = zip(*self._all(), strict=True)
        wide = max(max(xs) - min(xs), max(ys) - min(ys), 0.01)
        room = self._theme.px(SIDE - 2 * EDGE)
        return (max(xs) + min(xs)) / 2, (max(ys) + min(ys)) / 2, room / wide

    def _point(self, x: float, y: float) -> QPointF:
        east, north, scale = self._frame_of_miles()
        middle = self._theme.px(SIDE) / 2
        return QPointF(middle + (x - east) * scale, middle - (y - north) * scale)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw frame, scale, way and waypoints."""
        picture, t = self._picture, self._theme
        if picture is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(t.color("hairline"), 1))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)
        self._scale(painter)
        way = [self._point(x, y) for x, y in picture.way]
        painter.setPen(QPen(t.color("action"), 2))
        painter.drawPolyline(QPolygonF(way))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.color("action"))
        painter.drawEllipse(way[0], t.px(4), t.px(4))
        self._head(painter, way[-2], way[-1])
        for name, x, y in picture.waypoints:
            self._waypoint(painter, name, self._point(x, y))
        painter.end()

    def _head(self, painter: QPainter, before: QPointF, end: QPointF) -> None:
        along = end - before
        length = max(0.01, (along.x() ** 2 + along.y() ** 2) ** 0.5)
        along = along / length * self._theme.px(9)
        across = QPointF(-along.y(), along.x()) / 2
        painter.drawPolygon(QPolygonF([end + along / 2, end - along / 2 + across, end - along / 2 - across]))

    def _waypoint(self, painter: QPainter, name: str, at: QPointF) -> None:
        t, r = self._theme, self._theme.px(5)
        painter.setPen(QPen(t.color("ink"), 2))
        painter.setBrush(t.color("surface"))
        painter.drawRect(QRectF(at.x() - r, at.y() - r, 2 * r, 2 * r))
        painter.setFont(t.font(11))
        up = at.y() > t.px(SIDE) / 2
        box = QRectF(at.x() - t.px(20), at.y() + (r if up else -r - t.px(18)), t.px(40), t.px(18))
        box.moveLeft(min(max(0.0, box.left()), t.px(SIDE - 40)))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, name)

    def _scale(self, painter: QPainter) -> None:
        t, (_, _, scale) = self._theme, self._frame_of_miles()
        miles = max((step for step in STEPS if step * scale <= t.px(SIDE) * 0.4), default=STEPS[0])
        left, foot = float(t.px(8)), t.px(SIDE - 8)
        painter.setPen(QPen(t.color("quiet"), 1.5))
        painter.drawLine(QPointF(left, foot), QPointF(left + miles * scale, foot))
        painter.setFont(t.font(11))
        at = QRectF(left, foot - t.px(18), t.px(90), t.px(16))
        painter.drawText(at, Qt.AlignmentFlag.AlignVCenter, f"{miles:g} miles")
        painter.drawText(QRectF(t.px(SIDE - 40), 2, t.px(34), t.px(16)), Qt.AlignmentFlag.AlignRight, "N ↑")
