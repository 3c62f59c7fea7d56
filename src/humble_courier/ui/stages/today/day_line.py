"""The visits of the day in their order, as places on a line; the one that is open is filled."""

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from humble_courier.domain.facts import State
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.fitting import draw_fitting
from humble_courier.ui.widgets.marks import draw_state

WIDE, HIGH, GAP = 148, 40, 28  # pixels at 100 %: of a place, and between two
TOP, ROW = 16, 92


@dataclass(frozen=True)
class DayPlace:
    """A visit: its name, when and how long, what is done there, and whether the bag serves it."""

    name: str
    when: str
    what: str
    state: State
    lights: bool = False


class DayLine(QWidget):
    """`chosen` gives the number of a visit."""

    chosen = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self._places: list[DayPlace] = []
        self._current = 0
        self._theme = Theme()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_day(self, places: Sequence[DayPlace], current: int, theme: Theme) -> None:
        """Show the places; `current` is open."""
        self._places, self._current, self._theme = list(places), current, theme
        told = [f"{n}. {one.name}, {one.when}, {one.what}, {one.state.value}" for n, one in enumerate(places, start=1)]
        self.setAccessibleName(f"The day: {'; '.join(told)}" if told else "The day, without a visit")
        self._claim()
        self.update()

    def _in_row(self) -> int:
        t = self._theme
        return max(1, int((self.width() + t.px(GAP)) // t.px(WIDE + GAP)))

    def _claim(self) -> None:
        rows = -(-len(self._places) // self._in_row())
        self.setFixedHeight(self._theme.px(ROW) * rows)

    def resizeEvent(self, event: object) -> None:
        """As many rows as the width wants."""
        super().resizeEvent(event)  # type: ignore[arg-type]
        self._claim()

    def minimumSizeHint(self) -> QSize:
        """One place wide."""
        return QSize(self._theme.px(WIDE), self._theme.px(ROW))

    def _box(self, number: int) -> QRectF:
        t, many = self._theme, self._in_row()
        row, column = divmod(number, many)
        return QRectF(column * t.px(WIDE + GAP), row * t.px(ROW) + t.px(TOP), t.px(WIDE), t.px(HIGH))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw them."""
        t, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for number, place in enumerate(self._places):
            box = self._box(number)
            painter.setPen(t.color("ink"))
            if number + 1 < len(self._places):
                painter.drawLine(
                    box.center() + QPointF(box.width() / 2, 0), box.center() + QPointF(box.width() / 2 + t.px(GAP), 0)
                )
            open_ = number == self._current
            painter.setBrush(t.color("hairline" if open_ or place.lights else "surface"))
            painter.setPen(t.color("action" if open_ and self.hasFocus() else "ink"))
            painter.drawRoundedRect(box, 7, 7)
            painter.setPen(t.color("ink"))
            self._words(painter, box.adjusted(8, 0, -8, 0), place.name, bold=True)
            draw_state(painter, QPointF(box.center().x(), box.top()), t.px(15), place.state, t)
            painter.setPen(t.color("quiet"))
            below = QRectF(box.left() - t.px(6), box.bottom() + t.px(3), box.width() + t.px(12), t.px(16))
            self._words(painter, below, place.when)
            self._words(painter, below.translated(0, t.px(15)), place.what)
        painter.end()

    def _words(self, painter: QPainter, box: QRectF, text: str, bold: bool = False) -> None:
        draw_fitting(painter, box, text, self._theme, (13, 12, 11, 10, 9, 8, 7)[not bold :], bold)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """A place that is touched is opened."""
        at = event.position() if event is not None else QPointF()
        for number in range(len(self._places)):
            if self._box(number).contains(at):
                self.chosen.emit(number)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and Right go through the day."""
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0) if event is not None else 0
        if step and 0 <= self._current + step < len(self._places):
            self.chosen.emit(self._current + step)
        elif event is not None:
            super().keyPressEvent(event)
