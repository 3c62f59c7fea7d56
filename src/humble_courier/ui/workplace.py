"""What all desks share: the records, the link on the line, the colours, and the ways to the window.

One `do` carries acts out, one `complain` tells what stands in the way, one `go` opens a stage: desks know no window.
"""

import logging
from collections.abc import Callable
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from humble_courier.app.link.stages import Stage
from humble_courier.app.port.sending import Authority
from humble_courier.app.preferences import KeptPreferences, Preferences
from humble_courier.errors import BadInput, CourierError
from humble_courier.ui.theme import Theme

if TYPE_CHECKING:  # they take long to load, and the window is shown before they are needed
    from humble_courier.app.demo.machine import DemoMachine
    from humble_courier.app.link.open_link import OpenLink
    from humble_courier.app.records.records import Records
    from humble_courier.catalog.load import Catalog


class Workplace(QObject):
    """Handed to every desk. `machine` is the demo's simulated one; None where the real one is looked at."""

    changed = pyqtSignal()  # values may be others: what is open is shown anew
    heard = pyqtSignal()  # the session has news; comes from any thread, once until `taken`
    standing = pyqtSignal()  # something else may be sent, or works at a port; comes from any thread
    opened = pyqtSignal()  # another link is on the line
    going = pyqtSignal(object, object)  # a stage and one of its pages (or None)
    wanted = pyqtSignal(object)  # a step that only a person can finish
    device_wanted = pyqtSignal(str)  # a new link, begun with this device
    search_wanted = pyqtSignal()  # a device search, begun at once
    complained = pyqtSignal(str)
    begun = pyqtSignal()  # an act: what stood in the way of the one before is over
    noted = pyqtSignal(str)  # what was done by itself
    step_wanted = pyqtSignal()  # to be in step with the team's records, now
    preferred = pyqtSignal()  # something else is preferred from now on

    def __init__(
        self, catalog: "Catalog", theme: Theme, preferences: KeptPreferences | None = None,
        authority: Authority | None = None,
    ) -> None:  # fmt: skip
        super().__init__()
        self.authority = authority or Authority()
        self.authority.changed = self.standing.emit
        self.clock = self.authority.clock
        self.kept_preferences = preferences or KeptPreferences()
        self.catalog, self.theme = catalog, theme
        self.records: Records | None = None
        self.link: OpenLink | None = None
        self.machine: DemoMachine | None = None
        self._told = False
        self.before = ""  # the link that was on the line before
        self.team_told = ""  # what came of the last step with the team

    def in_step(self, told: str, well: bool, news: bool) -> None:
        """A step with the team is over: `news` came from it."""
        self.team_told = told
        if not well:
            self.complained.emit(told)
        elif news:
            self.noted.emit(told)
        if self.records is not None:
            self.changed.emit()

    @property
    def preferences(self) -> Preferences:
        """What is preferred now."""
        return self.kept_preferences.now

    def prefer(self, **changed: object) -> None:
        """Prefer something else from now on. Raises BadInput, MachineRefused."""
        self.kept_preferences.change(**changed)
        if self.link is not None:
            self.link.first_end = self.preferences.first_end
        self.preferred.emit()

    def do(self, act: Callable[[], object]) -> None:
        """Carry an act out; a mistake is told at the stage that is open, and nothing is lost."""
        self.begun.emit()
        try:
            act()
        except CourierError as error:
            self.changed.emit()
            self.complain(error)
        else:
            self.changed.emit()

    def complain(self, error: CourierError) -> None:
        """One clear message at the place where it belongs."""
        logging.getLogger(__name__).info("%s", error)  # a warning would go to standard error where no log is kept
        self.complained.emit(str(error))

    def go(self, stage: Stage, page: StrEnum | None = None) -> None:
        """Open a stage, and one of its pages."""
        self.going.emit(stage, page)

    def open(self, link_id: str) -> bool:
        """Put a kept link on the line; False where it cannot be opened, and that was said."""
        if self.records is None:
            return False
        before = self.link.id if self.link is not None else ""
        self.stop_all("another link is opened")
        self.close_link()
        try:
            self.link = self.records.open(link_id, self.catalog, self._note, self.authority)
        except CourierError as error:
            self.complain(error)
            return False
        self.link.first_end = self.preferences.first_end
        if before and before != link_id:
            self.before = before
        self.opened.emit()
        return True

    def other_link(self) -> tuple[str, str] | None:
        """Id and name of the link that was on the line before this one, as long as it is there."""
        names = dict(self.records.links()) if self.records is not None and self.before else {}
        return (self.before, names[self.before]) if self.before in names else None

    def switch(self) -> None:
        """Back to the link that was on the line before, and again back."""
        other = self.other_link()
        if other is not None:
            self.open(other[0])

    def close_link(self) -> None:
        """Close the port of the link on the line."""
        if self.link is not None:
            self.link.stop()

    def opened_link(self) -> "OpenLink":
        """The link on the line; raises BadInput while there is none."""
        if self.link is None:
            raise BadInput("no link is on the line: choose one in Records, or begin a new one")
        return self.link

    def take_file(self, path: Path) -> None:
        """Take in a file: a link comes on the line, kits and sheets are kept, others are kept with the link on the line."""
        from humble_courier.app.records.taking_in import is_ours, take_in

        def take() -> None:
            if self.link is not None and not is_ours(path):
                self.link.keep_file(path)
                self.noted.emit(f"A copy of {path.name} is kept with this link; it lies with its device")
                return
            taken = take_in(path, self.opened_records(), self.catalog)
            if taken.link_id is not None:
                self.open(taken.link_id)
            self.noted.emit(taken.told)

        self.do(take)

    def stop_all(self, why: str) -> bool:
        """Nothing is sent any more, and nothing works at a port: the one way for every key, button and change of place."""
        stopped = self.authority.stop_all(why)
        if self.link is not None:
            self.link.live.disarm()  # what was to be said by itself is forgotten too
        return stopped

    def _note(self) -> None:
        """Called from the session's thread for every piece that comes: many pieces make one signal."""
        if not self._told:
            self._told = True
            self.heard.emit()

    def taken(self) -> None:
        """What was heard so far is taken in: the next piece is news again."""
        self._told = False

    @property
    def marks(self) -> list[str]:
        """What stands in the way of keeping things, in a few words each."""
        return self.records.marks if self.records is not None else []

    def opened_records(self) -> "Records":
        """The records; raises BadInput while they are not open."""
        if self.records is None:
            raise BadInput("the records are not open")
        return self.records
