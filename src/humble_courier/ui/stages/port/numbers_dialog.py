"""Numbers for old programs: each adapter with its number and what its program accepts; the answer below follows."""

from collections.abc import Callable

from PyQt6.QtWidgets import QDialog, QGridLayout, QLineEdit, QSpinBox, QVBoxLayout, QWidget

from humble_courier.app.port.numbers import HIGHEST, NumberNeed
from humble_courier.errors import CourierError
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, label

Told = tuple[str, list[tuple[str, str]]]


class NumbersDialog(QDialog):
    """`adapters` are (what it is called, its number now, what its program accepts); 0 where there is none."""

    def __init__(
        self, parent: QWidget, adapters: list[NumberNeed], tell: Callable[[list[NumberNeed], str], Told], theme: Theme
    ) -> None:
        super().__init__(parent)
        self._adapters, self._tell = adapters, tell
        self.setWindowTitle("Numbers for old programs")
        self.setMinimumWidth(theme.px(640))
        column = QVBoxLayout(self)
        hint = "Programs that accept low port numbers only: say what each accepts, and what holds a number already."
        column.addWidget(label(hint, "quiet", wrap=True))
        grid = QGridLayout()
        for at, text in enumerate(("Adapter", "Number now", "Its program accepts up to")):
            grid.addWidget(label(text, "small"), 0, at)
        self.spins: list[tuple[QSpinBox, QSpinBox]] = []
        for row, need in enumerate(adapters, start=1):
            grid.addWidget(label(need.adapter), row, 0)
            pair = self._spin(need.number, "none"), self._spin(need.highest, "any number")
            for at, spin in enumerate(pair, start=1):
                spin.setAccessibleName(f"{need.adapter}: {(('number now'), ('highest accepted'))[at - 1]}")
                grid.addWidget(spin, row, at)
            self.spins.append(pair)
        column.addLayout(grid)
        self.reserved = QLineEdit()
        self.reserved.setAccessibleName("Numbers that something else occupies")
        self.reserved.setPlaceholderText("Numbers that something else occupies, as in 1, 3")
        self.reserved.textChanged.connect(lambda _: self._show())
        column.addWidget(self.reserved)
        self.headline = label("", "headline", wrap=True)
        column.addWidget(self.headline)
        self.steps = QVBoxLayout()
        column.addLayout(self.steps)
        column.addWidget(button("Close", "main", self.close, "Esc"))
        self._show()

    def _spin(self, value: int, none: str) -> QSpinBox:
        spin = QSpinBox()
        spin.setRange(0, HIGHEST)
        spin.setSpecialValueText(none)
        spin.setValue(value)
        spin.valueChanged.connect(lambda _: self._show())
        return spin

    def _show(self) -> None:
        needs = [
            NumberNeed(need.adapter, now.value(), most.value())
            for need, (now, most) in zip(self._adapters, self.spins, strict=True)
        ]
        clear(self.steps)
        try:
            headline, steps = self._tell(needs, self.reserved.text())
        except CourierError as error:
            self.headline.setText(str(error))
            return
        self.headline.setText(headline)
        for number, (do, why) in enumerate(steps, start=1):
            self.steps.addWidget(label(f"{number}. {do}", "title", wrap=True))
            self.steps.addWidget(label(why, "quiet", wrap=True))
