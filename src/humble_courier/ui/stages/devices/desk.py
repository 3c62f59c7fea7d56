"""The desk of the Devices page: sheets found, shown as devices, begun from a relative, judged while written, saved."""

from humble_courier.app.devices.own_sheets import (
    Checked,
    ListedSheet,
    Standing,
    answers,
    begun_from,
    check,
    headline,
    listed,
    save,
)
from humble_courier.app.link.stages import Stage
from humble_courier.documents.device import DevicePort
from humble_courier.documents.reader import read_text
from humble_courier.domain.facts import State
from humble_courier.domain.hardware import Connector, Gender
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.devices.ports_view import DrawnPort
from humble_courier.ui.stages.devices.stage import DevicesStage
from humble_courier.ui.widgets.faces import Face
from humble_courier.ui.widgets.state_list import ListEntry
from humble_courier.ui.workplace import Workplace

STATES = {
    Standing.OWN: State.PROVEN, Standing.SHEET: State.ASSUMED, Standing.KIND: State.UNKNOWN,
    Standing.BROKEN: State.CONTRADICTED,
}  # fmt: skip


class DevicesDesk(StageDesk):
    """Everything of the Devices page that is not drawing."""

    def __init__(self, work: Workplace) -> None:
        self.stage = DevicesStage()
        super().__init__(self.stage, work)
        self.catalog = work.catalog
        self._found: list[ListedSheet] = []
        self._open_id, self._words, self._said = "", "", ""
        self._saved = ""  # the text of the open sheet as it is kept
        self._checked = Checked()
        stage = self.stage
        stage.opened.connect(self._open)
        stage.begun.connect(self._begin)
        stage.changed.connect(self._judge)
        stage.searched.connect(self._search)
        stage.wanted.connect(self._begin_link)
        stage.saved.connect(lambda: self.work.do(self._save))

    def show(self) -> None:
        """Show the sheets; the first one is opened where none is yet."""
        self._list()
        if not self._open_id and not self.stage.text.toPlainText() and self._found:
            self._open(0)
        self._say()

    def rest(self) -> None:
        """The window goes."""
        self.stage.rest()

    def _list(self) -> None:
        self._found = listed(self.catalog, self._words)
        lines = [ListEntry(STATES[one.standing], one.name, one.told) for one in self._found]
        ids = [one.id for one in self._found]
        self.stage.show_sheets(lines, ids.index(self._open_id) if self._open_id in ids else -1, self.work.theme)

    def _search(self, words: str) -> None:
        self._words = words
        self._list()

    def _standing(self) -> str:
        found = next((one.standing for one in listed(self.catalog) if one.id == self._checked.id), None)
        return str(found) if found is not None else "not saved yet"

    def _say(self) -> None:
        sheet = self._checked.sheet
        if sheet is None:
            where = f"Line {self._checked.line} is not right yet" if self._checked.line else "This sheet is not right yet"
            self.stage.say(where, self._said or self._checked.problem)
            return
        told, source = headline(sheet, self._standing())
        self.stage.say(told, self._said or source)

    def _open(self, at: int) -> None:
        if 0 <= at < len(self._found):
            self._open_id = self._found[at].id
            broken = self._found[at].standing is Standing.BROKEN
            self.work.do(self._show_open)
            self._judge()
            self.stage.show_writing(self.stage.writing or broken)

    def _show_open(self) -> None:
        self._saved = read_text(self.catalog.sheet_file(self._open_id))
        self.stage.show_text(self._saved)

    def _begin(self, at: int) -> None:
        relative = self._found[at].id if 0 <= at < len(self._found) else None
        self.work.do(lambda: self.stage.show_text(begun_from(relative, self.catalog)))
        self._open_id = ""
        self.stage.show_writing(True)
        self._judge()

    def _begin_link(self) -> None:
        """A new link with the device that is shown, where its sheet is saved."""
        wanted = self._open_id
        if wanted and self._checked.sheet is not None:
            self.work.go(Stage.NEW_LINK)
            self.work.device_wanted.emit(wanted)

    def _judge(self) -> None:
        self._said = ""
        self._checked = check(self.stage.text.toPlainText(), self.catalog)
        self.stage.show_check(self._checked, self.work.theme)
        sheet = self._checked.sheet
        if sheet is not None:
            ports = [self._drawn(port) for port in (sheet.port, *sheet.other_ports)]
            self.stage.show_ports(ports, answers(sheet), self.work.theme)
        kept = bool(self._open_id) and self.stage.text.toPlainText() == self._saved
        self.stage.begin_link.setEnabled(sheet is not None and kept)
        self._say()

    def _drawn(self, port: DevicePort) -> DrawnPort:
        made = port.connector
        shape = self.catalog.shapes.get((made.family, made.contacts))
        if shape is None:
            return DrawnPort(port, None)
        return DrawnPort(
            port, Face(Connector(made.family, made.contacts, Gender(made.gender)), shape, frozenset(port.signals))
        )

    def _save(self) -> None:
        path = save(self.stage.text.toPlainText(), self.catalog)
        self._open_id, self._saved = path.stem, self.stage.text.toPlainText()
        self._judge()
        self._said = f"Saved as {path}. It can be picked for a new link."
        self._list()
        self._say()
