"""Today: the visits on a line, the bag as its pieces, what to do before leaving; at the side the place that is open."""

from collections.abc import Sequence
from functools import partial
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QFrame, QHBoxLayout, QLineEdit, QScrollArea, QVBoxLayout

from humble_courier.app.today.before_leaving import LeavingAct
from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.stages.today.bag_tiles import BagTile, BagTiles
from humble_courier.ui.stages.today.day_line import DayLine, DayPlace
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, label
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.two_columns import TwoColumns

NARROW = 760  # pixels of plain type below which the open place stands under the bag
TOLD = {"buy": "▲ buy", "build": "◆ build", "fetch": "● fetch", "number": "● number", "ask": "● ask", "note": "○ note"}


class TodayStage(StageWidget):
    """`asked` gives a sentence; `ticked` what is done; `moved` a step of the open visit in the day."""

    asked = pyqtSignal(str)
    spare_wanted = pyqtSignal(bool)
    ticked = pyqtSignal(str, bool)
    moved = pyqtSignal(int)
    taken_out = pyqtSignal()
    opened_link = pyqtSignal(str)
    paper = pyqtSignal()
    calendar = pyqtSignal()
    cancelled = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.line, self.bag = DayLine(), BagTiles()
        self.sentence = QLineEdit()
        self.sentence.setPlaceholderText("Add a visit: what is done, and where, as in “level logger at the weir 8:20”")
        self.sentence.setAccessibleName("What is done, and where")
        self.sentence.returnPressed.connect(self._ask)
        self.add = button("Add", "main", self._ask)
        self.spare = QCheckBox("Any one piece may fail")
        self.spare.toggled.connect(self.spare_wanted.emit)
        self.sheet = button("Sheet of the day", "", self.paper.emit, "Ctrl+P")
        self.ics = button("Calendar file", "", self.calendar.emit, "Ctrl+G")
        self.stop = button("Take the bag as it is", "", self.cancelled.emit, "Esc")
        self.told = label("", "", wrap=True)
        self.body = TwoColumns(NARROW, (11, 5), 16)
        self._leaving, self._visit = QVBoxLayout(), QVBoxLayout()
        self.ticks: list[QCheckBox] = []
        self.links: list[Any] = []
        self._shown: object = None
        self._lay_out()

    def _lay_out(self) -> None:
        row = QHBoxLayout()
        row.addWidget(self.sentence, 1)
        row.addWidget(self.add)
        self.column.addLayout(row)
        left, right = self.body.left, self.body.right
        left.addWidget(self.line)
        left.addWidget(FlowRow([self.spare, self.sheet, self.ics, self.stop]))
        left.addWidget(self.bag)
        left.addWidget(self.told)
        left.addLayout(self._leaving)
        left.addStretch(1)
        right.addLayout(self._visit)
        right.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setAccessibleName("The day, the bag, and the place that is open")
        self.body.setObjectName("lanes")
        scroll.setWidget(self.body)
        self.column.addWidget(scroll, 1)

    def _ask(self) -> None:
        self.asked.emit(self.sentence.text())

    def show_day(self, places: Sequence[DayPlace], current: int, spare: bool, solving: bool, theme: Theme) -> None:
        """The line of the day, and what may be done with it."""
        self.body.show_scale(theme.scale)
        self.line.setVisible(bool(places))
        self.line.show_day(places, current, theme)
        for made in (self.spare, self.sheet, self.ics):
            made.setVisible(bool(places))
        self.spare.blockSignals(True)
        self.spare.setChecked(spare)
        self.spare.blockSignals(False)
        self.stop.setVisible(solving)

    def show_bag(self, tiles: Sequence[BagTile], lit: str, told: str, theme: Theme) -> None:
        """The pieces; `told`: what is said of the one that was touched."""
        self.bag.setVisible(bool(tiles))
        self.bag.show_bag(tiles, lit, theme)
        self.told.setText(told)
        self.told.setVisible(bool(told))

    def show_side(self, acts: Sequence[LeavingAct], done: Sequence[str], visit: dict[str, Any] | None) -> None:
        """What to do before leaving, and the sheet of the open visit."""
        if self._shown == (list(acts), list(done), visit):
            return
        self._shown = (list(acts), list(done), visit)
        clear(self._leaving)
        self.ticks = []
        if acts:
            self._leaving.addWidget(label("Before leaving", "title"))
        for act in acts:
            self._leaving.addWidget(self._act(act, act.id in done))
        clear(self._visit)
        if visit is not None:
            self._show_visit(visit)

    def _act(self, act: LeavingAct, done: bool) -> QFrame:
        frame = QFrame()
        row = QHBoxLayout(frame)
        row.setContentsMargins(0, 2, 0, 2)
        tick = QCheckBox()
        tick.setChecked(done)
        tick.setAccessibleName(act.do)
        tick.toggled.connect(lambda on: self.ticked.emit(act.id, on))
        self.ticks.append(tick)
        row.addWidget(tick, 0, Qt.AlignmentFlag.AlignTop)
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addWidget(label(f"{TOLD[act.kind]}: {act.do.partition(': ')[2] or act.do}", "", wrap=True))
        words.addWidget(label(act.why, "small", wrap=True))
        row.addLayout(words, 1)
        return frame

    def _show_visit(self, visit: dict[str, Any]) -> None:
        when = f", {visit['at']}" if visit["at"] else ""
        self._visit.addWidget(label(f"{visit['id']}{when}", "title", wrap=True))
        row = FlowRow([
            button("Earlier", "", partial(self.moved.emit, -1)), button("Later", "", partial(self.moved.emit, 1)),
            button("Take out", "", self.taken_out.emit),
        ])  # fmt: skip
        self._visit.addWidget(row)
        for caution in visit["cautions"]:
            self._visit.addWidget(label(f"▲ Caution: {caution}", "caution", wrap=True))
        for number, act in enumerate(visit["prepare"], start=1):
            self._visit.addWidget(label(f"{number}. {act}", "", wrap=True))
        self.links = []
        for name, settings in visit["settings"].items():
            words = ", then ".join(visit["words"].get(name, ()))
            self._visit.addWidget(label(f"{name}: {settings}{f'; say {words}' if words else ''}", "", wrap=True))
        for act in visit["afterwards"]:
            self._visit.addWidget(label(f"Put back: {act}", "", wrap=True))
