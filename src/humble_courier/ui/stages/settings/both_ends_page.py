"""Both ends side by side: where each setting is made, what differs, what that looks like, which end to change."""

from PyQt6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from humble_courier.app.settings.both_ends import SECOND_PLACE, MatchRow
from humble_courier.domain.facts import State
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import clear, label
from humble_courier.ui.widgets.steps_view import Mark


class BothEndsPage(QWidget):
    """One line a setting; those that differ say what they look like and what to do."""

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(18)
        self._grid.setVerticalSpacing(8)
        self._grid.setColumnStretch(4, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.addLayout(self._grid)
        self.second = label(SECOND_PLACE, "quiet", wrap=True)
        column.addSpacing(8)
        column.addWidget(self.second)
        column.addStretch(1)
        self._shown: object = None

    def show_rows(self, rows: list[MatchRow], theme: Theme) -> None:
        """Show the comparison."""
        if self._shown == (rows, theme):
            return
        self._shown = (rows, theme)
        clear(self._grid)
        heads = ("", "Setting", "Computer", "Device", "Set at the device by")
        for at, text in enumerate(heads):
            self._grid.addWidget(label(text, "small"), 0, at)
        line = 1
        for row in rows:
            self._grid.addWidget(Mark(State.CONTRADICTED if row.differs else State.PROVEN, theme), line, 0)
            role = "wrong" if row.differs else ""
            for at, text in enumerate((row.setting, row.computer, row.device), start=1):
                self._grid.addWidget(label(text, "title" if at == 1 else role), line, at)
            self._grid.addWidget(label(row.device_by, "quiet", wrap=True), line, 4)
            line += 1
            if row.differs:
                told = f"Looks like: {row.looks}. {row.change}"
                self._grid.addWidget(label(told, "", wrap=True), line, 1, 1, 4)
                line += 1
