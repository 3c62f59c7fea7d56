"""Today: the visits on a line, the bag as its pieces, what to do before leaving; at the side the place that is open."""

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import QDate, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDateEdit,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QScrollArea,
    QSpinBox,
    QVBoxLayout,
)

from humble_courier.app.today.before_leaving import LeavingAct
from humble_courier.app.today.kept import KeptDay, Where
from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.stages.today.bag_tiles import BagTile, BagTiles
from humble_courier.ui.stages.today.bag_work import SURE
from humble_courier.ui.stages.today.day_line import DayLine, DayPlace
from humble_courier.ui.stages.today.visit_page import OpenVisit, VisitPage
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, fill, label
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.two_columns import TwoColumns

NARROW = 760  # pixels of plain type below which the open place stands under the bag
TOLD = {
    "buy": "▲ buy", "build": "◆ build", "fetch": "● fetch", "number": "● number", "ask": "● ask", "arrange": "● arrange",
    "take": "○ take", "try": "○ try", "note": "○ note",
}  # fmt: skip
KINDS = [("pieces", "Fewest pieces"), ("weight", "Lightest"), ("cost", "Cheapest"), (SURE, "Surest under a weight")]
FATES = ((Where.PACKED, "Packed"), (Where.BACK, "Is back"), (Where.STAYED, "Stayed there"), (Where.FAILED, "It failed"))
HEAVIEST_G = 100_000


class TodayStage(StageWidget):
    """`asked` gives a sentence; `ticked` what is done; `put` where the piece that is lit is now."""

    asked = pyqtSignal(str)
    wanted = pyqtSignal(str, object)
    ticked = pyqtSignal(str, bool)
    put = pyqtSignal(object)
    packed_next = pyqtSignal()
    over = pyqtSignal()
    paper = pyqtSignal()
    calendar = pyqtSignal()
    from_calendar = pyqtSignal()
    undone = pyqtSignal()
    cancelled = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.line, self.bag, self.visit = DayLine(), BagTiles(), VisitPage()
        self.sentence = QLineEdit()
        self.sentence.setPlaceholderText("Add a visit: what is done, and where, as in “level logger at the weir 8:20”")
        self.sentence.setAccessibleName("What is done, and where")
        self.sentence.returnPressed.connect(self._ask)
        self.add = button("Add", "main", self._ask)
        self._kinds()
        self.sheet = button("Sheet of the day", "", self.paper.emit, "Ctrl+P")
        self.ics = button("Calendar", "", self.calendar.emit, "Ctrl+G")
        self.taken = button("From a calendar", "", self.from_calendar.emit, "Ctrl+I")
        self.back = button("Undo", "", self.undone.emit, "Ctrl+Z")
        self.stop = button("Take the bag as it is", "", self.cancelled.emit, "Esc")
        self.next = button("Pack piece by piece", "main", self.packed_next.emit, "Ctrl+Return")
        self.fates = [button(word, "", partial(self.put.emit, where)) for where, word in FATES]
        self.told = label("", "", wrap=True)
        self.body = TwoColumns(NARROW, (11, 5), 16)
        self._leaving, self._home = QVBoxLayout(), QVBoxLayout()
        self.ticks: list[QCheckBox] = []
        self.end = button("The day is over: put the kit right", "", self.over.emit)
        self._shown: object = None
        self._lay_out()

    def _kinds(self) -> None:
        self.spare = QCheckBox("Any one piece may fail")
        self.spare.toggled.connect(lambda on: self.wanted.emit("spare", on))
        self.least = QComboBox()
        self.least.setAccessibleName("Which bag is wanted")
        fill(self.least, KINDS, "pieces")
        self.least.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.least.activated.connect(lambda _: self.wanted.emit("least", self.least.currentData()))
        self.limit = QSpinBox()
        self.limit.setRange(1, HEAVIEST_G)
        self.limit.setSingleStep(100)
        self.limit.setSuffix(" g")
        self.limit.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        self.limit.setAccessibleName("What the bag may weigh, in grams")
        self.date = QDateEdit()
        self.date.setDisplayFormat("yyyy-MM-dd")
        self.date.setButtonSymbols(QDateEdit.ButtonSymbols.NoButtons)
        self.date.setAccessibleName("The day")
        self.date.editingFinished.connect(self._day_said)
        self.limit.editingFinished.connect(lambda: self.wanted.emit("limit_g", float(self.limit.value())))

    def _lay_out(self) -> None:
        self.column.addWidget(FlowRow([self.date, self.sentence, self.add, self.taken, self.back], wide=(self.sentence,)))
        left, right = self.body.left, self.body.right
        left.addWidget(self.line)
        left.addWidget(FlowRow([self.least, self.limit, self.spare, self.sheet, self.ics, self.stop]))
        left.addWidget(self.bag)
        left.addWidget(self.told)
        left.addWidget(FlowRow([self.next, *self.fates]))
        left.addLayout(self._home)
        left.addLayout(self._leaving)
        left.addStretch(1)
        right.addWidget(self.visit)
        right.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setAccessibleName("The day, the bag, and the place that is open")
        self.body.setObjectName("lanes")
        scroll.setWidget(self.body)
        self.column.addWidget(scroll, 1)

    def _day_said(self) -> None:
        self.wanted.emit("date", self.date.date().toPyDate())

    def _ask(self) -> None:
        self.asked.emit(self.sentence.text())

    def show_day(
        self, places: Sequence[DayPlace], current: int, kept: KeptDay, solving: bool, undo: bool, theme: Theme
    ) -> None:
        """The line of the day, and what may be done with it."""
        self.body.show_scale(theme.scale)
        self.line.setVisible(bool(places))
        self.line.show_day(places, current, theme)
        sure = kept.least == SURE
        for made in (self.sheet, self.ics, self.least, self.date):
            made.setVisible(bool(places))
        self.spare.setVisible(bool(places) and not sure)
        self.limit.setVisible(bool(places) and sure)
        self.back.setVisible(undo)
        for field in (self.spare, self.limit, self.least, self.date):
            field.blockSignals(True)
        if not self.date.hasFocus():
            self.date.setDate(kept.date or QDate.currentDate())
        self.spare.setChecked(kept.spare)
        if not self.limit.hasFocus():
            self.limit.setValue(round(kept.limit_g))
        fill(self.least, KINDS, kept.least)
        for field in (self.spare, self.limit, self.least, self.date):
            field.blockSignals(False)
        self.stop.setVisible(solving)

    def show_bag(self, tiles: Sequence[BagTile], lit: str, told: str, theme: Theme) -> None:
        """The pieces; `told`: what is said of the one that was touched."""
        self.bag.setVisible(bool(tiles))
        self.bag.show_bag(tiles, lit, theme)
        self.told.setText(told)
        self.told.setVisible(bool(told))
        self.next.setVisible(any(tile.where is Where.HOME for tile in tiles))
        lit_tile = next((tile for tile in tiles if tile.id == lit), None)
        for (where, _), made in zip(FATES, self.fates, strict=True):
            made.setVisible(lit_tile is not None and lit_tile.where is not where)

    def show_home(self, told: Sequence[str]) -> None:
        """What there is to say when one is back; nothing before a piece is packed."""
        clear(self._home)
        if not told:
            return
        self._home.addWidget(label("Coming back", "title"))
        for one in told:
            self._home.addWidget(label(one, "", wrap=True))
        self.end = button("The day is over: put the kit right", "", self.over.emit)
        self._home.addWidget(self.end, 0, Qt.AlignmentFlag.AlignLeft)

    def show_side(self, acts: Sequence[LeavingAct], done: Sequence[str], visit: OpenVisit | None, theme: Theme) -> None:
        """What to do before leaving, and the sheet of the open visit."""
        self.visit.show_visit(visit, theme)
        if self._shown == (list(acts), list(done)):
            return
        self._shown = (list(acts), list(done))
        clear(self._leaving)
        self.ticks = []
        if acts:
            left = sum(act.id not in done for act in acts)
            self._leaving.addWidget(label(f"Before leaving: {left} to do" if left else "Before leaving: all done", "title"))
        for act in acts:
            self._leaving.addWidget(self._act(act, act.id in done))

    def _act(self, act: LeavingAct, done: bool) -> QFrame:
        frame = QFrame()
        row = QHBoxLayout(frame)
        row.setContentsMargins(0, 2, 0, 2)
        tick = QCheckBox()
        tick.setChecked(done)
        tick.setAccessibleName(act.do)
        tick.setAccessibleDescription(act.why)
        tick.toggled.connect(lambda on: self.ticked.emit(act.id, on))
        self.ticks.append(tick)
        row.addWidget(tick, 0, Qt.AlignmentFlag.AlignTop)
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(label(f"{TOLD[act.kind]}: {act.do.partition(': ')[2] or act.do}", "", wrap=True))
        words.addWidget(label(act.why, "small", wrap=True))
        row.addLayout(words, 1)
        return frame
