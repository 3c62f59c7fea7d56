"""The desk of Today: plans in the records, the bag reckoned beside the window, each better one shown."""

import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QFileDialog

from humble_courier.app.files import write_whole
from humble_courier.app.kit.contents import parts_of
from humble_courier.app.today.bag_words import BagState, headline, said_of, ways_without, without
from humble_courier.app.today.before_leaving import LeavingAct
from humble_courier.app.today.coming_back import told
from humble_courier.app.today.day_document import chains, day_sheet, to_do, visit_sheet
from humble_courier.app.today.kept import Where
from humble_courier.app.today.kept_day import PlannedDay, TodayPlan
from humble_courier.domain.facts import State
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.today.bag_tiles import BagTile
from humble_courier.ui.stages.today.bag_work import BagWork
from humble_courier.ui.stages.today.day_line import DayPlace
from humble_courier.ui.stages.today.stage import TodayStage
from humble_courier.ui.stages.today.visit_page import OpenVisit
from humble_courier.ui.workplace import Workplace

if TYPE_CHECKING:
    from humble_courier.app.today.packing import BagFound


class TodayDesk(StageDesk):
    """Shows the kept day; whatever changes it, or the kit, is packed anew."""

    def __init__(self, work: Workplace) -> None:
        self.stage = TodayStage()
        super().__init__(self.stage, work)
        self.bag = BagWork(work)
        self.bag.changed.connect(work.changed.emit)
        self._key: object = None
        self._planned: PlannedDay | None = None
        self._lone: tuple[BagFound, dict[str, list[str]]] | None = None
        self._todo: tuple[tuple[object, ...], list[LeavingAct]] | None = None  # the machine is looked at once for each bag
        self._current, self._lit = 0, ""
        self._connect()

    def _connect(self) -> None:
        stage, visit, do = self.stage, self.stage.visit, self.work.do
        stage.asked.connect(lambda sentence: do(lambda: self._add(sentence)))
        stage.wanted.connect(lambda name, value: do(lambda: self._plan().want(**{name: value})))
        stage.ticked.connect(lambda what, on: do(lambda: self._plan().tick(what, on)))
        stage.put.connect(lambda where: do(lambda: self._put(where)))
        stage.packed_next.connect(lambda: do(self._pack_next))
        stage.over.connect(lambda: do(self._come_back))
        stage.undone.connect(lambda: do(self._plan().undo))
        stage.line.chosen.connect(self._choose)
        stage.bag.touched.connect(self._touch)
        stage.paper.connect(lambda: do(self._paper))
        stage.calendar.connect(lambda: do(self._calendar))
        stage.from_calendar.connect(lambda: do(self._from_calendar))
        stage.cancelled.connect(self.halt)
        visit.moved.connect(lambda by: do(lambda: self._move(by)))
        visit.taken_out.connect(lambda: do(self._take_out))
        visit.linked.connect(lambda link, there: do(lambda: self._plan().with_link(self._current, link, there)))
        visit.together.connect(lambda on: do(lambda: self._plan().alter(self._current, together=on)))
        visit.lasts.connect(lambda minutes: do(lambda: self._plan().alter(self._current, minutes=minutes or None)))
        visit.noted.connect(lambda text: do(lambda: self._plan().alter(self._current, note=text)))
        visit.opened_link.connect(lambda link: self.work.open(link))

    def _plan(self) -> TodayPlan:
        return self.work.opened_records().today

    @property
    def solving(self) -> bool:
        """Whether the bag is still looked for."""
        return self.bag.solving

    # What is shown

    def show(self) -> None:
        """Show the day; where it changed the bag is reckoned anew."""
        plan, theme, stage = self._plan(), self.work.theme, self.stage
        self._pack(plan)
        state, planned = self.bag.state, self._planned
        if not plan.kept.visits or planned is None:
            first = "Say what is done, and where: the bag and what to do before leaving follow from that."
            owed = [f"Not back from an earlier day: {self._named(one.part)}." for one in plan.kept.owed]
            stage.say("No visit is planned yet", " ".join([first, *owed]))
            stage.show_day([], 0, plan.kept, False, plan.may_undo, theme)
            stage.show_bag([], "", "", theme)
            stage.show_home([])
            stage.show_side([], [], None, theme)
            return
        self._current = min(self._current, len(plan.kept.visits) - 1)
        packed = self._packed(state)
        wait = ("Packing the bag", "The best chains of every link are looked for; nothing else has to wait.")
        stage.say(*(headline(state, planned.lost, packed) if state is not None else wait))
        stage.show_day(self._places(planned, state), self._current, plan.kept, self.solving, plan.may_undo, theme)
        stage.show_bag(self._tiles(planned, state), self._lit, self._told(state), theme)
        stage.show_home(self._home(state) if packed else [])
        self._show_side(plan, planned, state)

    def _show_side(self, plan: TodayPlan, planned: PlannedDay, state: BagState | None) -> None:
        acts: list[LeavingAct] = []
        ways = [dict[str, list[str]]() for _ in planned.day.visits]
        if state is not None:
            machine = self.work.machine.root if self.work.machine is not None else Path("/")
            of = (planned, state.found, plan.kept.owed)
            if self._todo is None or any(one is not other for one, other in zip(of, self._todo[0], strict=True)):
                self._todo = (of, to_do(planned.day, state.made, state.found, self.work.catalog, plan.kept.owed, machine))
            acts = self._todo[1]
            ways = chains(planned.day, state.made, state.found, self.work.catalog)
        visit, kept = planned.day.visits[self._current], plan.kept.visits[self._current]
        sheet = visit_sheet(visit, [], self.work.catalog, ways[self._current])
        links = self.work.opened_records().links()
        here = tuple(one for one in links if one[0] in kept.links)
        others = tuple(one for one in links if one[0] not in kept.links)
        shown = OpenVisit(sheet, here, others, kept.together, visit.minutes, kept.minutes is None)
        self.stage.show_side(acts, plan.kept.done, shown, self.work.theme)

    def _pack(self, plan: TodayPlan) -> None:
        """Begin to pack where the day or the kit is another one."""
        kit, kept = self.work.opened_records().bag.kit, plan.kept
        key = (kept.visits, plan.stamps(), kept.date, kept.spare, kept.least, kept.limit_g, kit)
        if key != self._key:
            self._key = key
            self._planned = plan.planned(self.work.catalog)
            self.bag.begin(self._planned, parts_of(kit, self.work.catalog), kept)

    def _packed(self, state: BagState | None) -> int:
        """How many pieces of the bag as it is were packed, wherever they are by now."""
        if state is None or state.found is None:
            return 0
        at = self._plan().kept.pieces
        bag = zip(state.made.kit, state.found.bag, strict=True)
        return sum(int(many) for piece, many in bag if at.get(piece.part.id, Where.HOME) is not Where.HOME)

    def _named(self, part: str) -> str:
        return self.work.catalog.part_entries[part].name if part in self.work.catalog.part_entries else part

    def _home(self, state: BagState | None) -> list[str]:
        plan = self._plan()
        names = {part: self._named(part) for part in plan.kept.pieces}
        lacking = [link.name for link, _ in state.made.lacking] if state is not None else []
        return told(plan.kept, names, plan.fared(), lacking)

    def _places(self, planned: PlannedDay, state: BagState | None) -> list[DayPlace]:
        lacking = {link.visit for link, _ in state.made.lacking} if state is not None else set()
        proven = {one.name for one in self._plan().fared() if one.proven}
        lit = self._served_by(self._lit, state)
        found = []
        for number, visit in enumerate(planned.day.visits):
            what = " · ".join(link.name for link in visit.links) or "no link is named"
            when = f"{visit.model.at} · {visit.minutes} min" if visit.model.at else f"{visit.minutes} min"
            known = bool(visit.links) and state is not None
            mark = State.CONTRADICTED if number in lacking else State.ASSUMED if known else State.UNKNOWN
            if visit.links and all(link.name in proven for link in visit.links):
                mark = State.PROVEN
            found.append(DayPlace(visit.model.id, when, what, mark, number in lit))
        return found

    @staticmethod
    def _served_by(part: str, state: BagState | None) -> set[int]:
        """Visits that a part serves in the bag as it is."""
        if state is None or state.found is None or not part:
            return set()
        chosen = zip(state.made.links, state.made.chosen(state.found.bag), strict=True)
        return {link.visit for link, chain in chosen if part in chain}

    def _tiles(self, planned: PlannedDay, state: BagState | None) -> list[BagTile]:
        if state is None or state.found is None:
            return []
        visits, lone, pieces = planned.day.visits, self._lost(state), self._plan().kept.pieces
        found = []
        for many, piece in zip(state.found.bag, state.made.kit, strict=True):
            if many:
                part = piece.part
                serves = ", ".join(visits[n].model.id for n in sorted(self._served_by(part.id, state))) or "spare"
                where = pieces.get(part.id, Where.HOME)
                ends = tuple((end.connector.family, end.connector.gender.value == "socket") for end in part.ends[:2])
                name = part.name + (f" ×{many}" if many > 1 else "")
                said = said_of(where, serves, part.id in lone)
                found.append(BagTile(part.id, name, said, where, ends, part.id in lone))
        return found

    def _lost(self, state: BagState) -> dict[str, list[str]]:
        """What is lost without each piece of the bag as it is; reckoned once for each bag."""
        assert state.found is not None, "only asked of a bag"
        if self._lone is None or self._lone[0] is not state.found:
            self._lone = (state.found, state.made.fails_without(state.found.bag))
        return self._lone[1]

    def _told(self, state: BagState | None) -> str:
        """What is lost without the piece that was touched."""
        if state is None or state.found is None:
            return ""
        if not self._lit:
            return "Touch a piece: the places that it serves light up, and what fails without it is told."
        lost = self._lost(state)
        kind = next((n for n, piece in enumerate(state.made.kit) if piece.part.id == self._lit), None)
        if kind is None or not state.found.bag[kind]:
            return ""
        names = {id_: entry.name for id_, entry in self.work.catalog.part_entries.items()}
        ways = [] if self._lit in lost else ways_without(state, kind, names)
        return without(self._lit, names.get(self._lit, self._lit), lost, ways)

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

    def _put(self, where: Where) -> None:
        if self._lit:
            self._plan().put(self._lit, where)

    def _pack_next(self) -> None:
        """The piece that is lit is in the bag, and the next one that is not lights up."""
        plan, ids = self._plan(), [tile.tile.id for tile in self.stage.bag.tiles]
        if self._lit in ids and plan.kept.pieces.get(self._lit, Where.HOME) is Where.HOME:
            plan.put(self._lit, Where.PACKED)
        left = [part for part in ids if plan.kept.pieces.get(part, Where.HOME) is Where.HOME]
        self._lit = left[0] if left else ""

    def _come_back(self) -> None:
        state, plan = self.bag.state, self._plan()
        visits = plan.kept.visits
        serves = {part: [visits[n].place for n in sorted(self._served_by(part, state))] for part in plan.kept.pieces}
        plan.come_back(serves)
        self._current, self._lit = 0, ""

    def _paper(self) -> None:
        from humble_courier.ui.paper.day_sheet import write_day

        state = self.bag.state
        chosen, _ = QFileDialog.getSaveFileName(self.stage, "Save", "day.pdf", "PDF (*.pdf)")
        if chosen and self._planned is not None and state is not None:
            write_day(day_sheet(self._planned.day, state.made, state.found, self.work.catalog), Path(chosen))

    def _calendar(self) -> None:
        from humble_courier.app.today.calendar import as_ics

        chosen, _ = QFileDialog.getSaveFileName(self.stage, "Save", "day.ics", "iCalendar (*.ics)")
        if chosen and self._planned is not None:
            write_whole(Path(chosen), as_ics(self._planned.day, datetime.date.today()))

    def _from_calendar(self) -> None:
        from humble_courier.app.today.calendar_document import read_calendar

        chosen, _ = QFileDialog.getOpenFileName(self.stage, "Open", "", "iCalendar (*.ics *.ical);;All files (*)")
        if chosen:
            self._plan().take_calendar(read_calendar(Path(chosen)), datetime.date.today())

    def halt(self) -> None:
        """Take the bag as it is."""
        self.bag.halt()

    def rest(self) -> None:
        """The window goes."""
        self.bag.rest()
