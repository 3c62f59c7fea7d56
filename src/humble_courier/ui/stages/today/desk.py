"""The desk of Today: plans in the records, the bag reckoned beside the window, each better one shown."""

import datetime
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog

from humble_courier.app.files import write_whole
from humble_courier.app.kit.contents import KitPart as KitPart
from humble_courier.app.kit.contents import parts_of
from humble_courier.app.today.before_leaving import before_leaving
from humble_courier.app.today.day_document import day_sheet, visit_sheet
from humble_courier.app.today.kept_day import PlannedDay, TodayPlan
from humble_courier.app.today.packing import BagFound, Packer, Packing, packing
from humble_courier.domain.facts import State
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.today.bag_tiles import BagTile
from humble_courier.ui.stages.today.day_line import DayPlace
from humble_courier.ui.stages.today.stage import TodayStage
from humble_courier.ui.workplace import Workplace

SECONDS = 60.0  # of looking for the least bag; a person may take what there is sooner


class TodayDesk(StageDesk):
    """Shows the kept day; whatever changes it, or the kit, is packed anew."""

    _laid = pyqtSignal(object, object, object, object)
    _better = pyqtSignal(object, object)
    _packed = pyqtSignal(object, object)

    def __init__(self, work: Workplace) -> None:
        self.stage = TodayStage()
        super().__init__(self.stage, work)
        self._workers = ThreadPoolExecutor(1, "bag")
        self._key: object = None
        self._planned: PlannedDay | None = None
        self._packing: Packing | None = None
        self._found: BagFound | None = None
        self._packer: Packer | None = None
        self._job: object = None
        self._safe = False  # the bag that is shown is what was asked for
        self._lone: tuple[BagFound, dict[str, list[str]]] | None = None
        self.solving = self._over = False
        self._current, self._lit = 0, ""
        stage = self.stage
        stage.asked.connect(lambda sentence: work.do(lambda: self._add(sentence)))
        stage.spare_wanted.connect(lambda on: work.do(lambda: self._plan().want_spare(on)))
        stage.ticked.connect(lambda what, on: work.do(lambda: self._plan().tick(what, on)))
        stage.moved.connect(lambda by: work.do(lambda: self._move(by)))
        stage.taken_out.connect(lambda: work.do(self._take_out))
        stage.line.chosen.connect(self._choose)
        stage.bag.touched.connect(self._touch)
        stage.paper.connect(lambda: work.do(self._paper))
        stage.calendar.connect(lambda: work.do(self._calendar))
        stage.cancelled.connect(self.halt)
        self._laid.connect(self._lay_out)
        self._packed.connect(self._take)
        self._better.connect(self._improve)

    def _plan(self) -> TodayPlan:
        return self.work.opened_records().today

    # What is shown

    def show(self) -> None:
        """Show the day; where it changed the bag is reckoned anew."""
        plan, theme = self._plan(), self.work.theme
        self._pack(plan)
        if not plan.kept.visits or self._planned is None:
            first = "Say what is done, and where: the bag and what to do before leaving follow from that."
            self.stage.say("No visit is planned yet", first)
            self.stage.show_day([], 0, False, False, theme)
            self.stage.show_bag([], "", "", theme)
            self.stage.show_side([], [], None)
            return
        self._current = min(self._current, len(plan.kept.visits) - 1)
        made = self._packing
        wait = "The best chains of every link are looked for; nothing else has to wait."
        self.stage.say(*(self._headline(made) if made is not None else ("Packing the bag", wait)))
        self.stage.show_day(self._places(), self._current, plan.kept.spare, self.solving, theme)
        self.stage.show_bag(self._tiles(), self._lit, self._told(), theme)
        sheet = visit_sheet(self._planned.day.visits[self._current], [], self.work.catalog)
        acts = before_leaving(self._planned.day, made) if made is not None else []
        self.stage.show_side(acts, plan.kept.done, sheet)

    def _pack(self, plan: TodayPlan) -> None:
        """Begin to pack where the day or the kit is another one."""
        kit = self.work.opened_records().bag.kit
        key = (plan.kept.visits, plan.kept.spare, kit)
        if key == self._key or self._over:
            return
        self._key, self._lit = key, ""
        self.halt()
        self._planned = plan.planned(self.work.catalog)
        self._packing, self._packer, self._found = None, None, None
        self.solving, job = bool(plan.kept.visits), object()
        self._job = job
        if self.solving:
            parts, spare = parts_of(kit, self.work.catalog), plan.kept.spare
            working = self._workers.submit(self._work_out, job, self._planned, parts, spare)
            working.add_done_callback(lambda done: self._packed.emit(job, done))

    def _work_out(self, job: object, planned: PlannedDay, parts: list[KitPart], spare: bool) -> BagFound | None:
        """Beside the window: the chains, a bag at once, then better ones."""
        made = packing(planned.day, parts, self.work.catalog)
        packer = Packer(made.problem, spare)
        if self._over or job is not self._job:
            return None
        self._packer = packer  # from now on it can be stopped
        self._laid.emit(job, made, packer, packer.first)
        return packer.solve(SECONDS, lambda one: self._better.emit(job, one))

    def _lay_out(self, job: object, made: Packing, packer: Packer, first: BagFound | None) -> None:
        if job is self._job:
            self._packing, self._packer, self._found = made, packer, first
            self.work.changed.emit()

    def _improve(self, job: object, found: BagFound) -> None:
        if job is self._job:
            self._found = found
            self.work.changed.emit()

    def _take(self, job: object, done: "Future[BagFound | None]") -> None:
        if job is not self._job or done.cancelled():
            return
        found, self.solving = done.result(), False
        self._safe = found is not None
        self._found = found or self._found  # where it was stopped, or none outlives a failure, the first one serves still
        self.work.changed.emit()

    def _headline(self, made: Packing) -> tuple[str, str]:
        packer, found = self._packer, self._found
        assert packer is not None and self._planned is not None, "a day that is shown is packed"
        served, every = len(made.links), len(made.links) + len(made.lacking)
        lost = f" Not in the records any more: a link of {', '.join(self._planned.lost)}." if self._planned.lost else ""
        if found is None:
            why = "Still looking." if self.solving else "The pieces that meet, or that stay behind, are too few."
            return "No bag of this kit serves the day", f"{why}{lost}"
        pieces = int(found.bag.sum())
        whom = f"all {every} links" if served == every else f"{served} of {every} links"
        wanted = packer.spare and not self.solving
        spare = ", and any one of them may fail" if wanted and self._safe and not packer.unsafe else ""
        kept = f" {len(packer.unsafe)} of the links have no second way." if wanted and packer.unsafe else ""
        kept += " No bag was found in which any one piece may fail." if wanted and not self._safe else ""
        much = f"{made.grams(found.bag) / 1000:.1f} kg"
        proven = "Proven to be the fewest." if found.optimal else f"At most {found.gap:.0%} above the fewest."
        more = f" {every - served} want what is bought or built first, see below." if served < every else ""
        told = f"{much}. {'Looking for fewer. ' if self.solving else ''}{proven if found.bound else ''}{more}{kept}{lost}"
        serve = "piece serves" if pieces == 1 else "pieces serve"
        return f"{pieces} {serve} {whom}{spare}", told.replace("  ", " ")

    def _places(self) -> list[DayPlace]:
        assert self._planned is not None, "only shown where there is a day"
        made = self._packing
        lacking = {link.visit for link, _ in made.lacking} if made is not None else set()
        lit = self._served_by(self._lit)
        found = []
        for number, visit in enumerate(self._planned.day.visits):
            what = " · ".join(link.name for link in visit.links) or "no link is named"
            when = f"{visit.model.at} · {visit.minutes} min" if visit.model.at else f"{visit.minutes} min"
            known = bool(visit.links) and made is not None
            state = State.CONTRADICTED if number in lacking else State.PROVEN if known else State.UNKNOWN
            found.append(DayPlace(visit.model.id, when, what, state, number in lit))
        return found

    def _served_by(self, part: str) -> set[int]:
        """Visits that a part serves in the bag as it is."""
        if self._found is None or self._packing is None or not part:
            return set()
        chains = zip(self._packing.links, self._packing.chosen(self._found.bag), strict=True)
        return {link.visit for link, chain in chains if part in chain}

    def _tiles(self) -> list[BagTile]:
        if self._found is None or self._packing is None or self._planned is None:
            return []
        made, visits = self._packing, self._planned.day.visits
        lone = self._lost()
        found = []
        for many, piece in zip(self._found.bag, made.kit, strict=True):
            if many:
                serves = ", ".join(visits[n].model.id for n in sorted(self._served_by(piece.part.id))) or "spare"
                ends = tuple((end.connector.family, end.connector.gender.value == "socket") for end in piece.part.ends[:2])
                name = piece.part.name + (f" ×{many}" if many > 1 else "")
                found.append(BagTile(piece.part.id, name, serves, ends, piece.part.id in lone))
        return found

    def _lost(self) -> dict[str, list[str]]:
        """What is lost without each piece of the bag as it is; reckoned once for each bag."""
        assert self._packing is not None and self._found is not None, "only asked of a bag"
        if self._lone is None or self._lone[0] is not self._found:
            self._lone = (self._found, self._packing.fails_without(self._found.bag))
        return self._lone[1]

    def _told(self) -> str:
        """What is lost without the piece that was touched."""
        if not self._lit or self._found is None or self._packing is None:
            return "Touch a piece: the places that it serves light up, and what fails without it is told."
        lost = self._lost().get(self._lit)
        name = self.work.catalog.part_entries[self._lit].name if self._lit in self.work.catalog.part_entries else self._lit
        if lost:
            return f"{name} fails: “{'” and “'.join(lost)}” cannot be served any more."
        return f"{name} fails: every link still has a chain out of this bag."

    # What people do

    def _add(self, sentence: str) -> None:
        made = self._plan().add(sentence)
        self._current = len(self._plan().kept.visits) - 1
        self.stage.sentence.clear()
        if not made.links:
            self.stage.problem(f"no link of the records is meant by that; {made.place} stands in the day without one")

    def _move(self, by: int) -> None:
        self._current = self._plan().move(self._current, by)

    def _take_out(self) -> None:
        self._plan().take_out(self._current)
        self._current = max(0, self._current - 1)

    def _choose(self, number: int) -> None:
        self._current = number
        self.work.changed.emit()

    def _touch(self, part: str) -> None:
        self._lit = "" if part == self._lit else part
        self.work.changed.emit()

    def _paper(self) -> None:
        from humble_courier.ui.paper.day_sheet import write_day

        chosen, _ = QFileDialog.getSaveFileName(self.stage, "Save", "day.pdf", "PDF (*.pdf)")
        if chosen and self._planned is not None and self._packing is not None:
            write_day(day_sheet(self._planned.day, self._packing, self._found, self.work.catalog), Path(chosen))

    def _calendar(self) -> None:
        from humble_courier.app.today.calendar import as_ics

        chosen, _ = QFileDialog.getSaveFileName(self.stage, "Save", "day.ics", "iCalendar (*.ics)")
        if chosen and self._planned is not None:
            write_whole(Path(chosen), as_ics(self._planned.day, datetime.date.today()))

    def halt(self) -> None:
        """Take the bag as it is."""
        if self._packer is not None and self.solving:
            self._packer.stop()

    def rest(self) -> None:
        """The window goes."""
        self._over = True
        self.halt()
        self._workers.shutdown(wait=True, cancel_futures=True)
