"""One character as a waveform with the instants at which a receiver looks at it."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF

from humble_courier.app.settings.hearing import Sample
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.pieces import Pieces


class WaveView(Pieces):
    """The line's level over time (mark above, space below) and one receiver's samples: right ones a dot on a full
    line, wrong ones a triangle on a broken line."""

    def __init__(self) -> None:
        super().__init__()
        self._edges: tuple[tuple[float, int], ...] = ()
        self._samples: tuple[Sample, ...] = ()
        self._seconds = 1.0
        self._theme = Theme()

    def show_wave(
        self, edges: tuple[tuple[float, int], ...], seconds: float, samples: tuple[Sample, ...], theme: Theme
    ) -> None:
        """Show a wave: edges as (seconds, level from then on)."""
        self._edges, self._seconds, self._samples, self._theme = edges, seconds, samples, theme
        wrong = sum(not s.wanted for s in samples)
        name = f"{len(samples)} samples, {wrong} of them read another bit than was sent"
        self.tell(name, [_in_words(s) for s in samples])
        self.setMinimumHeight(theme.px(78))
        self.setMaximumHeight(theme.px(100))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw level and samples."""
        t = self._theme
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        left, width = t.px(52), self.width() - t.px(60)
        high, low = t.px(12), self.height() - t.px(36)
        painter.setFont(t.font(11))
        painter.setPen(t.color("quiet"))
        for y, word in ((high, "mark"), (low, "space")):
            painter.drawText(QRectF(0, y - t.px(9), left - t.px(8), t.px(18)),
                             Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, word)  # fmt: skip
        points, level = [QPointF(left, high)], 1
        for at, new in self._edges:
            x = left + width * at / self._seconds
            points += [QPointF(x, high if level else low), QPointF(x, high if new else low)]
            level = new
        points.append(QPointF(left + width, high if level else low))
        painter.setPen(QPen(t.color("ink"), 3))
        painter.drawPolyline(QPolygonF(points))
        for sample in self._samples:
            self._sample(painter, left + width * sample.t / self._seconds, sample, high, low)
        painter.end()

    def _sample(self, painter: QPainter, x: float, sample: Sample, high: float, low: float) -> None:
        t = self._theme
        color = t.color("action" if sample.wanted else "contradicted")
        pen = QPen(color, 1.6)
        if not sample.wanted:
            pen.setDashPattern([3.0, 2.0])
        foot = low + t.px(12)
        painter.setPen(pen)
        painter.drawLine(QPointF(x, high - t.px(10)), QPointF(x, foot))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(color)
        r = t.px(4)
        if sample.wanted:
            painter.drawEllipse(QPointF(x, foot), r, r)
        else:
            painter.drawPolygon(QPolygonF([QPointF(x, foot - r - 1), QPointF(x + r, foot + r), QPointF(x - r, foot + r)]))
        painter.setPen(t.color("quiet") if sample.wanted else color)
        painter.setFont(t.font(11))
        box = QRectF(x - t.px(24), foot + t.px(4), t.px(48), t.px(16))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, sample.label)


def _in_words(sample: Sample) -> str:
    read = "mark" if sample.level else "space"
    return f"{sample.label} at {sample.t * 1e6:.0f} µs reads {read}, {'as' if sample.wanted else 'not as'} it was sent"
