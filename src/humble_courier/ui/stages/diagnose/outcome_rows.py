"""The outcomes of a check as keys, each with what would be left of the causes after it."""

from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from humble_courier.app.diagnose.advice import ActTold, OutcomeTold
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, label
from humble_courier.ui.widgets.share_bar import ShareBar

KEY_WIDTH = 184  # pixels at 100 %: the widest words of a key in two lines
ENDS = "The link works then."


class OutcomeRows(QWidget):
    """`chosen` gives the id of an outcome; `mended` whether the device answers after a mend."""

    chosen = pyqtSignal(str)
    mended = pyqtSignal(bool)

    def __init__(self) -> None:
        super().__init__()
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(6)
        self.keys: list[QPushButton] = []
        self._shown: object = None

    def show_none(self) -> None:
        """Nothing is asked at this moment."""
        self._shown, self.keys = None, []
        clear(self._rows)

    def show_act(self, act: ActTold, theme: Theme) -> None:
        """Show the outcomes of a check, or the two of a mend."""
        if self._shown == (act, theme):
            return
        self._shown, self.keys = (act, theme), []
        clear(self._rows)
        if not act.is_check:
            self._row("It answers now", partial(self.mended.emit, True), 1, None, theme, "Then it was this.")
            self._row("Still no answer", partial(self.mended.emit, False), 2, None, theme, "Then it is something else.")
        for number, one in enumerate(act.outcomes, start=1):
            self._row(one.says, partial(self.chosen.emit, one.id), number, one, theme, ENDS if one.ends else "")

    def _row(self, words: str, press: object, number: int, outcome: OutcomeTold | None, theme: Theme, told: str) -> None:
        frame = QFrame()
        frame.setProperty("role", "card")
        row = QHBoxLayout(frame)
        row.setContentsMargins(8, 6, 8, 6)
        row.setSpacing(12)
        key = button(_two_lines(words), "main", press, f"Alt+{number}")  # type: ignore[arg-type]
        key.setFixedWidth(theme.px(KEY_WIDTH))
        key.setAccessibleName(words)
        key.setProperty("rows", "two")
        self.keys.append(key)
        row.addWidget(key, 0, Qt.AlignmentFlag.AlignVCenter)
        if outcome is None or outcome.ends:
            chance = f" Now {outcome.chance:.0%} likely." if outcome is not None else ""
            row.addWidget(label(told + chance, "", wrap=True), 1)
        else:
            row.addLayout(self._leads(outcome, theme), 1)
        self._rows.addWidget(frame)

    def _leads(self, outcome: OutcomeTold, theme: Theme) -> QGridLayout:
        """What leads after an outcome."""
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(0, 1)
        for line, (says, share) in enumerate(outcome.leads):
            grid.addWidget(label(says, "" if line == 0 else "small", wrap=True), line, 0)
            grid.addWidget(label(f"{share:.0%}", "" if line == 0 else "small"), line, 1)
            grid.addWidget(ShareBar(share, theme, leads=line == 0), line, 2)
        return grid


def _two_lines(words: str) -> str:
    """Words of a key, broken where they are long."""
    if len(words) <= 18:
        return words
    at = min((i for i, sign in enumerate(words) if sign == " "), key=lambda i: abs(i - len(words) / 2), default=0)
    return f"{words[:at]}\n{words[at + 1 :]}" if at else words
