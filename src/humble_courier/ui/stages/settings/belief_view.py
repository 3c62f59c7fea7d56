"""What is believed about rate and frame, as a field of squares: the larger, the likelier; the leading one in words."""

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent

from humble_courier.app.settings.inferring import Setting
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.pieces import Pieces

MOST_RATES, MOST_FRAMES = 9, 6  # what fits beside each other; the rest is less likely
LEAST_SHARE = 0.002  # less is drawn as a dot


class BeliefView(Pieces):
    """Rates across, frames down; inverted ones are drawn hollow."""

    def __init__(self) -> None:
        super().__init__()
        self._settings: Sequence[Setting] = ()
        self._theme = Theme()

    def show_belief(self, settings: Sequence[Setting], theme: Theme) -> None:
        """Show settings with their probabilities, the likeliest first."""
        self._settings, self._theme = settings, theme
        told = [f"{s.rate} {s.frame}{' inverted' if s.inverted else ''} {s.probability:.0%}" for s in settings]
        self.tell("; ".join(told[:5]), told)
        frames = len({s.frame for s in settings[:MOST_FRAMES]})
        self.setMinimumHeight(theme.px(30 + 30 * frames))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the field."""
        if not self._settings:
            return
        t = self._theme
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rates = sorted({s.rate for s in self._settings[: MOST_RATES * 2]})[:MOST_RATES]
        frames = list(dict.fromkeys(s.frame for s in self._settings))[:MOST_FRAMES]
        left, top = t.px(56), t.px(24)
        width = min((self.width() - left) / max(len(rates), 1), t.px(92))
        height = min((self.height() - top) / max(len(frames), 1), t.px(30))
        painter.setFont(t.font(11))
        painter.setPen(t.color("quiet"))
        centre = Qt.AlignmentFlag.AlignCenter
        for i, rate in enumerate(rates):
            painter.drawText(QRectF(left + i * width, 0, width, top), centre, str(rate))
        for j, frame in enumerate(frames):
            painter.drawText(QRectF(0, top + j * height, left, height), centre, frame)
        for setting in self._settings:
            if setting.rate in rates and setting.frame in frames:
                box = QRectF(
                    left + rates.index(setting.rate) * width, top + frames.index(setting.frame) * height, width, height
                )
                self._square(painter, box, setting)
        painter.end()

    def _square(self, painter: QPainter, box: QRectF, setting: Setting) -> None:
        t = self._theme
        side = max(t.px(3), (min(box.width(), box.height()) - t.px(6)) * setting.probability**0.5)
        centre = box.center()
        square = QRectF(centre.x() - side / 2 - t.px(18), centre.y() - side / 2, side, side)
        painter.setPen(t.color("action"))
        painter.setBrush(t.color("surface") if setting.inverted else t.color("action"))
        painter.drawRect(square)
        if setting.probability >= 0.01:
            painter.setPen(t.color("ink"))
            where = QRectF(centre.x() - t.px(2), box.y(), t.px(46), box.height())
            painter.drawText(where, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, f"{setting.probability:.0%}")
