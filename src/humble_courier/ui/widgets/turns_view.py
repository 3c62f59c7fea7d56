"""What takes its turn on a line, true to time: a lane each, what is sent filled, waiting hatched, one limit across all."""

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QFontMetrics, QPainter, QPaintEvent, QPen

from humble_courier.app.amounts import Stint, Turns
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.pieces import Pieces

HEAD, GAP = 22.0, 4.0  # pixels: the words of the limit above, between lanes
MOST_NAME = 0.34  # of the width for the names of lanes


class TurnsView(Pieces):
    """`row` is the height of a lane in pixels of plain type."""

    def __init__(self, row: float = 26.0) -> None:
        super().__init__()
        self._row = row
        self._lanes: tuple[Turns, ...] = ()
        self._limit_s, self._limit = 1.0, ""
        self._theme = Theme()

    def show_turns(self, lanes: Sequence[Turns], limit_s: float, limit: str, theme: Theme) -> None:
        """Lanes over one time; `limit` says what ends at `limit_s` seconds."""
        self._lanes, self._limit_s, self._limit, self._theme = tuple(lanes), limit_s, limit, theme
        late = [lane.name for lane in lanes if lane.end_s > limit_s]
        told = f"; too late: {', '.join(late)}" if late else ""
        self.tell(f"{limit}{told}", [_in_words(lane, span) for lane, span in self._all()])
        self.setFixedHeight(theme.px(HEAD + (self._row + GAP) * len(lanes) + GAP))
        self.update()

    def _all(self) -> list[tuple[Turns, Stint]]:
        return [(lane, span) for lane in self._lanes for span in lane.spans]

    def box_of(self, i: int) -> QRectF | None:
        """The piece in its lane."""
        lane, span = self._all()[i]
        return self._box(self._lanes.index(lane), span).adjusted(-2, -2, 2, 2)

    def _left(self) -> float:
        metrics = QFontMetrics(self._theme.font(12))
        widest = max((metrics.horizontalAdvance(lane.name) for lane in self._lanes), default=0) + self._theme.px(10)
        return min(widest, self.width() * MOST_NAME)

    def _scale(self) -> float:
        """Pixels a second."""
        longest = max([self._limit_s, *(lane.end_s for lane in self._lanes)])
        return (self.width() - self._left() - self._theme.px(8)) / (longest * 1.04) if longest > 0 else 0.0

    def _box(self, lane: int, span: Stint) -> QRectF:
        t, scale = self._theme, self._scale()
        top = t.px(HEAD) + lane * t.px(self._row + GAP)
        return QRectF(self._left() + span.start_s * scale, top, max(2.0, span.seconds * scale), t.px(self._row))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw lanes, pieces and the limit."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        t, left = self._theme, self._left()
        for i, lane in enumerate(self._lanes):
            row = QRectF(0, t.px(HEAD) + i * t.px(self._row + GAP), self.width(), t.px(self._row))
            painter.setFont(t.font(12))
            painter.setPen(t.color("quiet"))
            name = painter.fontMetrics().elidedText(lane.name, Qt.TextElideMode.ElideRight, int(left - t.px(6)))
            painter.drawText(row, Qt.AlignmentFlag.AlignVCenter, name)
            painter.setPen(QPen(t.color("hairline"), 1))
            painter.drawLine(QPointF(left, row.bottom()), QPointF(self.width(), row.bottom()))
            for span in lane.spans:
                self._piece(painter, self._box(i, span), span)
        self._line_of_limit(painter)
        for i, lane in enumerate(self._lanes):
            for span in lane.spans:
                self._words(painter, self._box(i, span), span, last=span is lane.spans[-1])
        painter.end()

    def _piece(self, painter: QPainter, box: QRectF, span: Stint) -> None:
        t = self._theme
        late = span.start_s + span.seconds > self._limit_s
        color = t.color("contradicted" if late else "action")
        painter.setPen(QPen(color, 1.2))
        painter.setBrush(QBrush(color, Qt.BrushStyle.BDiagPattern) if span.waits else QBrush(t.color("socket")))
        painter.drawRect(box)

    def _words(self, painter: QPainter, box: QRectF, span: Stint, last: bool) -> None:
        t = self._theme
        painter.setFont(t.font(11))
        words = f"{span.what} {short(span.seconds)}"
        metrics = painter.fontMetrics()
        for text in (words, span.what):
            room = QRectF(0, 0, metrics.horizontalAdvance(text) + t.px(6), min(box.height() - 4, t.px(16)))
            if room.width() <= box.width() - 2:
                room.moveCenter(box.center())
                painter.fillRect(
                    room, t.color("surface" if span.waits else "socket")
                )  # the limit does not run through words
                painter.setPen(t.color("ink"))
                painter.drawText(room, Qt.AlignmentFlag.AlignCenter, text)
                return
        if last:
            painter.setPen(t.color("ink"))
            beside = QRectF(box.right() + t.px(6), box.y(), self.width() - box.right(), box.height())
            painter.drawText(beside, Qt.AlignmentFlag.AlignVCenter, span.what)

    def _line_of_limit(self, painter: QPainter) -> None:
        t = self._theme
        x = self._left() + self._limit_s * self._scale()
        late = any(lane.end_s > self._limit_s for lane in self._lanes)
        painter.setPen(QPen(t.color("contradicted" if late else "ink"), 2, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(x, t.px(HEAD) - 2), QPointF(x, self.height() - 2))
        painter.setFont(t.font(12, bold=True))
        width = painter.fontMetrics().horizontalAdvance(self._limit) + t.px(4)
        at = max(0.0, min(x - width / 2, self.width() - width))
        painter.drawText(QRectF(at, 0, width, t.px(18)), Qt.AlignmentFlag.AlignCenter, self._limit)


def short(seconds: float) -> str:
    """A time as one reads it at a glance."""
    if seconds < 1:
        return f"{seconds * 1e3:.3g} ms"
    return f"{seconds:.3g} s" if seconds < 90 else f"{seconds / 60:.3g} min"


def _in_words(lane: Turns, span: Stint) -> str:
    return f"{lane.name}: {span.what}, {short(span.seconds)} from {short(span.start_s)} on"
