"""The conductor map: contacts at both ends, joints between, each conductor as it runs; one net can be followed."""

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from humble_courier.app.wire.wire_map import MapContact, MapNet, MapWire, WireMap
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.fitting import draw_fitting

ROW, HEAD, FOOT = 38.0, 62.0, 26.0  # pixels at 100 %
SMALLER = (12, 11, 10, 9)  # of words, at 100 %: as large as there is room for


class MapPainter:
    """Draws a wire map; the same for the window, for SVG and for paper."""

    def __init__(self, wiring: WireMap, theme: Theme, width: float, picked: int | None = None, room: float = 0.0) -> None:
        self.map, self.theme, self.width, self.picked = wiring, theme, width, picked
        self.row_height: float = theme.px(ROW)
        if room:
            free = (room - theme.px(HEAD + FOOT)) / max(1, wiring.rows)
            self.row_height = max(theme.px(22), min(theme.px(ROW), free))

    @property
    def height(self) -> float:
        """Height that the map takes."""
        return self.theme.px(HEAD + FOOT) + self.map.rows * self.row_height

    def x(self, joint: int) -> float:
        """Where a joint stands; 0 is the one at the computer's side."""
        left, right = self._disc_x(False), self._disc_x(True)
        joints = len(self.map.mated)
        return left + (right - left) * (0.18 + 0.64 * (joint / max(1, joints - 1) if joints > 1 else 0.5))

    def _disc_x(self, far: bool) -> float:
        side = min(self.theme.px(190), max(self.theme.px(132), self.width * 0.24))
        return self.width - side if far else side

    def y(self, row: int) -> float:
        """Where a row stands."""
        return self.theme.px(HEAD) + (row + 0.5) * self.row_height

    def paint(self, painter: QPainter) -> None:
        """Draw everything."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._titles(painter)
        self._joints(painter)
        for wire in self.map.wires:
            self._wire(painter, wire)
        for far, contacts in ((False, self.map.near), (True, self.map.far)):
            for contact in contacts:
                self._contact(painter, contact, far)
        for net in range(len(self.map.nets)):
            self._mark(painter, net)

    def _titles(self, painter: QPainter) -> None:
        t, m = self.theme, self.map
        half = self.width / 2 - t.px(8)
        sides = ((t.px(8), Qt.AlignmentFlag.AlignLeft), (self.width / 2, Qt.AlignmentFlag.AlignRight))
        for (x, align), title, subtitle in zip(
            sides, (m.near_title, m.far_title), (m.near_subtitle, m.far_subtitle), strict=True
        ):
            painter.setPen(t.color("ink"))
            draw_fitting(painter, QRectF(x, t.px(4), half, t.px(18)), title, t, (13, *SMALLER), True, align)
            painter.setPen(t.color("quiet"))
            draw_fitting(painter, QRectF(x, t.px(22), half, t.px(18)), subtitle, t, SMALLER, False, align)

    def _joints(self, painter: QPainter) -> None:
        t = self.theme
        bottom = t.px(HEAD) + self.map.rows * self.row_height
        for i, mated in enumerate(self.map.mated):
            pen = QPen(t.color("hairline") if mated else t.color("contradicted"), 2 if mated else 3)
            pen.setDashPattern([1.0, 3.0])
            painter.setPen(pen)
            painter.drawLine(QPointF(self.x(i), t.px(HEAD)), QPointF(self.x(i), bottom))
            painter.setFont(t.font(11))
            painter.setPen(t.color("quiet") if mated else t.color("contradicted"))
            text = "joint" if mated else "does not mate"
            painter.drawText(
                QRectF(self.x(i) - t.px(60), bottom + t.px(2), t.px(120), t.px(16)), Qt.AlignmentFlag.AlignCenter, text
            )
        painter.setPen(t.color("ink"))
        for k, name in enumerate(self.map.parts):
            a, b = self.x(k), self.x(k + 1)
            draw_fitting(painter, QRectF(a + 1, t.px(39), b - a - 2, t.px(25)), name, t, SMALLER, True)

    def _pen(self, net: MapNet, picked: bool) -> QPen:
        t = self.theme
        color = {"good": "action", "bad": "contradicted", "idle": "unknown"}[net.state]
        pen = QPen(t.color(color), (4.2 if picked else 2.8) if net.state != "idle" else (3.0 if picked else 1.5))
        if net.state == "idle" and not picked:
            pen.setDashPattern([4.0, 3.0])
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        return pen

    def _wire(self, painter: QPainter, wire: MapWire) -> None:
        net = self.map.nets[wire.net]
        painter.setPen(self._pen(net, wire.net == self.picked))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        a, b = self.x(wire.part), self.x(wire.part + 1)
        if wire.loop_at is not None:
            x, out = (a, 1) if wire.loop_at == 0 else (b, -1)
            bulge = min(0.4 * (b - a), self.theme.px(18) + abs(wire.row_a - wire.row_b) * self.theme.px(9))
            path = QPainterPath(QPointF(x, self.y(wire.row_a)))
            far = x + out * bulge
            path.cubicTo(QPointF(far, self.y(wire.row_a)), QPointF(far, self.y(wire.row_b)), QPointF(x, self.y(wire.row_b)))
            painter.drawPath(path)
            return
        flat = min(self.theme.px(26), (b - a) / 6)
        points = [(a, wire.row_a), (a + flat, wire.row_a), (b - flat, wire.row_b), (b, wire.row_b)]
        painter.drawPolyline(QPolygonF([QPointF(x, self.y(row)) for x, row in points]))

    def _contact(self, painter: QPainter, contact: MapContact, far: bool) -> None:
        t, y, net = self.theme, self.y(contact.row), self.map.nets[contact.net]
        x, joint = self._disc_x(far), self.x(len(self.map.mated) - 1 if far else 0)
        painter.setPen(self._pen(net, contact.net == self.picked))
        if self.map.mated[-1 if far else 0]:
            painter.drawLine(QPointF(x, y), QPointF(joint, y))
        radius = min(t.px(11), self.row_height * 0.42)
        color = {"good": "action", "bad": "contradicted", "idle": "unknown"}[net.state]
        painter.setPen(QPen(t.color(color), 2))
        painter.setBrush(t.color("surface"))
        painter.drawEllipse(QPointF(x, y), radius, radius)
        painter.setPen(t.color("ink"))
        painter.setFont(t.font(12, bold=True))
        painter.drawText(
            QRectF(x - radius, y - radius, 2 * radius, 2 * radius), Qt.AlignmentFlag.AlignCenter, contact.contact
        )
        self._names(painter, contact, far, x, y)

    def _names(self, painter: QPainter, contact: MapContact, far: bool, x: float, y: float) -> None:
        t, h = self.theme, self.row_height
        gap, does = t.px(18), t.px(58)
        align = Qt.AlignmentFlag.AlignVCenter | (Qt.AlignmentFlag.AlignLeft if far else Qt.AlignmentFlag.AlignRight)
        near_box = QRectF(x + gap, y - h / 2, does, h) if far else QRectF(x - gap - does, y - h / 2, does, h)
        rest = self.width - x - gap - does if far else x - gap - does
        name_box = QRectF(near_box.right(), y - h / 2, rest, h) if far else QRectF(0, y - h / 2, rest, h)
        painter.setFont(t.font(12))
        painter.setPen(t.color("quiet"))
        painter.drawText(near_box, align, contact.does)
        painter.setFont(t.font(13, bold=True))
        painter.setPen(t.color("ink"))
        painter.drawText(name_box, align, contact.signal)

    def _mark(self, painter: QPainter, index: int) -> None:
        """Where senders meet or nobody sends: the sign on the conductor, and what it means."""
        net = self.map.nets[index]
        through = [w for w in self.map.wires if w.net == index and w.loop_at is None]
        if net.state != "bad" or not net.label:
            return
        if through:
            wire = through[-1]
            x = (self.x(wire.part) + self.x(wire.part + 1)) / 2
            y = (self.y(wire.row_a) + self.y(wire.row_b)) / 2
        else:
            ends = [(self._disc_x(far), c) for far, side in ((False, self.map.near), (True, self.map.far)) for c in side]
            own = next(((x, c) for x, c in ends if c.net == index), None)
            if own is None:
                return
            x, y = (own[0] + self.width / 2) / 2, self.y(own[1].row)
        self._sign(painter, net, x, y)

    def _sign(self, painter: QPainter, net: MapNet, middle: float, y: float) -> None:
        """Sign and word side by side on the conductor, centred together: rows may be too close for words between them."""
        t = self.theme
        size = min(t.px(9), self.row_height * 0.3)
        painter.setFont(t.font(12, bold=True))
        width = QFontMetrics(painter.font()).horizontalAdvance(net.label) + t.px(12)
        x = middle - width / 2
        painter.fillRect(QRectF(x - size * 1.4, y - 3, size * 2.8, 6), t.color("surface"))
        painter.setPen(QPen(t.color("contradicted"), 3))
        for side in (-1, 1):
            if net.code == "output-meets-output":
                tip = x + side * size * 0.5
                back = tip + side * size
                painter.drawPolyline(QPolygonF([QPointF(back, y - size), QPointF(tip, y), QPointF(back, y + size)]))
            else:
                painter.drawLine(QPointF(x + side * size, y - size), QPointF(x + side * size, y + size))
        box = QRectF(x + size * 2, y - t.px(9), width, t.px(18))
        painter.fillRect(box, t.color("surface"))
        painter.setPen(t.color("contradicted"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, net.label)

    def net_at(self, at: QPointF) -> int | None:
        """The net nearest to a point, within half a row."""
        best, found = self.row_height * 0.5, None
        for wire in self.map.wires:
            a, b = self.x(wire.part), self.x(wire.part + 1)
            if wire.loop_at is None and a <= at.x() <= b:
                share = (at.x() - a) / max(1.0, b - a)
                distance = abs(self.y(wire.row_a) * (1 - share) + self.y(wire.row_b) * share - at.y())
                if distance < best:
                    best, found = distance, wire.net
        for far, side in ((False, self.map.near), (True, self.map.far)):
            for contact in side:
                inside = at.x() >= self.x(len(self.map.mated) - 1) if far else at.x() <= self.x(0)
                if inside and abs(self.y(contact.row) - at.y()) < best:
                    best, found = abs(self.y(contact.row) - at.y()), contact.net
        return found


class WireView(QWidget):
    """The map in the window. `followed` gives the story of the conductor under pointer or keyboard."""

    followed = pyqtSignal(str)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._map: WireMap | None = None
        self._picked: int | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Conductor map; up and down follow one conductor after the other")

    def show_map(self, wiring: WireMap, theme: Theme) -> None:
        """Show another map."""
        if wiring != self._map:
            self._picked = None
        self._map, self._theme = wiring, theme
        self.setMinimumHeight(int(theme.px(HEAD + FOOT) + wiring.rows * theme.px(22)))
        self.setMaximumHeight(int(theme.px(HEAD + FOOT) + max(3, wiring.rows) * theme.px(ROW)))
        self.update()

    def _painter(self) -> MapPainter | None:
        if self._map is None:
            return None
        return MapPainter(self._map, self._theme, self.width(), self._picked, self.height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the map."""
        if (drawing := self._painter()) is not None:
            painter = QPainter(self)
            drawing.paint(painter)
            if self.hasFocus():
                painter.setPen(QPen(self._theme.color("action"), 1))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
            painter.end()

    def follow(self, net: int | None) -> None:
        """Follow one net."""
        if net != self._picked and self._map is not None:
            self._picked = net
            self.followed.emit(self._map.nets[net].story if net is not None else "")
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Follow what is under the pointer."""
        if event is not None and (drawing := self._painter()) is not None:
            self.follow(drawing.net_at(event.position()))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and down follow one conductor after the other."""
        assert event is not None
        step = {int(Qt.Key.Key_Down): 1, int(Qt.Key.Key_Up): -1}.get(event.key())
        if step is None or self._map is None:
            super().keyPressEvent(event)
            return
        order = [c.net for c in sorted(self._map.near, key=lambda c: c.row)]
        at = order.index(self._picked) if self._picked in order else (-1 if step > 0 else 0)
        self.follow(order[(at + step) % len(order)] if order else None)
