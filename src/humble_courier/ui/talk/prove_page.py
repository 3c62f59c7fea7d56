"""Prove the port before the device is blamed: loop-back, round trip, a long transfer; each with its numbers."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QProgressBar, QVBoxLayout, QWidget

from humble_courier.app.timings import Figure
from humble_courier.ui.parts import button, clear, label
from humble_courier.ui.steps_view import Mark
from humble_courier.ui.theme import Theme
from humble_courier.units.facts import State


class ProvePage(QWidget):
    """`asked` gives what to do: loop-back, latency, long."""

    asked = pyqtSignal(str)
    cancelled = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self.says = label("", "caution", wrap=True)
        self.buttons = {
            "loop-back": button(self.tr("Prove with a plug"), "main", lambda: self.asked.emit("loop-back"), "F5"),
            "latency": button(self.tr("Time the round trip"), "", lambda: self.asked.emit("latency"), "Ctrl+L"),
            "long": button(self.tr("Long transfer, 32 kB"), "", lambda: self.asked.emit("long"), "Ctrl+Shift+L"),
        }
        self.cancel = button(self.tr("Stop"), "", self.cancelled.emit, "Shift+F5")
        self.progress = QProgressBar()
        self.progress.setRange(0, 100)
        row = QHBoxLayout()
        row.setSpacing(8)
        for made in (*self.buttons.values(), self.cancel):
            row.addWidget(made)
        row.addWidget(self.progress, 1)
        self._figures = QGridLayout()
        self._figures.setHorizontalSpacing(12)
        self._figures.setVerticalSpacing(6)
        self._figures.setColumnStretch(2, 1)
        self.plugged = QCheckBox(self.tr("The plug is on (simulated bench)"))
        self.plugged.setChecked(True)
        column.addWidget(self.says)
        column.addWidget(self.plugged)
        column.addLayout(row)
        column.addLayout(self._figures)
        column.addStretch(1)
        self.show_running(None)

    def show_running(self, share: float | None) -> None:
        """How far the proof is (0 to 1), or None where none runs."""
        for made in self.buttons.values():
            made.setEnabled(share is None)
        self.cancel.setVisible(share is not None)
        self.progress.setVisible(share is not None)
        self.progress.setValue(round(100 * (share or 0.0)))

    def show_figures(self, says: str, figures: list[Figure], theme: Theme) -> None:
        """What will be sent, and what came of it."""
        self.says.setText(says)
        clear(self._figures)
        for i, figure in enumerate(figures):
            state = State.PROVEN if figure.good else State.CONTRADICTED
            self._figures.addWidget(Mark(state, theme), i, 0, Qt.AlignmentFlag.AlignTop)
            self._figures.addWidget(label(figure.what, "quiet"), i, 1, Qt.AlignmentFlag.AlignTop)
            self._figures.addWidget(label(figure.value, "" if figure.good else "wrong", wrap=True), i, 2)
