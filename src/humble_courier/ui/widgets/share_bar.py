"""A share as the length of a bar; the number stands beside it in words, never in the bar alone."""

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from humble_courier.ui.theme import Theme

WIDE, HIGH = 56, 8  # pixels at 100 %


class ShareBar(QWidget):
    """`share` from 0 to 1."""

    def __init__(self, share: float, theme: Theme, leads: bool = False) -> None:
        super().__init__()
        self._share, self._theme, self._leads = share, theme, leads
        self.setFixedSize(theme.px(WIDE), theme.px(HIGH + 4))
        self.setAccessibleName(f"{share:.0%}")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw it."""
        painter = QPainter(self)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self._theme.color("action" if self._leads else "quiet"))
        width = max(2.0, self.width() * min(1.0, self._share))
        painter.drawRoundedRect(QRectF(0, 2, width, self._theme.px(HIGH)), 2, 2)
        painter.end()
