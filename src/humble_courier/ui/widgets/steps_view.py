"""From the plug to the open port: one step below the other, each with its mark, the failed one with its command."""

from functools import partial

from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QGridLayout, QLabel, QWidget

from humble_courier.app.port.story import StoryStep
from humble_courier.domain.facts import State
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, label
from humble_courier.ui.widgets.marks import draw_state


class Mark(QLabel):
    """A state mark as a widget; its name says the state in a word."""

    def __init__(self, state: State, theme: Theme) -> None:
        super().__init__()
        self._state, self._theme = state, theme
        self.setFixedSize(theme.px(22), theme.px(22))
        self.setAccessibleName(str(state))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the mark."""
        painter = QPainter(self)
        middle = QPointF(self.width() / 2, self.height() / 2)
        draw_state(painter, middle, self._theme.px(15), self._state, self._theme)
        painter.end()


class StepsView(QWidget):
    """The steps. `copied` gives the command that is to be copied: it is shown and copied, never run.

    `asked` gives the one thing that the program changes itself when asked: the latency in ms.
    """

    copied = pyqtSignal(str)
    asked = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(6)
        self._grid.setVerticalSpacing(4)
        self._grid.setColumnStretch(2, 1)
        self._shown: object = None
        self.steps: list[StoryStep] = []

    def show_steps(self, steps: list[StoryStep], theme: Theme) -> None:
        """Show the steps, the first on top."""
        if self._shown == (steps, theme):
            return
        self._shown, self.steps = (steps, theme), steps
        clear(self._grid)
        row = 0
        for step in steps:
            self._grid.addWidget(Mark(step.state, theme), row, 0)
            self._grid.addWidget(label(step.title, "title"), row, 1)
            self._grid.addWidget(label(step.text, "wrong" if step.state is State.CONTRADICTED else "", wrap=True), row, 2)
            row += 1
            if step.remedy:
                command = label(step.remedy, "words", wrap=True)
                command.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
                self._grid.addWidget(command, row, 2)
                copy = button("Copy", "", partial(self.copied.emit, step.remedy))
                copy.setAccessibleName(f"Copy: {step.remedy}")
                self._grid.addWidget(copy, row, 3)
                row += 1
            if step.sets_ms is not None:
                text = f"Set {step.sets_ms} ms now"
                self._grid.addWidget(button(text, "", partial(self.asked.emit, step.sets_ms)), row, 2)
                row += 1
        for line in range(self._grid.rowCount() + 1):
            self._grid.setRowStretch(line, int(line == row))
