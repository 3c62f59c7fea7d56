"""A walk through the window in a minute, on the first start: what stands where. It is skipped by one press."""

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QObject, QPoint, QRect, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QFrame, QVBoxLayout, QWidget

from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, label
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.window import Window

WIDTH, GAP = 420, 16  # pixels of plain type


@dataclass(frozen=True)
class Stop:
    """One stop of the walk: what is pointed at, and what is said of it."""

    at: QWidget
    told: str


def stops_of(window: Window) -> list[Stop]:
    """What is shown, in its order."""
    return [
        Stop(window.line, "This is the link, from the program to the device, as it lies on the bench. Touch a place, and "
             "its page opens below. The mark of each place says whether it is proven, assumed, unknown or contradicted."),
        Stop(window.rail, "What is not about one link: today's bag, a new link, your kit, the records. F6 goes back."),
        Stop(window.facts, "What is known, with where it comes from. Below it stands the one act that is worth most now: "
             "Ctrl+Enter does it."),
        Stop(window.foot, "Nothing is sent before you arm it, here. Esc stops everything that sends."),
        Stop(window.header, "It does not work? This finds the check that tells most. F1 opens the manual at the page that "
             "is open. Rest the pointer on a word of the trade, and it is told."),
    ]  # fmt: skip


def walk_once(window: Window) -> "FirstWalk | None":
    """The walk, where it was neither gone nor skipped before; then it is over for good."""
    work = window.work
    if work.preferences.walked or not work.kept_preferences.lasts:
        return None
    made = FirstWalk(window, stops_of(window), work.theme)
    made.over.connect(lambda: work.do(lambda: work.prefer(walked=True)))
    return made


class PointingFrame(QWidget):
    """A frame around what is pointed at; the pointer goes through it."""

    def __init__(self, parent: QWidget, theme: Theme) -> None:
        super().__init__(parent)
        self._theme = theme
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the frame."""
        painter = QPainter(self)
        painter.setPen(QPen(self._theme.color("action"), self._theme.px(3)))
        painter.drawRoundedRect(self.rect().adjusted(2, 2, -3, -3), 8, 8)


class FirstWalk(QFrame):
    """The card of the walk. `over` fires at its end, or when it is skipped."""

    over = pyqtSignal()

    def __init__(self, window: QWidget, stops: Sequence[Stop], theme: Theme) -> None:
        super().__init__(window)
        self._stops, self._theme, self._at = [one for one in stops if one.at.isVisible()], theme, -1
        self._frame = PointingFrame(window, theme)
        self.setProperty("role", "card")
        self.setAutoFillBackground(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 12)
        self.count, self.told = label("", "small"), label("", "", wrap=True)
        self.next = button("Go on", "main", self.go_on)
        self.skip = button("Skip the walk", "", self.end)
        for widget in (self.count, self.told, FlowRow([self.next, self.skip])):
            column.addWidget(widget)
        self.setFixedWidth(theme.px(WIDTH))
        window.installEventFilter(self)
        self.go_on()
        self.next.setFocus()

    def go_on(self) -> None:
        """The next stop; after the last one the walk is over."""
        self._at += 1
        if self._at >= len(self._stops):
            self.end()
            return
        self.count.setText(f"{self._at + 1} of {len(self._stops)}")
        self.told.setText(self._stops[self._at].told)
        self.next.setText("Go on" if self._at + 1 < len(self._stops) else "Begin")
        self.show()
        self._place()

    def end(self) -> None:
        """The card and its frame go."""
        window = self.parentWidget()
        if window is not None:
            window.removeEventFilter(self)
        for widget in (self._frame, self):
            widget.hide()
            widget.deleteLater()
        self.over.emit()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """The window has another size: all is placed anew."""
        if event is not None and event.type() == QEvent.Type.Resize:
            self._place()
        return super().eventFilter(watched, event)

    def _place(self) -> None:
        window = self.parentWidget()
        if window is None or self._at >= len(self._stops):
            return
        target = self._stops[self._at].at
        self.adjustSize()
        seen = QRect(target.mapTo(window, target.rect().topLeft()), target.size()).intersected(window.rect())
        self._frame.setGeometry(seen)
        self._frame.show()
        self._frame.raise_()
        self.move(self._free(window, seen))
        self.raise_()

    def _free(self, window: QWidget, seen: QRect) -> QPoint:
        """Below what is pointed at where there is room, else above it, else in the middle of the window."""
        gap = self._theme.px(GAP)
        x = max(gap, min(seen.center().x() - self.width() // 2, window.width() - self.width() - gap))
        if seen.bottom() + gap + self.height() < window.height():
            return QPoint(x, seen.bottom() + gap)
        if seen.top() - gap - self.height() > 0:
            return QPoint(x, seen.top() - gap - self.height())
        return QPoint((window.width() - self.width()) // 2, (window.height() - self.height()) // 2)
