"""The desk of the Prepare stage: acts of the device sheet, and what was ticked, noted and kept."""

from pathlib import Path

from PyQt6.QtCore import QUrl
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QFileDialog

from humble_courier.app.link.kept_files import KeptFile
from humble_courier.app.prepare.computer_fit import this_computer, wants
from humble_courier.errors import BadInput
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.prepare.stage import PrepareStage
from humble_courier.ui.workplace import Workplace


class PrepareDesk(StageDesk):
    """Acts and ticks, values noted, pictures kept, what the device's program wants of this computer."""

    def __init__(self, work: Workplace) -> None:
        self.stage = PrepareStage()
        super().__init__(self.stage, work)
        self.stage.ticked.connect(lambda act, done: work.do(lambda: self.link().tick(act, done)))
        self.stage.notes.noted.connect(lambda name, value: work.do(lambda: self.link().note(name, value)))
        self.stage.files.wanted.connect(self._choose)
        self.stage.files.opened.connect(lambda file: work.do(lambda: self._open(file)))
        self.stage.files.removed.connect(lambda file: work.do(lambda: self.link().ledger.take_out(file)))

    def show(self) -> None:
        """Show the acts of this link's device."""
        link, work = self.link(), self.work
        sheet, stage = link.document.link.sheet, self.stage
        proven = link.evidence.proven
        stage.show_sheet(sheet, work.catalog.cautions, link.ledger.ticked(), work.preferences.region, proven)
        stage.show_site(work.preferences.cautions)
        used = link.profiles.profile
        here = this_computer((used.driver or "") if used is not None else "", link.document.link.address or "")
        stage.show_wants(wants(sheet, here, link.document.link.device_settings) if sheet is not None else [], work.theme)
        stage.show_notes(link.notes())
        stage.files.show_files(link.ledger.files(), link.contents.path, work.theme)

    def _choose(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self.stage, "Keep a picture or a file")
        if chosen:
            self.work.do(lambda: self.link().keep_file(Path(chosen)))

    def _open(self, file: KeptFile) -> None:
        """With the program that the system has for such files."""
        path = self.link().contents.path(file.content)
        if not path.is_file():
            raise BadInput(f"the copy of {file.name} is not here: take in the records of the other laptop as a zip file")
        if not QDesktopServices.openUrl(QUrl.fromLocalFile(str(path))):
            raise BadInput(f"no program of this computer opens {file.name}; it lies in {path}")
