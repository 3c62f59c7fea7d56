"""Which library sees which instrument, as lines from the one to the other; an instrument that is touched is taken.

Before anything was looked for it shows an example, drawn lightly.
"""

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from humble_courier.app.talk.instruments import Library
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.fitting import draw_fitting
from humble_courier.ui.widgets.marks import triangle
from humble_courier.ui.widgets.pieces import Pieces

ROW, HIGH = 44.0, 34.0  # pixels at 100 %
MOST = 8  # rows that are drawn; the rest is counted
SIZES = (13, 12, 11, 10, 9)
EXAMPLE = (
    Library("one", "a library of this computer", True, resources=("ASRL/dev/ttyUSB0::INSTR", "GPIB0::5::INSTR")),
    Library("two", "a second library", True, resources=("GPIB0::5::INSTR",)),
    Library("three", "a library that does not load", False, "it wants a driver that is not there"),
)


class LibrariesView(Pieces):
    """`taken` gives the resource that was touched, or that Enter was pressed at."""

    taken = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._libraries: tuple[Library, ...] = EXAMPLE
        self._resources: tuple[str, ...] = ()
        self._example, self._theme = True, Theme()

    def show_libraries(self, found: Sequence[Library], theme: Theme) -> None:
        """Show what was found; without anything the example."""
        self._example, self._theme = not found, theme
        self._libraries = tuple(found) or EXAMPLE
        self._resources = tuple(dict.fromkeys(name for one in self._libraries for name in one.resources))
        told = [f"{one.where}: {one.why_not or ', '.join(one.resources) or 'sees no resource'}" for one in found]
        self.tell("Libraries and what each sees" if found else "An example of libraries and what each sees", told)
        rows = min(MOST, max(len(self._libraries), len(self._resources)))
        self.setFixedHeight(theme.px(ROW * rows + 22))
        self.update()

    def box_of(self, i: int) -> QRectF | None:
        """A library."""
        return self._box(i, left=True)

    def _box(self, i: int, left: bool) -> QRectF:
        t = self._theme
        wide = self.width() * 0.36
        return QRectF(1 if left else self.width() - wide - 1, t.px(20) + i * t.px(ROW), wide, t.px(HIGH))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """An instrument is touched."""
        if event is not None and not self._example:
            for i, name in enumerate(self._resources[:MOST]):
                if self._box(i, left=False).contains(event.position()):
                    self.taken.emit(name)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Enter takes the first instrument of the library one is at."""
        one = self._libraries[self._at] if not self._example else None
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and one is not None and one.resources:
            self.taken.emit(one.resources[0])
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Lines first, boxes upon them."""
        t = self._theme
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(t.font(12))
        painter.setPen(t.color("quiet"))
        heads = (
            ("An example: libraries", "instruments that they see")
            if self._example
            else ("Libraries", "Instruments; touch one")
        )
        for text, left in zip(heads, (True, False), strict=True):
            head = self._box(0, left).translated(0, -t.px(20))
            head.setHeight(t.px(18))
            painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, text)
        for i, one in enumerate(self._libraries[:MOST]):
            self._lines(painter, i, one)
        for i, one in enumerate(self._libraries[:MOST]):
            self._library(painter, self._box(i, left=True), one)
        for i, name in enumerate(self._resources[:MOST]):
            self._place(painter, self._box(i, left=False), name)
        painter.end()

    def _lines(self, painter: QPainter, i: int, one: Library) -> None:
        start = self._box(i, left=True)
        for name in one.resources:
            at = self._resources.index(name)
            if at < MOST:
                painter.setPen(self._pen(shared=self._seen_by(name) > 1))
                end = self._box(at, left=False)
                painter.drawLine(QPointF(start.right(), start.center().y()), QPointF(end.left(), end.center().y()))

    def _seen_by(self, name: str) -> int:
        return sum(name in one.resources for one in self._libraries)

    def _pen(self, shared: bool) -> QPen:
        pen = QPen(self._theme.color("hairline" if self._example else "assumed" if shared else "action"), 2.4)
        if shared:
            pen.setStyle(Qt.PenStyle.DashLine)  # two that both claim it answer in turns, or neither does
        return pen

    def _library(self, painter: QPainter, box: QRectF, one: Library) -> None:
        t = self._theme
        painter.setPen(QPen(t.color("hairline" if self._example else "ink" if one.answers else "contradicted"), 1.4))
        painter.setBrush(t.color("surface"))
        painter.drawRoundedRect(box, 6, 6)
        inner = box.adjusted(t.px(8), 0, -t.px(8), 0)
        if not one.answers:
            r, at = t.px(6), QPointF(box.right() - t.px(12), box.center().y())
            painter.setBrush(t.color("quiet" if self._example else "contradicted"))
            painter.drawPolygon(triangle(at, r))
            inner.adjust(0, 0, -t.px(16), 0)
        painter.setPen(t.color("quiet" if self._example else "ink"))
        text = one.where if one.answers or self._example else f"{one.where}: {one.why_not}"
        draw_fitting(painter, inner, text, t, SIZES)

    def _place(self, painter: QPainter, box: QRectF, name: str) -> None:
        t, shared = self._theme, self._seen_by(name) > 1
        painter.setPen(QPen(t.color("hairline" if self._example else "edge"), 1.4))
        painter.setBrush(t.color("surface" if self._example else "socket"))
        painter.drawRoundedRect(box, 6, 6)
        painter.setPen(t.color("quiet" if self._example else "ink"))
        text = f"{name}, seen by {self._seen_by(name)}" if shared else name
        draw_fitting(painter, box.adjusted(t.px(8), 0, -t.px(8), 0), text, t, SIZES)
