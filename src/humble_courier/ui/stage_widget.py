"""What every stage has: a headline that answers its question, a line of reason, and room below; some have several pages."""

from collections.abc import Mapping
from enum import StrEnum
from functools import partial
from typing import Generic, TypeVar

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QPushButton, QVBoxLayout, QWidget

from humble_courier.ui.timer import Timer
from humble_courier.ui.widgets.basics import Pages, label, page_button, set_role
from humble_courier.ui.widgets.page_chooser import PageChooser

P = TypeVar("P", bound=StrEnum)
PROBLEM_MS = 8000  # long enough to read one sentence twice


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
        self._reason, self._wrong = "", False
        self._problem = Timer(self, self._calm_down, PROBLEM_MS, once=True)

    def say(self, headline: str, reason: str) -> None:
        """Set headline and reason."""
        self._reason = reason
        self.headline.setText(headline)
        if not self._problem.isActive():
            self.reason.setText(reason)
            self.reason.setVisible(bool(reason))  # an empty line would part the headline from its page

    def problem(self, text: str) -> None:
        """Say what stands in the way, in place of the reason; it stays for its time, whatever is shown anew meanwhile."""
        self.reason.setText(text[:1].upper() + text[1:])
        self.reason.show()
        set_role(self.reason, "role", "wrong")
        self._wrong = True
        self._problem.start()

    def note(self, text: str) -> None:
        """Say what was done, in place of the reason, for the same time."""
        self.reason.setText(text[:1].upper() + text[1:])
        self.reason.show()
        set_role(self.reason, "role", "title")
        self._wrong = False
        self._problem.start()

    def calm(self) -> None:
        """What stood in the way does not any more."""
        self._problem.stop()
        self._calm_down()

    def begin(self) -> None:
        """Another act begins: what stood in the way of the one before is over, what was done stays said."""
        if self._wrong:
            self.calm()

    def _calm_down(self) -> None:
        set_role(self.reason, "role", "quiet")
        self._wrong = False
        self.reason.setText(self._reason)
        self.reason.setVisible(bool(self._reason))

    def take_focus(self) -> None:
        """The keyboard comes to the first control that there is."""
        at = self.nextInFocusChain()
        while at is not None and at is not self:
            can = at.isEnabled() and at.isVisibleTo(self) and bool(at.focusPolicy() & Qt.FocusPolicy.TabFocus)
            if can and self.isAncestorOf(at):
                at.setFocus(Qt.FocusReason.OtherFocusReason)
                return
            at = at.nextInFocusChain()

    def open_page(self, page: StrEnum) -> None:
        """Open one of the pages; a stage of one page has it open already."""


class PagesStage(StageWidget, Generic[P]):
    """A stage with a row of buttons above, one for each page. `page_chosen` fires after the page has changed."""

    page_chosen = pyqtSignal()

    def lay_out(self, pages: Mapping[P, tuple[str, QWidget]]) -> None:
        """Take in the pages, each with its name; the first one is open."""
        group = QButtonGroup(self)
        self.buttons: dict[P, QPushButton] = {}
        self._widgets: dict[P, QWidget] = {}
        self.pages = Pages()
        for number, (page, (name, widget)) in enumerate(pages.items(), start=1):
            made = page_button(name, f"Ctrl+{number}", partial(self.choose, page))
            made.setCheckable(True)
            group.addButton(made)
            self.buttons[page], self._widgets[page] = made, widget
            self.pages.addWidget(widget)
        self.page = next(iter(pages))
        names = list(self.buttons)
        self.chooser = PageChooser(list(self.buttons.values()), lambda number: self.choose(names[number]))
        self.chooser.show_chosen(0)
        self.column.insertWidget(0, self.chooser)
        self.column.addWidget(self.pages, 1)

    def choose(self, page: P) -> None:
        """Open a page."""
        self.page = page
        self.chooser.show_chosen(list(self.buttons).index(page))
        self.pages.setCurrentWidget(self._widgets[page])
        self.page_chosen.emit()

    def open_page(self, page: StrEnum) -> None:
        """Open a page, where this stage has it."""
        mine = next((one for one in self._widgets if one is page), None)
        if mine is not None:
            self.choose(mine)
