"""A link that was changed on both sides: its pieces side by side, each with the side that shall hold."""

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QFrame, QGridLayout, QRadioButton, QVBoxLayout

from humble_courier.app.records.deciding import DifferingPiece
from humble_courier.app.records.merge_file import Whose
from humble_courier.ui.widgets.basics import button, clear, label
from humble_courier.ui.widgets.flow import FlowRow


class ConflictView(QFrame):
    """`decided` gives the chosen side of each piece; `back` wants the whole merge taken back."""

    decided = pyqtSignal(object)
    back = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("role", "card")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 12, 12)
        self.title = label("", "title", wrap=True)
        column.addWidget(self.title)
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(16)
        self.grid.setColumnStretch(0, 1)
        self.grid.setColumnStretch(1, 1)
        column.addLayout(self.grid)
        self.keep = button("Keep these pieces", "main", self._decide)
        self.undo = button("Take the whole merge back", "", self.back.emit)
        column.addWidget(FlowRow([self.keep, self.undo]))
        self.chosen: dict[str, Whose] = {}
        self.choices: dict[tuple[str, Whose], QRadioButton] = {}
        self._shown: object = None
        self.hide()

    def show_conflict(self, name: str, pieces: Sequence[DifferingPiece], left: int, newest: Whose) -> None:
        """Show one. `left`: how many links wait after it; `newest`: the side that holds as long as nobody decides."""
        if self._shown == (name, tuple(pieces), left):
            return
        self._shown = (name, tuple(pieces), left)
        more = f"; {left} more after this one" if left else ""
        self.title.setText(f"{name} was changed on both sides{more}. Which of each holds?")
        clear(self.grid)
        self.choices = {}
        for column, text in ((0, "on this computer"), (1, "in what was taken in")):
            self.grid.addWidget(label(text, "quiet", wrap=True), 0, column)
        self.chosen = {piece.place: newest for piece in pieces}
        for row, piece in enumerate(pieces, start=1):
            self.grid.addWidget(label(piece.place.replace(".", ", "), "small"), 2 * row - 1, 0, 1, 2)
            group = QButtonGroup(self)
            for column, side, text in ((0, Whose.OURS, piece.ours), (1, Whose.THEIRS, piece.theirs)):
                made = QRadioButton(text.replace("&", "&&"))
                made.setAccessibleName(f"{piece.place}: {side.value}, {text}")
                made.setChecked(side is newest)
                made.clicked.connect(partial(self._choose, piece.place, side))
                group.addButton(made)
                self.grid.addWidget(made, 2 * row, column)
                self.choices[piece.place, side] = made

    def _choose(self, place: str, side: Whose, _on: bool = True) -> None:
        self.chosen[place] = side

    def _decide(self) -> None:
        self.decided.emit(dict(self.chosen))
