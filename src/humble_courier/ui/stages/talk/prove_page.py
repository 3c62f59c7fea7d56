"""Prove the port before the device is blamed: loop-back, round trip, a long transfer; each with its numbers."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QProgressBar, QVBoxLayout, QWidget

from humble_courier.domain.facts import State
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, label
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.steps_view import Mark

Row = tuple[State, str, str]  # how it stands, what, the numbers


class ProvePage(QWidget):
    """`asked` gives what to do: loop-back, latency, long, units."""

    asked = pyqtSignal(str)
    cancelled = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self.says = label("", "caution", wrap=True)
        self.buttons = {
            "units": button("Ask all control units", "main", lambda: self.asked.emit("units"), "Ctrl+Y"),
            "loop-back": button("Prove with a plug", "main", lambda: self.asked.emit("loop-back"), "F5"),
            "latency": button("Time the round trip", "", lambda: self.asked.emit("latency"), "Ctrl+L"),
            "long": button("Long transfer, 32 kB", "", lambda: self.asked.emit("long"), "Ctrl+Shift+L"),
        }
        self.cancel = button("Stop", "", self.cancelled.emit, "Shift+F5")
        self.progress = QProgressBar()
        self.progress.setRange(0, 100)
        row = FlowRow([*self.buttons.values(), self.cancel, self.progress], wide=(self.progress,))
        self._rows = QGridLayout()
        self._rows.setHorizontalSpacing(12)
        self._rows.setVerticalSpacing(6)
        self._rows.setColumnStretch(2, 1)
        self.plugged = QCheckBox("The plug is on (simulated bench)")
        self.plugged.setChecked(True)
        column.addWidget(self.says)
        column.addWidget(self.plugged)
        column.addWidget(row)
        column.addLayout(self._rows)
        column.addStretch(1)
        self._shown: object = None
        self.show_running(None)

    def show_running(self, share: float | None) -> None:
        """How far the proof is (0 to 1), or None where none runs."""
        for made in self.buttons.values():
            made.setEnabled(share is None)
        self.cancel.setVisible(share is not None)
        self.progress.setVisible(share is not None)
        self.progress.setValue(round(100 * (share or 0.0)))

    def show_rows(self, says: str, rows: list[Row], theme: Theme) -> None:
        """What will be sent, and what came of it."""
        self.says.setText(says)
        if (rows, theme) == self._shown:
            return
        self._shown = (rows, theme)
        clear(self._rows)
        for i, (state, what, value) in enumerate(rows):
            self._rows.addWidget(Mark(state, theme), i, 0, Qt.AlignmentFlag.AlignTop)
            self._rows.addWidget(label(what, "quiet"), i, 1, Qt.AlignmentFlag.AlignTop)
            self._rows.addWidget(label(value, "wrong" if state is State.CONTRADICTED else "", wrap=True), i, 2)
