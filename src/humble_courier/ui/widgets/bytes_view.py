"""Received characters in cells: number and character; those in doubt look doubtful and say why."""

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen

from humble_courier.app.settings.hearing import HeardByte
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.pieces import Pieces


class BytesView(Pieces):
    """Cells in rows; as many rows as there is room for, and a word on what is not shown."""

    def __init__(self) -> None:
        super().__init__()
        self._bytes: tuple[HeardByte, ...] = ()
        self._theme = Theme()

    def show_bytes(self, received: tuple[HeardByte, ...], theme: Theme) -> None:
        """Show received characters."""
        self._bytes, self._theme = received, theme
        doubtful = sum(one.doubtful for one in received)
        self.tell(f"{len(received)} characters, {doubtful} in doubt", [f"{one.byte:02X} {one.word}" for one in received])
        self.setMinimumHeight(theme.px(48))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the cells."""
        t = self._theme
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width, height, gap = t.px(54), t.px(42), t.px(5)
        columns = max(1, (self.width() + gap) // (width + gap))
        rows = max(1, (self.height() + gap) // (height + gap))
        room = columns * rows
        shown = self._bytes if len(self._bytes) <= room else self._bytes[: room - 1]
        for i, one in enumerate(shown):
            box = QRectF((i % columns) * (width + gap) + 1, (i // columns) * (height + gap) + 1, width - 2, height - 2)
            self._cell(painter, box, one)
        if len(shown) < len(self._bytes):
            i = len(shown)
            box = QRectF((i % columns) * (width + gap), (i // columns) * (height + gap), width, height)
            painter.setPen(t.color("quiet"))
            painter.setFont(t.font(12))
            text = f"and {len(self._bytes) - len(shown)} more"
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, text)
        painter.end()

    def _cell(self, painter: QPainter, box: QRectF, one: HeardByte) -> None:
        t = self._theme
        color = t.color("contradicted" if one.doubtful else "hairline")
        pen = QPen(color, 2 if one.doubtful else 1)
        if one.doubtful:
            pen.setDashPattern([3.0, 2.0])
        painter.setPen(pen)
        painter.setBrush(t.color("surface"))
        painter.drawRoundedRect(box, t.px(6), t.px(6))
        painter.setPen(t.color("ink"))
        painter.setFont(t.font(13, bold=True, mono=True))
        half = box.height() / 2
        painter.drawText(QRectF(box.x(), box.y() + 2, box.width(), half), Qt.AlignmentFlag.AlignCenter, f"{one.byte:02X}")
        painter.setFont(t.font(11))
        painter.setPen(t.color("contradicted" if one.doubtful else "quiet"))
        painter.drawText(QRectF(box.x(), box.y() + half - 2, box.width(), half), Qt.AlignmentFlag.AlignCenter, one.word)
