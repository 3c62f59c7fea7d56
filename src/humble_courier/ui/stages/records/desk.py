"""The desk of the Records page: links opened, proofs kept, sheet and drawing and records written."""

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from tempfile import TemporaryDirectory

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog

from humble_courier.app.link.step import Action
from humble_courier.app.records.deciding import pieces
from humble_courier.app.records.link_list import ListedLink
from humble_courier.app.records.merge_file import BothChanged, Whose
from humble_courier.app.records.records import MergeTold, Records, Sorted
from humble_courier.app.records.timeline import between, timeline
from humble_courier.errors import BadInput, CourierError
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.records.stage import LinkPast, RecordsStage
from humble_courier.ui.workplace import Workplace

SUFFIX = {"report": "pdf", "handover": "pdf"}
SHORTEST, MOST_FOUND = 3, 12  # letters from which on the whole records are searched; places that are shown
FILTERS = {
    "yaml": "Link file (*.yaml)",
    "pdf": "PDF (*.pdf)",
    "svg": "SVG (*.svg)",
    "json": "JSON (*.json)",
    "report": "PDF (*.pdf)",
    "handover": "PDF (*.pdf)",
}


class RecordsDesk(StageDesk):
    """Everything of the Records page that is not drawing."""

    _reckoned = pyqtSignal(object)
    _merged = pyqtSignal(object)

    def __init__(self, work: Workplace) -> None:
        self.stage = RecordsStage()
        super().__init__(self.stage, work)
        stage = self.stage
        self._words, self._by = "", Sorted.WORKED_ON
        self._worker, self._over = ThreadPoolExecutor(1, "things"), False
        self._reckoning: Future[None] | None = None
        self._reckoned.connect(self._take_things)
        self._merging: Future[MergeTold] | None = None
        self._merged.connect(self._take_merged)
        self._conflicts: list[BothChanged] = []
        self._listed: list[ListedLink] = []
        stage.conflict.decided.connect(self._decide)
        stage.conflict.back.connect(self._unmerge)
        stage.unmerge.connect(self._unmerge)
        stage.search_kept.connect(lambda words: work.do(lambda: work.opened_records().keep_search(words)))
        stage.report.connect(lambda: self._save("report"))
        stage.handover.connect(lambda: self._save("handover"))
        stage.cleared.connect(lambda: work.do(self._clear))
        stage.printed.connect(lambda: work.do(self._print))
        self._moment = ("", 0.0)  # which link, and which moment of its time is looked at
        stage.moment.connect(self._look_at)
        stage.merge.connect(self._merge)
        stage.copy.connect(self._copy)
        stage.open_link.connect(work.open)
        stage.wanted.connect(self._want)
        stage.looked.connect(lambda _: self.show())
        work.opened.connect(self._another)
        stage.renamed.connect(lambda id_, name: work.do(lambda: self._rename(id_, name)))
        stage.doubled.connect(lambda id_: work.do(lambda: work.opened_records().duplicate(id_)))
        stage.removed.connect(lambda id_: work.do(lambda: self._remove(id_)))
        stage.put_back.connect(lambda: work.do(work.opened_records().put_back))
        stage.keep.connect(lambda: work.do(self.link().keep_proof))
        for kind, signal in (("yaml", stage.yaml), ("pdf", stage.pdf), ("svg", stage.svg), ("json", stage.json)):
            signal.connect(lambda kind=kind: self._save(kind))
        work.wanted.connect(lambda step: self._save("pdf") if step.action is Action.PAPER else None)

    def show(self) -> None:
        """Show the links and the newest proof of the one on the line."""
        link = self.work.link
        can_keep = link is not None and link.evidence.proven and link.live.session is not None
        records = self.work.opened_records()
        current, theme = link.id if link else "", self.work.theme
        self._listed = records.listed(self._words, self._by)
        self.stage.show_links(self._listed, current, records.taken_out, theme)
        self.stage.show_searches(records.searches)
        self.stage.show_merge(self._merging is not None, records.merge_can_go)
        self._show_conflict()
        chosen = self.stage.chosen_id
        past = self._past(chosen)
        self.stage.show_story(past, can_keep and chosen == current, records.left_out, theme)

    def _past(self, chosen: str) -> LinkPast:
        records = self.work.opened_records()
        proofs = records.proofs(chosen)
        if self._moment[0] != chosen:
            self._moment = (chosen, proofs[-1].at if proofs else 0.0)
        at = self._moment[1]
        looked, changes = between(proofs, at)
        since = records.since_last_proof(chosen, self.work.catalog)
        found = records.found(self._words) if len(self._words) >= SHORTEST else []
        parts = {part for proof in proofs for part in proof.chain}
        self._reckon(records)
        known = [one for one in records.things if one.kind == "part" and one.name in parts]
        return LinkPast(
            proofs, timeline(proofs, records.story(chosen)), at, looked, changes, since, known, found[:MOST_FOUND]
        )

    def _reckon(self, records: Records) -> None:
        """What things did, beside the window; shown once it is known."""
        if self._reckoning is None and not self._over and records.things_are_new:
            self._reckoning = self._worker.submit(records.reckon_things)
            self._reckoning.add_done_callback(self._reckoned.emit)

    def _take_things(self, done: "Future[None]") -> None:
        self._reckoning = None
        if not done.cancelled() and not self._over:
            done.result()
            self.work.changed.emit()

    def rest(self) -> None:
        """The window goes."""
        self._over = True
        self._worker.shutdown(wait=True, cancel_futures=True)

    def _look_at(self, at: float) -> None:
        self._moment = (self.stage.chosen_id, at)
        self.show()

    def _merge(self) -> None:
        """Records of another laptop are taken in beside the window; a copy of what was here is made before."""
        chosen, _ = QFileDialog.getOpenFileName(self.stage, "Open", "", FILTERS["json"])
        if chosen:
            self.merge_from(Path(chosen))

    def merge_from(self, path: Path) -> None:
        """Take in a file of records, and say what came of it once it is done."""
        if self._merging is None:
            self.stage.note(f"Taking in {path.name}; work can go on meanwhile")
            self._merging = self._worker.submit(self.work.opened_records().merge, path)
            self._merging.add_done_callback(self._merged.emit)

    def _take_merged(self, done: "Future[MergeTold]") -> None:
        self._merging = None
        if done.cancelled() or self._over:
            return
        error = done.exception()
        if isinstance(error, CourierError):
            self.work.complain(error)
        else:
            told = done.result()
            self._conflicts = list(told.conflicts)
            both = f"; changed on both sides: {', '.join(told.both)}" if told.both else ""
            self.stage.note(f"{told.taken} new pieces taken in, {told.same} links were the same{both}")
        self.work.changed.emit()

    def _show_conflict(self) -> None:
        """The first link that waits for a decision."""
        view = self.stage.conflict
        view.setVisible(bool(self._conflicts))
        if self._conflicts:
            first = self._conflicts[0]
            newest = Whose.THEIRS if first.theirs.updated > first.ours.updated else Whose.OURS
            view.show_conflict(first.ours.name, pieces(first), len(self._conflicts) - 1, newest)

    def _decide(self, chosen: dict[str, Whose]) -> None:
        def act() -> None:
            if self._conflicts:
                self.work.opened_records().decide(self._conflicts[0], chosen)
                self._conflicts.pop(0)

        self.work.do(act)

    def _unmerge(self) -> None:
        def act() -> None:
            gone = self.work.opened_records().take_merge_back()
            self._conflicts = []
            self.stage.note(f"{gone} pieces that were taken in are gone again; what came since then stays")

        self.work.do(act)

    def _copy(self) -> None:
        chosen, _ = QFileDialog.getSaveFileName(self.stage, "Save", "records.zip", "Zip (*.zip)")
        if chosen:
            self.work.do(lambda: self.work.opened_records().back_up(Path(chosen)))

    def _another(self) -> None:
        """Another link is on the line: it is the chosen one."""
        self.stage.chosen_id = self.link().id

    def _want(self, words: str, by: str) -> None:
        self._words, self._by = words, Sorted(by)
        self.show()

    def _rename(self, link_id: str, name: str) -> None:
        self.work.opened_records().rename(link_id, name)
        link = self.work.link
        if link is not None and link.id == link_id:
            link.document.name = name.strip()

    def _remove(self, link_id: str) -> None:
        """Take a link out; the one on the line cannot go while it is there."""
        link = self.work.link
        if link is not None and link.id == link_id:
            raise BadInput("this link is on the line: open another one first, then take it out")
        name = self.work.opened_records().remove(link_id)
        self.stage.note(f"“{name}” is taken out with its proofs; Put back brings it again as long as the program runs")

    def _save(self, kind: str) -> None:
        """Ask for a file and write the sheet, the drawing or the records."""
        chosen, _ = QFileDialog.getSaveFileName(self.stage, "Save", f"link.{SUFFIX.get(kind, kind)}", FILTERS[kind])
        if chosen:
            self.save_to(kind, Path(chosen))

    def save_to(self, kind: str, path: Path) -> None:
        """Write the sheet (`pdf`), the drawing (`svg`), the records (`json`) or the chosen link (`yaml`)."""
        ways: dict[str, Callable[[Path], object]] = {
            "pdf": self._write_sheet,
            "svg": self._write_drawing,
            "json": self.work.opened_records().write,
            "yaml": self._write_link,
            "report": self._write_report,
            "handover": self._write_handover,
        }
        self.work.do(lambda: ways[kind](path))

    def _write_sheet(self, path: Path) -> None:
        from humble_courier.app.records.link_sheet import sheet
        from humble_courier.ui.paper.link_sheet import write_pdf

        link = self.link()
        document, proofs = link.document, link.proofs()
        made = sheet(document.link, self.work.catalog, proofs[-1] if proofs else None, document.name, link.ledger.history)
        write_pdf(made, path)

    def _write_report(self, path: Path) -> None:
        """All links that the list shows, on paper."""
        from humble_courier.ui.paper.sections import write_sections

        records = self.work.opened_records()
        write_sections(*records.report([one.id for one in self._listed], self.work.catalog), path)

    def _write_handover(self, path: Path) -> None:
        """All that a colleague needs to go on with the chosen link."""
        from humble_courier.ui.paper.sections import write_sections

        write_sections(*self.work.opened_records().handover(self.stage.chosen_id, self.work.catalog), path)

    def _clear(self) -> None:
        """Links that are left over go; the one on the line stays."""
        current = self.work.link.id if self.work.link is not None else ""
        records = self.work.opened_records()
        names = [records.remove(one.id) for one in records.stale(self.work.clock.wall()) if one.id != current]
        told = f"Taken out: {', '.join(names)}. Put back brings them again, one by one" if names else "No link is left over"
        self.stage.note(told)

    def _print(self) -> None:
        """The link sheet to a printer that the person chooses."""
        from humble_courier.ui.paper.printing import print_file

        with TemporaryDirectory() as folder:
            path = Path(folder) / "link.pdf"
            self._write_sheet(path)
            print_file(path, self.stage)

    def _write_link(self, path: Path) -> None:
        from humble_courier.app.files import write_whole
        from humble_courier.app.records.taking_in import link_text

        write_whole(path, link_text(self.work.opened_records(), self.stage.chosen_id).encode())

    def _write_drawing(self, path: Path) -> None:
        from humble_courier.ui.paper.link_sheet import write_svg

        write_svg(self.link().document.wire_map(), path)
