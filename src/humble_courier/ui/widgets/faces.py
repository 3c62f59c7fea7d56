"""Faces of connectors, drawn true to the places of their contacts, as the eye meets them."""

from dataclasses import dataclass, field

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from humble_courier.catalog.entries import ShapeEntry
from humble_courier.domain.hardware import Connector, Gender
from humble_courier.ui.theme import Theme
from humble_courier.wiring.orientation import Side, reading_order, seen


@dataclass(frozen=True)
class Face:
    """What is drawn: a connector from one side, which contacts are in use, which one the meter is to touch."""

    connector: Connector
    shape: ShapeEntry
    used: frozenset[str] = field(default_factory=frozenset)
    touch: str | None = None
    side: Side = Side.MATING
    turns: int = 0
    numbered: bool = True  # not where it is so small that nobody could read it
    colours: tuple[tuple[str, str], ...] = ()  # contact and the colour of the loose conductor that goes on it

    def ratio(self) -> float:
        """Height for each unit of width."""
        rows = len(self.shape.rows)
        flat = {"d": 0.36, "row": 0.16 + 0.12 * rows, "modular": 0.42, "round": 1.0, "usb": 0.45, "ribbon": 0.26}
        ratio = flat[self.shape.outline]
        return 1 / ratio if self.turns % 2 else ratio


def draw_face(painter: QPainter, box: QRectF, face: Face, theme: Theme) -> None:
    """Draw a face into `box`. Sockets are tinted; contacts in use are filled; the one to touch has a double ring."""
    draw_shell(painter, box, face, theme)
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    places = seen(face.shape, face.connector.gender, face.side, face.turns)
    inner = box.adjusted(box.width() * 0.07, box.height() * 0.10, -box.width() * 0.07, -box.height() * 0.10)
    radius = _radius(inner, list(places.values()))
    for contact, (x, y) in places.items():
        centre = QPointF(inner.left() + x * inner.width(), inner.top() + y * inner.height())
        _contact(painter, centre, radius, contact, face, theme)
    painter.restore()


def draw_shell(painter: QPainter, box: QRectF, face: Face, theme: Theme) -> None:
    """The shell alone, tinted for a socket."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(theme.color("ink"), 1.6))
    painter.setBrush(theme.color("socket") if face.connector.gender is Gender.SOCKET else theme.color("surface"))
    painter.drawPath(_outline(box, face))
    painter.restore()


def _radius(box: QRectF, places: list[tuple[float, float]]) -> float:
    """As large as the nearest two contacts allow."""
    points = [(x * box.width(), y * box.height()) for x, y in places]
    gaps = [((ax - bx) ** 2 + (ay - by) ** 2) ** 0.5 for i, (ax, ay) in enumerate(points) for bx, by in points[i + 1 :]]
    return min(min(gaps, default=box.height()) * 0.42, box.height() * 0.30)


def _contact(painter: QPainter, centre: QPointF, radius: float, contact: str, face: Face, theme: Theme) -> None:
    used, touched = contact in face.used, contact == face.touch
    painter.setPen(QPen(theme.color("ink"), 1.2))
    painter.setBrush(theme.color("action") if touched else theme.color("ink") if used else theme.color("surface"))
    painter.drawEllipse(centre, radius, radius)
    if touched:
        painter.setPen(QPen(theme.color("action"), 2.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(centre, radius * 1.45, radius * 1.45)
    if not face.numbered:
        return
    font = theme.font(12, bold=True)
    font.setPixelSize(max(6, int(radius * (1.15 if len(contact) < 3 else 0.85))))
    painter.setFont(font)
    painter.setPen(theme.color("on_action") if touched else theme.color("surface") if used else theme.color("ink"))
    painter.drawText(
        QRectF(centre.x() - radius, centre.y() - radius, 2 * radius, 2 * radius), Qt.AlignmentFlag.AlignCenter, contact
    )
    colour = dict(face.colours).get(contact)
    if colour is not None:  # in words: a state or a wire is never told by colour alone
        painter.setFont(theme.font(11, bold=True))
        painter.setPen(theme.color("ink"))
        below = QRectF(centre.x() - 24, centre.y() + radius, 48, theme.px(14))
        painter.drawText(below, Qt.AlignmentFlag.AlignCenter, colour)


def _outline(box: QRectF, face: Face) -> QPainterPath:
    """The shell: a D has its wide side where the catalog's rows begin, turned with the face."""
    path = QPainterPath()
    kind = face.shape.outline
    if kind in ("d", "ribbon"):
        slope = 0.10
        corners = [(0.0, 0.0), (1.0, 0.0), (1.0 - slope, 1.0), (slope, 1.0)]
        for _ in range(face.turns % 4):
            corners = [(1 - y, x) for x, y in corners]
        points = [QPointF(box.left() + x * box.width(), box.top() + y * box.height()) for x, y in corners]
        path.moveTo(points[0])
        for point in points[1:]:
            path.lineTo(point)
        path.closeSubpath()
    elif kind == "round":
        path.addEllipse(box)
    else:
        path.addRoundedRect(box, 4, 4)
    return path


def spoken_order(face: Face) -> str:
    """The contacts as one counts them, row by row from the left."""
    places, colours = seen(face.shape, face.connector.gender, face.side, face.turns), dict(face.colours)
    named = {contact: f"{contact} {colours[contact]}" if contact in colours else contact for contact in places}
    return " / ".join((", " if colours else " ").join(named[one] for one in row) for row in reading_order(places))


class FaceView(QWidget):
    """One face with its name and from where one looks."""

    def __init__(self, width: int = 176, height: int = 104) -> None:
        super().__init__()
        self._shown: tuple[Face, str, Theme] | None = None
        self._size = (width, height)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_face(self, face: Face | None, name: str, theme: Theme) -> None:
        """Show a connector; None for one whose shape is not known."""
        self._shown = (face, name, theme) if face is not None else None
        if face is not None:
            told = f"touch contact {face.touch}" if face.touch else spoken_order(face)
            self.setAccessibleName(f"{name}: {face.connector}, {face.side}, {told}")
        self.setMinimumWidth(theme.px(min(110, self._size[0])))
        self.setMaximumWidth(theme.px(self._size[0]))
        self.setFixedHeight(theme.px(self._size[1]))
        self.update()

    def sizeHint(self) -> QSize:
        """As large as it may be."""
        return QSize(self.maximumWidth(), self.height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the face."""
        if self._shown is None:
            return
        face, name, theme = self._shown
        painter = QPainter(self)
        room = QRectF(4, 4, self.width() - 8, self.height() - theme.px(24))
        width = min(room.width(), room.height() / face.ratio())
        height = width * face.ratio()
        draw_face(painter, QRectF(room.center().x() - width / 2, room.center().y() - height / 2, width, height), face, theme)
        painter.setFont(theme.font(11))
        painter.setPen(theme.color("quiet"))
        where = QRectF(0, self.height() - theme.px(18), self.width(), theme.px(18))
        painter.drawText(where, Qt.AlignmentFlag.AlignCenter, f"{name}: {face.connector.gender}, {face.side}")
        painter.end()
