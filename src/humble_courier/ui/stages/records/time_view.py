"""A link over time, drawn: proofs and failures as marks, and below them for how long each thing was in use."""

import time

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from humble_courier.app.records.timeline import Timeline
from humble_courier.domain.facts import State
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.marks import draw_state

NAMES, LANE, TOP, MARK = 74, 25, 46, 15  # pixels at 100 %: room for the names, a lane, what stands above, a mark
DAY_S = 86_400.0
MOST_LANES = 9


class TimeView(QWidget):
    """`chosen` gives the moment of a mark; Left and Right go from one to the next."""

    chosen = pyqtSignal(float)

    def __init__(self) -> None:
        super().__init__()
        self._line, self._theme, self._at = Timeline((), ()), Theme(), 0.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_time(self, line: Timeline, at: float, theme: Theme) -> None:
        """Show a link's time; the mark at `at` is chosen."""
        self._line, self._at, self._theme = line, at, theme
        told = [f"{_day(when)} {'proven' if good else 'failed'}: {text}" for when, good, text in line.events]
        lanes = [f"{lane}: {', then '.join(span.text for span in spans)}" for lane, spans in line.lanes]
        self.setAccessibleName(f"Over time. {'; '.join(told)}" if told else "Over time: nothing yet")
        self.setAccessibleDescription("; ".join(lanes))
        self.setFixedHeight(self.sizeHint().height())
        self.update()

    def sizeHint(self) -> QSize:
        """As many lanes as there are."""
        t = self._theme
        lanes = min(len(self._line.lanes), MOST_LANES)
        return QSize(t.px(320), t.px(TOP) + lanes * t.px(LANE) + t.px(6) if self._line.events else 0)

    def _x(self, at: float) -> float:
        t, line = self._theme, self._line
        left, right = t.px(NAMES) + t.px(MARK), self.width() - t.px(MARK)
        span = max(line.ended - line.begun, DAY_S)
        return left + (at - line.begun) / span * (right - left)

    def _marks(self) -> list[float]:
        """Where the marks stand: at their moments, each far enough from the one before to be seen."""
        found: list[float] = []
        for at, _, _ in self._line.events:
            found.append(max(self._x(at), found[-1] + self._theme.px(MARK) if found else 0.0))
        return found

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw marks, months and lanes."""
        if not self._line.events:
            return
        painter, t = QPainter(self), self._theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(t.font(11))
        self._months(painter)
        for (at, good, _), x in zip(self._line.events, self._marks(), strict=True):
            middle = QPointF(x, t.px(TOP) - t.px(14))
            if at == self._at:
                painter.setPen(QPen(t.color("action"), 1.6))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(QRectF(middle.x() - t.px(11), t.px(17), t.px(22), self.height() - t.px(20)), 5, 5)
            draw_state(painter, middle, t.px(MARK), State.PROVEN if good else State.CONTRADICTED, t)
        for number, (lane, spans) in enumerate(self._line.lanes[:MOST_LANES]):
            y = t.px(TOP) + number * t.px(LANE)
            painter.setPen(t.color("quiet"))
            self._words(painter, QRectF(0, y, t.px(NAMES), t.px(LANE) - 4), lane)
            for nth, span in enumerate(spans):
                last = spans[nth + 1].begun if nth + 1 < len(spans) else self._line.ended
                self._span(
                    painter, QRectF(self._x(span.begun), y, self._x(last) - self._x(span.begun), t.px(LANE) - 5), span.text
                )
        painter.end()

    def _span(self, painter: QPainter, box: QRectF, text: str) -> None:
        t = self._theme
        box = box.adjusted(0, 0, -2, 0)
        words = box.adjusted(5, 0, -3, 0)
        if box.width() < t.px(10):  # of one moment only: its words stand beside it, where there is room
            box = QRectF(box.left() - t.px(5), box.top(), t.px(10), box.height())
            words = QRectF(box.right() + t.px(8), box.top(), self.width() - box.right() - t.px(8), box.height())
        painter.setPen(t.color("ink"))
        painter.setBrush(t.color("ground"))
        painter.drawRoundedRect(box, 4, 4)
        self._words(painter, words, text)

    def _words(self, painter: QPainter, box: QRectF, text: str) -> None:
        shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(box.width()))
        painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, shown)

    def _months(self, painter: QPainter) -> None:
        """The first and the last day, and the months between, as far as their names have room."""
        t, line = self._theme, self._line
        painter.setPen(t.color("quiet"))
        wide, right = t.px(58), 0.0
        for at in _months_of(line.begun, line.ended):
            x = self._x(at)
            painter.setPen(QPen(t.color("hairline"), 1, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(x, t.px(17)), QPointF(x, self.height()))
            if x > right and x + wide < self.width():
                painter.setPen(t.color("quiet"))
                painter.drawText(QRectF(x - 2, 0, wide, t.px(16)), Qt.AlignmentFlag.AlignLeft, _month(at))
                right = x + wide

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """The mark that is nearest is chosen."""
        if event is not None and self._line.events:
            marks = self._marks()
            near = min(range(len(marks)), key=lambda n: abs(marks[n] - event.position().x()))
            self.chosen.emit(self._line.events[near][0])

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """From mark to mark."""
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0) if event is not None else 0
        moments = [at for at, _, _ in self._line.events]
        at = moments.index(self._at) if self._at in moments else len(moments) - 1
        if step and 0 <= at + step < len(moments):
            self.chosen.emit(moments[at + step])
        elif event is not None:
            super().keyPressEvent(event)


def _day(at: float) -> str:
    return time.strftime("%Y-%m-%d", time.localtime(at))


def _month(at: float) -> str:
    return time.strftime("%Y-%m", time.localtime(at))


def _months_of(begun: float, ended: float) -> list[float]:
    """The first moments of the months between."""
    first, found = time.localtime(begun), list[float]()
    year, month = first.tm_year, first.tm_mon + 1
    while (at := time.mktime((year, month, 1, 0, 0, 0, 0, 0, -1))) <= ended:
        found.append(at)
        month += 1
    return found
