"""The frame gives way: where the window is narrow or low for its type, what is around the stage folds.

Theory of operation. Room is counted in pixels of plain type, so that large type folds as a small window does. What we know
folds to a bar above the foot that keeps the one act that is worth most now; one key opens it again. The rail drops its keys,
then scrolls. The line is drawn lower, and gives way on pages that are not about one link.
"""

from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtWidgets import QWidget

from humble_courier.app.link.step import NextStep
from humble_courier.ui.frame import FactsPanel, Header, NextBar, Rail
from humble_courier.ui.widgets.line_view import LineView
from humble_courier.ui.workplace import Workplace

WIDE_ENOUGH = 1150  # for what we know beside the stage
RAIL_WITH_KEYS = 1000
HIGH_ENOUGH = 780  # for the whole line, and for it beside a page that is not about it


@dataclass(frozen=True)
class PageShown:
    """What the window shows: whether a link is on the line, its page is open, and the line has a place on it at all."""

    link: bool = False
    on_link: bool = False
    line: bool = False


class Folding(QObject):
    """Keeps the frame in step with the size of the window."""

    def __init__(self, window: QWidget, work: Workplace, header: Header, line: LineView, rail: Rail) -> None:
        super().__init__(window)
        self._window, self._work = window, work
        self._header, self._line, self._rail = header, line, rail
        self.facts, self.bar = FactsPanel(), NextBar()
        self._shown, self._opened = PageShown(), False
        self.bar.unfolded.connect(self.toggle)
        window.installEventFilter(self)

    @property
    def narrow(self) -> bool:
        """Whether what we know has no room beside the stage."""
        return self._window.width() < self._work.theme.px(WIDE_ENOUGH)

    @property
    def low(self) -> bool:
        """Whether the whole line takes too much of the height."""
        return self._window.height() < self._work.theme.px(HIGH_ENOUGH)

    def toggle(self) -> None:
        """Open what is folded, or fold it again."""
        self._opened = not self._opened
        self.fit()

    def show(self, shown: PageShown) -> None:
        """Another page."""
        self._shown = shown
        self.fit()

    def show_next(self, step: NextStep | None, known: int) -> None:
        """The recommended act, for the bar; `known`: how many facts are folded away."""
        self.bar.show_next(step, known)

    def fit(self) -> None:
        """Lay out for the size that there is."""
        shown, theme = self._shown, self._work.theme
        self._line.setVisible(shown.link and shown.line and (shown.on_link or not self.low))
        self._line.set_compact(self.low)
        self.facts.setVisible(shown.on_link and (not self.narrow or self._opened))
        self.bar.setVisible(shown.on_link and self.narrow)
        self.bar.show_open(self._opened)
        keys = self._window.width() >= theme.px(RAIL_WITH_KEYS)
        self._rail.show_keys(keys, theme)
        self._header.show_keys(keys)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """The window has another size."""
        if watched is self._window and event is not None and event.type() == QEvent.Type.Resize:
            self.fit()
        return super().eventFilter(watched, event)
