"""A bank of switches or jumpers as one sees it from where one stands; each is a button."""

from math import cos, pi, sin

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from humble_courier.app.settings.banks import BankView
from humble_courier.ui.theme import Theme


def _around(disc: QRectF, sixteenth: int, part: float) -> QPointF:
    """A point of a dial: sixteenths clockwise from the top, `part` of the radius out."""
    angle = sixteenth * pi / 8
    reach = disc.width() / 2 * part
    return QPointF(disc.center().x() + reach * sin(angle), disc.center().y() - reach * cos(angle))


class BankPicture(QWidget):
    """`turned` gives the number of the switch that was touched. Left and right choose one, the space bar turns it."""

    turned = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self._view: BankView | None = None
        self._theme = Theme()
        self._at = 0
        self._numbers: tuple[int, ...] = ()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_bank(self, view: BankView, theme: Theme) -> None:
        """Show a bank."""
        self._view, self._theme = view, theme
        self._numbers = tuple(range(1, len(view.digits) + 1)) if view.bank.rotary else view.numbers
        self._at = min(self._at, len(self._numbers) - 1)
        words = (
            [f"dial {n} at {d}" for n, d in enumerate(view.digits, 1)]
            if view.bank.rotary
            else [f"switch {n} {'on' if view.positions[n - 1] else 'off'}" for n in range(1, len(view.positions) + 1)]
        )
        self.setAccessibleName(f"{view.bank.where}: {', '.join(words)}; says {view.says}")
        self.setMinimumHeight(theme.px(170))
        self.update()

    def _boxes(self) -> list[QRectF]:
        t, count = self._theme, len(self._numbers)
        rotary = self._view is not None and self._view.bank.rotary
        width = min(t.px(110 if rotary else 58), (self.width() - t.px(40)) / max(count, 1))
        return [QRectF(t.px(20) + i * width + t.px(5), t.px(40), width - t.px(10), t.px(84)) for i in range(count)]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the bank: a slot a switch, the slider up or down as seen, its number and weight."""
        view, t = self._view, self._theme
        if view is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        boxes = self._boxes()
        frame = QRectF(t.px(10), t.px(12), boxes[-1].right() + t.px(5), t.px(146))
        painter.setPen(QPen(t.color("hairline"), 1))
        painter.setBrush(t.color("surface"))
        painter.drawRoundedRect(frame, t.px(8), t.px(8))
        for i, box in enumerate(boxes):
            (self._dial if view.bank.rotary else self._switch)(painter, view, i, box)
        painter.end()

    def _switch(self, painter: QPainter, view: BankView, i: int, box: QRectF) -> None:
        t, number = self._theme, view.numbers[i]
        on, up = bool(view.positions[number - 1]), bool(view.seen[i])
        painter.setPen(QPen(t.color("action" if i == self._at and self.hasFocus() else "ink"), 2))
        painter.setBrush(t.color("ground"))
        painter.drawRoundedRect(box, t.px(4), t.px(4))
        half = box.height() / 2
        slider = QRectF(box.x() + 3, box.y() + (3 if up else half), box.width() - 6, half - 3)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.color("ink"))
        painter.drawRoundedRect(slider, t.px(3), t.px(3))
        painter.setPen(t.color("ink"))
        painter.setFont(t.font(13, bold=True))
        centre = Qt.AlignmentFlag.AlignCenter
        painter.drawText(QRectF(box.x(), box.y() - t.px(24), box.width(), t.px(20)), centre, str(number))
        painter.setFont(t.font(11))
        painter.setPen(t.color("quiet"))
        word = ("covered" if on else "open") if view.bank.jumpers else ("on" if on else "off")
        weight = view.weights[number - 1]
        below = QRectF(box.x() - t.px(6), box.bottom() + t.px(2), box.width() + t.px(12), t.px(30))
        painter.drawText(below, centre, f"{word}\n{weight}" if weight else word)

    def _dial(self, painter: QPainter, view: BankView, i: int, box: QRectF) -> None:
        t, digit = self._theme, int(view.digits[i], 16)
        size = min(box.width(), box.height())
        disc = QRectF(box.center().x() - size / 2, box.y(), size, size)
        painter.setPen(QPen(t.color("action" if i == self._at and self.hasFocus() else "ink"), 2))
        painter.setBrush(t.color("ground"))
        painter.drawEllipse(disc)
        painter.setFont(t.font(11))
        for at in range(16):
            spot = _around(disc, at, 0.84)
            painter.setPen(t.color("ink" if at == digit else "quiet"))
            painter.drawText(QRectF(spot.x() - 8, spot.y() - 8, 16, 16), Qt.AlignmentFlag.AlignCenter, f"{at:X}")
        painter.setPen(QPen(t.color("ink"), 4))
        painter.drawLine(_around(disc, digit + 8, 0.45), _around(disc, digit, 0.6))
        painter.setBrush(t.color("ink"))
        painter.drawEllipse(_around(disc, digit, 0.6), 4, 4)
        painter.setPen(t.color("ink"))
        painter.setFont(t.font(13, bold=True))
        centre = Qt.AlignmentFlag.AlignCenter
        painter.drawText(QRectF(box.x(), box.y() - t.px(24), box.width(), t.px(20)), centre, str(i + 1))
        below = QRectF(box.x(), box.bottom() + t.px(2), box.width(), t.px(24))
        painter.setFont(t.font(12))
        painter.drawText(below, centre, view.digits[i])

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Turn the switch under the pointer."""
        if event is None or self._view is None:
            return
        for i, box in enumerate(self._boxes()):
            if box.contains(event.position()):
                self._at = i
                self.turned.emit(self._numbers[i])
                return

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Choose with the arrows, turn with the space bar."""
        if event is None or self._view is None:
            return
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is not None:
            self._at = max(0, min(len(self._numbers) - 1, self._at + step))
            self.update()
        elif event.key() == Qt.Key.Key_Space:
            self.turned.emit(self._numbers[self._at])
        else:
            super().keyPressEvent(event)
