"""The pages of a stage to choose from: buttons in one or two rows, and where these would take more, a list to drop down.

The keys of the pages work either way: a hidden button hears none, so the list has actions of its own for them.
"""

from collections.abc import Callable, Sequence

from PyQt6.QtGui import QAction, QKeySequence, QResizeEvent
from PyQt6.QtWidgets import QComboBox, QPushButton, QVBoxLayout, QWidget

from humble_courier.ui.widgets.basics import ButtonGrid

MOST_ROWS = 2


class PageChooser(QWidget):
    """`chosen` is called with the number of the page. `buttons` press by themselves."""

    def __init__(self, buttons: Sequence[QPushButton], chosen: Callable[[int], object]) -> None:
        super().__init__()
        self._buttons = list(buttons)
        self.grid, self.drop = ButtonGrid(self._buttons), QComboBox()
        self.drop.setAccessibleName("Pages of this stage")
        self._actions = [self._action(number, made, chosen) for number, made in enumerate(self._buttons)]
        for made in self._buttons:
            self.drop.addItem(made.text().replace("\n", "   "))
        self.drop.activated.connect(chosen)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.grid)
        column.addWidget(self.drop)
        self._fit()

    def _action(self, number: int, made: QPushButton, chosen: Callable[[int], object]) -> QAction:
        action = QAction(made.accessibleName(), self)
        action.setShortcut(QKeySequence(made.shortcut()))
        action.triggered.connect(lambda: chosen(number))
        self.addAction(action)
        return action

    def show_chosen(self, number: int) -> None:
        """Mark the page that is open."""
        self._buttons[number].setChecked(True)
        self.drop.setCurrentIndex(number)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Another width may want the other form."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        narrow = self.grid.rows_at(self.width()) > MOST_ROWS
        self.grid.setVisible(not narrow)
        self.drop.setVisible(narrow)
        for action in self._actions:
            action.setEnabled(narrow)
