"""The desk of the Records page: links opened, proofs kept, sheet and drawing and records written."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog

from humble_courier.app.link.step import Action
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.records.stage import RecordsStage
from humble_courier.ui.workplace import Workplace

FILTERS = {"pdf": "PDF (*.pdf)", "svg": "SVG (*.svg)", "json": "JSON (*.json)"}


class RecordsDesk(StageDesk):
    """Everything of the Records page that is not drawing."""

    def __init__(self, work: Workplace) -> None:
        self.stage = RecordsStage()
        super().__init__(self.stage, work)
        stage = self.stage
        stage.open_link.connect(work.open)
        stage.keep.connect(lambda: work.do(self.link().keep_proof))
        for kind, signal in (("pdf", stage.pdf), ("svg", stage.svg), ("json", stage.json)):
            signal.connect(lambda kind=kind: self._save(kind))
        work.wanted.connect(lambda action: self._save("pdf") if action is Action.PAPER else None)

    def show(self) -> None:
        """Show the links and the newest proof of the one on the line."""
        link = self.work.link
        can_keep = link is not None and link.evidence.proven and link.live.session is not None
        proofs = link.proofs() if link is not None else []
        records = self.work.opened_records()
        self.stage.show_records(records.links(), link.id if link else "", proofs, can_keep, records.left_out)

    def _save(self, kind: str) -> None:
        """Ask for a file and write the sheet, the drawing or the records."""
        chosen, _ = QFileDialog.getSaveFileName(self.stage, "Save", f"link.{kind}", FILTERS[kind])
        if chosen:
            self.save_to(kind, Path(chosen))

    def save_to(self, kind: str, path: Path) -> None:
        """Write the sheet (`pdf`), the drawing (`svg`) or the records (`json`)."""
        ways: dict[str, Callable[[Path], object]] = {
            "pdf": self._write_sheet,
            "svg": self._write_drawing,
            "json": self.work.opened_records().write,
        }
        self.work.do(lambda: ways[kind](path))

    def _write_sheet(self, path: Path) -> None:
        from humble_courier.app.records.link_sheet import sheet
        from humble_courier.ui.paper.link_sheet import write_pdf

        link = self.link()
        document, proofs = link.document, link.proofs()
        write_pdf(sheet(document.link, self.work.catalog, proofs[-1] if proofs else None, document.name), path)

    def _write_drawing(self, path: Path) -> None:
        from humble_courier.ui.paper.link_sheet import write_svg

        write_svg(self.link().document.wire_map(), path)
