"""What is noted at the device of a link: acts done, lamps seen, values read, pictures and files kept."""

from pathlib import Path
from typing import TYPE_CHECKING

from humble_courier.app.contents import Contents
from humble_courier.app.link.document import LinkDocument
from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.ledger import FactLedger
from humble_courier.app.link.notes import Note
from humble_courier.app.prepare.sheet_acts import NOTE_DOWN, acts, lamp_acts
from humble_courier.catalog.load import Catalog

if TYPE_CHECKING:
    from humble_courier.records.store import Store


class Noting:
    """The part of an open link that notes. Everything is kept before a method returns."""

    catalog: Catalog
    document: LinkDocument
    ledger: FactLedger
    evidence: Evidence
    _store: "Store"

    def tick(self, id_: str, done: bool) -> None:
        """Note that an act of the device sheet is done or a lamp of it seen, or is not after all."""
        sheet = self.document.link.sheet
        for act in (*acts(sheet, self.catalog.cautions), *lamp_acts(sheet)) if sheet is not None else ():
            if act.id == id_:
                self.ledger.tick(act, done)

    def notes(self) -> list[Note]:
        """Values to be noted at the device, and those that were, each with its history."""
        read = dict(self.evidence.shown.identity) if self.evidence.shown is not None else {}
        return self.ledger.notes(self.document.link.sheet, read)

    def note(self, name: str, value: str) -> None:
        """Keep a value that was read at the device; once all that the sheet wants are there, that act is done."""
        self.ledger.note(name, value)
        sheet = self.document.link.sheet
        if sheet is not None and all(one.now for one in self.notes() if one.name in sheet.note_down):
            self.tick(NOTE_DOWN, done=True)

    @property
    def contents(self) -> Contents:
        """Where the files of all links lie."""
        return Contents(self._store.path.parent)

    def keep_file(self, path: Path, note: str = "") -> None:
        """Keep a picture or a file with this link. Raises BadInput and MachineRefused."""
        self.ledger.keep_file(path.name, self.contents.keep(path), note)
