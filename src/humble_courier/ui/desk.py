"""The desk of a stage: carries intent from its widgets to `app`, and values back. All desks keep one contract."""

from typing import TYPE_CHECKING, Protocol

from PyQt6.QtCore import QObject

from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.workplace import Workplace

if TYPE_CHECKING:
    from humble_courier.app.link.open_link import OpenLink


class Desk(Protocol):
    """What the window asks of a desk; it knows no more of any stage."""

    @property
    def stage(self) -> StageWidget:
        """The widget that is shown."""

    def show(self) -> None:
        """Hand the current values to the stage: it is open, or something has changed."""

    def poll(self) -> None:
        """Time has passed: what moves by itself is shown anew. Called while the stage is open and the port is."""

    def rest(self) -> None:
        """The window goes: stop what runs, and wait for it."""

    def begin(self) -> None:
        """Another act begins."""

    def problem(self, text: str) -> None:
        """Say what stands in the way, at its place."""

    def note(self, text: str) -> None:
        """Say what was done."""


class StageDesk(QObject):
    """A desk that does nothing by itself: what most desks have in common."""

    def __init__(self, stage: StageWidget, work: Workplace) -> None:
        super().__init__(stage)
        self._shown, self.work = stage, work

    def poll(self) -> None:
        """Most stages change only when something is heard."""

    def rest(self) -> None:
        """Most desks have nothing that runs."""

    def problem(self, text: str) -> None:
        """Above the stage."""
        self._shown.problem(text)

    def begin(self) -> None:
        """Another act: what stood in the way of the one before is not said any longer."""
        self._shown.begin()

    def note(self, text: str) -> None:
        """Above the stage."""
        self._shown.note(text)

    def link(self) -> "OpenLink":
        """The link on the line, for what is only asked where there is one."""
        link = self.work.link
        assert link is not None, "only called where a link is on the line"
        return link
