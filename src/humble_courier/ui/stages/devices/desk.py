"""The desk of the Devices page: sheets opened, begun from a relative, judged while they are written, saved."""

from humble_courier.app.devices.own_sheets import begun_from, check, is_own, save
from humble_courier.app.link.choices import sheet_names
from humble_courier.documents.reader import read_text
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.devices.stage import DevicesStage
from humble_courier.ui.workplace import Workplace


class DevicesDesk(StageDesk):
    """Everything of the Devices page that is not drawing."""

    def __init__(self, work: Workplace) -> None:
        self.stage = DevicesStage()
        super().__init__(self.stage, work)
        self.catalog = work.catalog
        self._ids: list[str] = []
        self._at = -1
        self._said = ""
        stage = self.stage
        stage.opened.connect(self._open)
        stage.begun.connect(self._begin)
        stage.changed.connect(self._judge)
        stage.saved.connect(lambda: self.work.do(self._save))

    def show(self) -> None:
        """Show the sheets; the first one is opened where none is yet."""
        names = sheet_names(self.catalog)
        self._ids = [id_ for id_, _, _ in names]
        told = [f"{name}{self._what(id_)}" for id_, name, _ in names]
        self.stage.show_sheets(told, self._at)
        if self._at < 0 and not self.stage.text.toPlainText():
            self._open(0)
        self._say()

    def rest(self) -> None:
        """The window goes."""
        self.stage.rest()

    def _say(self) -> None:
        own = sum(is_own(id_, self.catalog) for id_ in self._ids)
        kinds = sum(self.catalog.is_kind(id_) for id_ in self._ids)
        demo = len(self._ids) - own - kinds
        told = f"{own} of your own, {kinds} kinds to begin from" + (f", {demo} of the demo" if demo else "")
        hint = "What follows from the text stands to the right. A shipped sheet is saved as your own."
        self.stage.say(told, self._said or hint)

    def _what(self, id_: str) -> str:
        if is_own(id_, self.catalog):
            return " (your own)"
        return " (kind)" if self.catalog.is_kind(id_) else ""

    def _open(self, at: int) -> None:
        if 0 <= at < len(self._ids):
            self._at = at
            self.stage.show_sheets(self.stage._rows, at)
            self.work.do(lambda: self.stage.show_text(self._text(self._ids[at])))
            self._judge()

    def _text(self, id_: str) -> str:
        return read_text(self.catalog.sheet_file(id_))

    def _begin(self, at: int) -> None:
        relative = self._ids[at] if 0 <= at < len(self._ids) else None
        self.work.do(lambda: self.stage.show_text(begun_from(relative, self.catalog)))
        self._judge()

    def _judge(self) -> None:
        self._said = ""
        self.stage.show_check(check(self.stage.text.toPlainText(), self.catalog), self.work.theme)

    def _save(self) -> None:
        path = save(self.stage.text.toPlainText(), self.catalog)
        self._said = f"Saved as {path}. It can be picked for a new link."
        ids = [id_ for id_, _, _ in sheet_names(self.catalog)]
        self._at = ids.index(path.stem)
