"""A bus as it lies: a trunk with its terminators, each device hanging on it with its address. Two alike have a shape."""

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen

from humble_courier.app.settings.address_rows import BusLine, Hanging, Use
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.marks import triangle
from humble_courier.ui.widgets.pieces import Pieces

ROW, FOOT, SLOT, BOX = 74, 20, 62, 36  # pixels at 100 %: a line, what is left out, a device, its box
MOST_LINES = 3  # lines drawn; the table has them all
COMPUTER = 74  # pixels of the end at which the computer is


class BusView(Pieces):
    """As many devices as there is room for; the last slot says how many more there are."""

    def __init__(self) -> None:
        super().__init__()
        self._lines: tuple[BusLine, ...] = ()
        self._theme = Theme()

    def show_lines(self, lines: Sequence[BusLine], theme: Theme) -> None:
        """Show them; without lines nothing is drawn."""
        self._lines, self._theme = tuple(lines), theme
        twice = [one.name for line in lines for one in line.members if one.use is Use.TWICE]
        told = f"; in conflict: {', '.join(twice)}" if twice else ""
        self.tell(f"{sum(len(line.members) for line in lines)} devices on {len(lines)} buses{told}", self._told())
        shown = min(len(lines), MOST_LINES)
        self.setFixedHeight(theme.px(ROW * shown + (FOOT if len(lines) > MOST_LINES else 0)))
        self.setVisible(bool(lines))
        self.update()

    def _told(self) -> list[str]:
        lines = self._lines[:MOST_LINES]
        return [
            f"{line.name}: {one.name}, {one.address or 'no address'}, {one.use}" for line in lines for one in line.members
        ]

    def box_of(self, i: int) -> QRectF | None:
        """The box of a device, or the slot that stands for it."""
        for row, line in enumerate(self._lines[:MOST_LINES]):
            if i < len(line.members):
                return self._box(row, min(i, self._room() - 1)).adjusted(-3, -3, 3, 3)
            i -= len(line.members)
        return None

    def _room(self) -> int:
        """Devices beside each other."""
        t = self._theme
        return max(1, int((self.width() - t.px(COMPUTER + 30)) // t.px(SLOT)))

    def _box(self, row: int, slot: int) -> QRectF:
        t = self._theme
        left = t.px(COMPUTER + 12) + slot * t.px(SLOT) + t.px(SLOT - BOX) / 2
        return QRectF(left, row * t.px(ROW) + t.px(26), t.px(BOX), t.px(24))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw trunks, terminators and devices."""
        t = self._theme
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for row, line in enumerate(self._lines[:MOST_LINES]):
            self._line(painter, row, line)
        if len(self._lines) > MOST_LINES:
            painter.setFont(t.font(12))
            painter.setPen(t.color("quiet"))
            at = QRectF(0, MOST_LINES * t.px(ROW), self.width(), t.px(FOOT))
            more = f"{len(self._lines) - MOST_LINES} more buses stand in the table"
            painter.drawText(at, Qt.AlignmentFlag.AlignVCenter, more)
        painter.end()

    def _line(self, painter: QPainter, row: int, line: BusLine) -> None:
        t, room = self._theme, self._room()
        trunk, shown = row * t.px(ROW) + t.px(12), line.members
        if len(shown) > room:
            shown = shown[: room - 1]
        more = len(line.members) - len(shown)
        end = self._box(row, len(shown) - 1 + bool(more)).center().x()
        painter.setFont(t.font(12, bold=True))
        painter.setPen(t.color("ink"))
        name = painter.fontMetrics().elidedText(line.name, Qt.TextElideMode.ElideRight, t.px(COMPUTER))
        painter.drawText(QRectF(0, trunk - t.px(9), t.px(COMPUTER), t.px(18)), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setPen(QPen(t.color("ink"), 3))
        painter.drawLine(QPointF(t.px(COMPUTER), trunk), QPointF(end, trunk))
        if line.terminators is not None:
            self._terminator(painter, QPointF(t.px(COMPUTER), trunk), line.terminators > 0)
            self._terminator(painter, QPointF(end, trunk), line.terminators > 1)
        for slot, one in enumerate(shown):
            self._device(painter, self._box(row, slot), trunk, one)
        if more:
            box = self._box(row, len(shown))
            painter.setPen(QPen(t.color("ink"), 1.5, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(box.center().x(), trunk), QPointF(box.center().x(), box.top()))
            painter.setFont(t.font(12))
            painter.drawText(box.adjusted(-12, 0, 12, 0), Qt.AlignmentFlag.AlignCenter, f"+ {more}")

    def _terminator(self, painter: QPainter, at: QPointF, fitted: bool) -> None:
        t = self._theme
        box = QRectF(at.x() - t.px(4), at.y() - t.px(9), t.px(8), t.px(18))
        painter.setBrush(t.color("ink" if fitted else "surface"))
        painter.setPen(QPen(t.color("ink"), 1.5, Qt.PenStyle.SolidLine if fitted else Qt.PenStyle.DotLine))
        painter.drawRect(box)

    def _device(self, painter: QPainter, box: QRectF, trunk: float, one: Hanging) -> None:
        t, twice = self._theme, one.use not in (Use.TAKEN, Use.FREE)
        color = t.color("contradicted" if twice else "ink")
        x = box.center().x()
        painter.setPen(QPen(color, 1.5))
        painter.drawLine(QPointF(x, trunk), QPointF(x, box.top()))
        painter.setBrush(t.color("surface" if not one.address else "socket"))
        if not one.address:
            painter.setPen(QPen(color, 1.5, Qt.PenStyle.DashLine))
        painter.drawRoundedRect(box, 5, 5)
        painter.setFont(t.font(13, bold=True))
        painter.setPen(color)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, one.address or "?")
        if twice:
            r, corner = t.px(6), box.topRight()
            painter.setBrush(color)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawPolygon(triangle(corner, r))
        painter.setFont(t.font(11))
        painter.setPen(t.color("quiet"))
        under = QRectF(x - t.px(SLOT) / 2 + 1, box.bottom() + t.px(2), t.px(SLOT) - 2, t.px(18))
        name = painter.fontMetrics().elidedText(one.name, Qt.TextElideMode.ElideMiddle, int(under.width()))
        painter.drawText(under, Qt.AlignmentFlag.AlignCenter, name)
