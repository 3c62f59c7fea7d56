"""The field of suspects: one bar each, in an order that stays, so that the eye sees them shrink."""

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen

from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.pieces import Pieces

ROW = 26.0  # pixels: a line of text with room to breathe
OUT = 0.001  # below this a suspect counts as ruled out


class SuspectsView(Pieces):
    """Names, bars and percentages."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._rows: list[tuple[str, float]] = []

    def show_suspects(self, rows: list[tuple[str, float]], theme: Theme) -> None:
        """Show (name, probability) in a fixed order."""
        self._rows, self._theme = rows, theme
        told = ", ".join(f"{name} {p:.0%}" for name, p in rows if p >= OUT)
        self.tell(f"Suspects: {told}", [f"{name} {p:.0%}" for name, p in rows])
        self.setMinimumHeight(int(theme.px(ROW) * len(rows)))
        self.update()

    def box_of(self, i: int) -> QRectF | None:
        """A row."""
        return QRectF(0, i * self._theme.px(ROW), self.width(), self._theme.px(ROW))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw them."""
        t = self._theme
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        best = max((p for _, p in self._rows), default=0.0)
        name_width, share_width = self.width() * 0.50, t.px(76)
        for i, (name, probability) in enumerate(self._rows):
            y, out = i * t.px(ROW), probability < OUT
            painter.setFont(t.font(13, bold=probability == best and not out))
            painter.setPen(t.color("unknown" if out else "ink"))
            metrics = painter.fontMetrics()
            text = metrics.elidedText(name, Qt.TextElideMode.ElideRight, int(name_width - t.px(8)))
            painter.drawText(QRectF(0, y, name_width, t.px(ROW)), Qt.AlignmentFlag.AlignVCenter, text)
            share = "ruled out" if out else f"{probability:.1%}"
            at = QRectF(self.width() - share_width, y, share_width, t.px(ROW))
            painter.drawText(at, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, share)
            room = self.width() - name_width - share_width - t.px(8)
            painter.setPen(QPen(t.color("hairline"), 1))
            painter.drawLine(int(name_width), int(y + t.px(ROW) / 2), int(name_width + room), int(y + t.px(ROW) / 2))
            if not out:
                painter.fillRect(QRectF(name_width, y + t.px(7), max(2.0, room * probability), t.px(12)), t.color("action"))
        painter.end()
