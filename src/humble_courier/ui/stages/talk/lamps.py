"""The handshake lines as they are now, and how much came in the last half minute."""

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from humble_courier.domain.lines import Lines
from humble_courier.ui.theme import Theme

OURS = ("RTS", "DTR")
NAMES = (*OURS, "CTS", "DSR", "DCD", "RI")
STEP = 74  # pixels from lamp to lamp: the longest name and its state


class Lamps(QWidget):
    """Six lines: a filled disc is on, a ring off, a dashed ring not told. `moved` asks for one of ours to be set."""

    moved = pyqtSignal(str, bool)

    def __init__(self) -> None:
        super().__init__()
        self._states: dict[str, bool | None] = dict.fromkeys(NAMES)
        self._theme, self._can_move, self._at = Theme(), False, 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip("RTS and DTR are ours: touch one to set it, or choose with Left and Right and press Space")

    def show_lines(self, lines: Lines, can_move: bool, theme: Theme) -> None:
        """Show states; `can_move`: whether ours may be set now."""
        states = dict(zip(NAMES, (lines.rts, lines.dtr, lines.cts, lines.dsr, lines.dcd, lines.ri), strict=True))
        self._states, self._can_move, self._theme = states, can_move, theme
        told = [f"{name} {self._word(on)}" for name, on in states.items()]
        self.setAccessibleName(", ".join(told))
        self.setFixedHeight(theme.px(32))
        self.update()

    def _step(self) -> float:
        return min(self._theme.px(STEP), self.width() / len(NAMES))

    def minimumSizeHint(self) -> QSize:
        """Narrow: names without words then."""
        return QSize(self._theme.px(40) * len(NAMES), self._theme.px(32))

    def _word(self, on: bool | None) -> str:
        return "not told" if on is None else "on" if on else "off"

    def sizeHint(self) -> QSize:
        """Room for all six."""
        return QSize(self._theme.px(STEP) * len(NAMES), self._theme.px(32))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the lamps."""
        t = self._theme
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(t.font(11))
        for i, (name, on) in enumerate(self._states.items()):
            x = i * self._step()
            pen = QPen(t.color("ink" if on is not None else "unknown"), 2)
            if on is None:
                pen.setDashPattern(t.dash)
            painter.setPen(pen)
            painter.setBrush(t.color("ink") if on else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(x + t.px(9), t.px(16)), t.px(5), t.px(5))
            painter.setPen(t.color("ink" if name in OURS and self._can_move else "quiet"))
            roomy = on is not None and self._step() >= t.px(STEP) - 2
            text = f"{name} {self._word(on)}" if roomy else name
            box = QRectF(x + t.px(18), 0, self._step() - t.px(18), t.px(32))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, text)
            if self.hasFocus() and i == self._at:
                painter.setPen(QPen(t.color("action"), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(QRectF(x + 1, 2, self._step() - 6, t.px(32) - 4), 6, 6)
        painter.end()

    def _move(self, place: int) -> None:
        if 0 <= place < len(OURS) and self._can_move:
            name = OURS[place]
            self.moved.emit(name, not self._states[name])

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Touch a line."""
        if event is not None:
            self._move(int(event.position().x() / self._step()))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and Right choose, Space sets."""
        if event is None:
            return
        key = event.key()
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._at = (self._at + (1 if key == Qt.Key.Key_Right else -1)) % len(OURS)
            self.update()
        elif key == Qt.Key.Key_Space:
            self._move(self._at)
        else:
            super().keyPressEvent(event)


class ActivityView(QWidget):
    """Bytes a second over the last half minute, as bars."""

    def __init__(self) -> None:
        super().__init__()
        self._levels: list[int] = []
        self._theme = Theme()

    def show_levels(self, levels: list[int], theme: Theme) -> None:
        """Show bytes in each second, oldest first."""
        self._levels, self._theme = levels, theme
        self.setAccessibleName(f"{levels[-1] if levels else 0} bytes in the last second")
        self.setFixedSize(theme.px(150), theme.px(32))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the bars."""
        t = self._theme
        painter = QPainter(self)
        top = max([1, *self._levels])
        width = self.width() / max(1, len(self._levels)) * 0.55
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.color("action"))
        for i, level in enumerate(self._levels):
            height = (self.height() - t.px(4)) * level / top
            painter.drawRect(QRectF(i * width, self.height() - max(1.0, height), max(1.0, width - 1), max(1.0, height)))
        painter.setPen(t.color("quiet"))
        painter.setFont(t.font(11))
        text = f"{self._levels[-1] if self._levels else 0} bytes/s"
        box = QRectF(self.width() * 0.57, 0, self.width() * 0.43, self.height())
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, text)
        painter.end()
