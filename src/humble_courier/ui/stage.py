"""What every stage has: a headline that answers its question, a line of reason, and room below; some have several acts."""

from collections.abc import Mapping
from enum import StrEnum
from functools import partial
from typing import Generic, TypeVar

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QPushButton, QVBoxLayout, QWidget

from humble_courier.ui.widgets.basics import ButtonGrid, Pages, label
from humble_courier.ui.widgets.basics import act as act_button

A = TypeVar("A", bound=StrEnum)


class StageWidget(QWidget):
    """Base of the stages."""

    def __init__(self) -> None:
        super().__init__()
        self.headline, self.reason = label("", "headline", wrap=True), label("", "quiet", wrap=True)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(20, 14, 20, 12)
        self.column.setSpacing(6)
        self.column.addWidget(self.headline)
        self.column.addWidget(self.reason)

    def say(self, headline: str, reason: str) -> None:
        """Set headline and reason."""
        self.headline.setText(headline)
        self.reason.setText(reason)


class ActsStage(StageWidget, Generic[A]):
    """A stage with a row of acts above, one page each. `act_chosen` fires after the page has changed."""

    act_chosen = pyqtSignal()

    def lay_out(self, acts: Mapping[A, tuple[str, QWidget]]) -> None:
        """Take in the acts, each with its name and page; the first one is open."""
        group = QButtonGroup(self)
        self.acts: dict[A, QPushButton] = {}
        self._acts_pages: dict[A, QWidget] = {}
        self.pages = Pages()
        for number, (act, (name, page)) in enumerate(acts.items(), start=1):
            made = act_button(name, f"Ctrl+{number}", partial(self.choose, act))
            made.setCheckable(True)
            group.addButton(made)
            self.acts[act], self._acts_pages[act] = made, page
            self.pages.addWidget(page)
        self.act = next(iter(acts))
        self.acts[self.act].setChecked(True)
        self.column.insertWidget(0, ButtonGrid(list(self.acts.values())))
        self.column.addWidget(self.pages, 1)

    def choose(self, act: A) -> None:
        """Open the page of an act."""
        self.act = act
        self.acts[act].setChecked(True)
        self.pages.setCurrentWidget(self._acts_pages[act])
        self.act_chosen.emit()
