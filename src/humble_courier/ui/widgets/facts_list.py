"""What we know, painted: mark, fact, provenance and time, each as high as its words need."""

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QResizeEvent

from humble_courier.domain.clock import clock_text
from humble_courier.domain.facts import Fact
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.marks import draw_state
from humble_courier.ui.widgets.pieces import Pieces

_WRAP = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop


class FactsList(Pieces):
    """Facts from the newest down."""

    def __init__(self) -> None:
        super().__init__()
        self._facts: list[Fact] = []
        self._theme = Theme()

    def show_facts(self, facts: list[Fact], theme: Theme) -> None:
        """Show facts with provenance and time."""
        if (facts, theme) == (self._facts, self._theme) and self.accessibleName():
            return
        self._facts, self._theme = facts, theme
        self.tell("What we know", [f"{f.text} ({f.state}, {_source(f)})" for f in facts])
        self._claim()
        self.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Another width, another height."""
        self._claim()

    def _claim(self) -> None:
        self.setMinimumHeight(self._height_at(self.width()))

    def sizeHint(self) -> QSize:
        """As high as the words need at this width."""
        return QSize(self.width(), self._height_at(self.width()))

    def _height_at(self, width: int) -> int:
        return int(sum(a.height() + b.height() + self._theme.px(11) for a, b in self._boxes(width)))

    def _boxes(self, width: int) -> list[tuple[QRectF, QRectF]]:
        """For each fact the places of its text and of its source, from the top of the list."""
        t = self._theme
        left, top = t.px(28), 0.0
        room = QRectF(0, 0, max(60, width - left - 4), 10_000)
        text, small = QFontMetricsF(t.font(13, bold=True)), QFontMetricsF(t.font(12))
        boxes = []
        for fact in self._facts:
            first = text.boundingRect(room, _WRAP, fact.text).height()
            second = small.boundingRect(room, _WRAP, _source(fact)).height()
            boxes.append((QRectF(left, top, room.width(), first), QRectF(left, top + first + 1, room.width(), second)))
            top += first + second + t.px(11)
        return boxes

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the facts."""
        t = self._theme
        painter = QPainter(self)
        for fact, (text, source) in zip(self._facts, self._boxes(self.width()), strict=True):
            draw_state(painter, QPointF(t.px(10), text.top() + t.px(9)), t.px(14), fact.state, t)
            painter.setFont(t.font(13, bold=True))
            painter.setPen(t.color("ink"))
            painter.drawText(text, _WRAP, fact.text)
            painter.setFont(t.font(12))
            painter.setPen(t.color("quiet"))
            painter.drawText(source, _WRAP, _source(fact))
        painter.end()


def _source(fact: Fact) -> str:
    return f"{fact.provenance}: {fact.source} · {clock_text(fact.at)}"
