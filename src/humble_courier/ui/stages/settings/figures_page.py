"""Timing and flow: a few numbers in; an exchange true to time, and the figures of time, flow and clocks out."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from humble_courier.app.amounts import Budget, Turns
from humble_courier.app.settings.timings import Figure, TimingAsked
from humble_courier.domain.facts import State
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import clear, label
from humble_courier.ui.widgets.budget_view import BudgetView
from humble_courier.ui.widgets.steps_view import Mark
from humble_courier.ui.widgets.turns_view import TurnsView, short

LEAST_WIDTH = 110  # pixels: nine digits


class FiguresPage(QWidget):
    """`changed` fires when a number is left; `asked` gives what is typed."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        first = TimingAsked()
        rows = (
            ("count", "Bytes to carry", first.count),
            ("timeout_ms", "Program gives up after, ms", first.timeout_ms),
            ("turnaround_ms", "Device answers after, ms", first.turnaround_ms),
            ("takes_per_s", "Receiver takes, bytes/s", first.takes_per_s),
            ("buffer", "Its buffer, bytes", first.buffer),
        )
        self.fields: dict[str, QLineEdit] = {}
        left = QVBoxLayout()
        left.setSpacing(4)
        for key, text, value in rows:
            field = QLineEdit(f"{value:g}")
            field.setAccessibleName(text)
            field.setMinimumWidth(LEAST_WIDTH)
            field.editingFinished.connect(self.changed.emit)
            self.fields[key] = field
            field.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
            name = label(text, "small")
            name.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
            left.addWidget(name)
            left.addWidget(field)
        left.addStretch(1)
        self._figures = QGridLayout()
        self._figures.setHorizontalSpacing(12)
        self._figures.setVerticalSpacing(5)
        self._figures.setColumnStretch(1, 3)
        self._figures.setColumnStretch(2, 4)
        self.exchange, self.budgets = TurnsView(), BudgetView()
        right = QVBoxLayout()
        right.addWidget(self.exchange)
        right.addWidget(self.budgets)
        right.addSpacing(8)
        right.addLayout(self._figures)
        right.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 4, 0, 0)
        row.setSpacing(28)
        row.addLayout(left)
        row.addLayout(right, 1)
        self._shown: object = None

    def asked(self) -> dict[str, str]:
        """What is typed, by name."""
        return {key: field.text() for key, field in self.fields.items()}

    def show_times(self, exchange: tuple[Turns, ...], budgets: tuple[Budget, ...], gives_up_s: float, theme: Theme) -> None:
        """A question and its answer true to time, and what is filled of the buffer."""
        self.exchange.show_turns(exchange, gives_up_s, f"the program gives up after {short(gives_up_s)}", theme)
        self.budgets.show_budgets(budgets, theme)

    def show_figures(self, blocks: list[tuple[str, list[Figure]]], theme: Theme) -> None:
        """Blocks of figures, each with its title."""
        if self._shown == (blocks, theme):
            return
        self._shown = (blocks, theme)
        clear(self._figures)
        line = 0
        for title, figures in blocks:
            self._figures.addWidget(label(title, "title"), line, 0, 1, 3)
            line += 1
            for figure in figures:
                self._figures.addWidget(Mark(State.PROVEN if figure.good else State.CONTRADICTED, theme), line, 0)
                self._figures.addWidget(label(figure.what, "quiet", wrap=True), line, 1)
                self._figures.addWidget(label(figure.value, "" if figure.good else "wrong", wrap=True), line, 2)
                line += 1
