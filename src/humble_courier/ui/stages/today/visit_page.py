"""The place that is open: what is done there, with what chain, in which order; its links, its note, its turn in the day."""

from dataclasses import dataclass
from functools import partial
from typing import Any

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QLineEdit, QSpinBox, QVBoxLayout, QWidget

from humble_courier.ui.stages.today.chain_picture import ChainPicture
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, label
from humble_courier.ui.widgets.flow import FlowRow

LONGEST_MINUTES = 1440


@dataclass(frozen=True)
class OpenVisit:
    """`sheet`: as in the document of `day`. `links`, `others`: ids and names of those here, and of the rest."""

    sheet: dict[str, Any]
    links: tuple[tuple[str, str], ...]
    others: tuple[tuple[str, str], ...]
    together: bool
    minutes: int
    by_itself: bool  # nobody said how long it takes


class VisitPage(QWidget):
    """Every signal is about the visit that is open."""

    moved = pyqtSignal(int)
    taken_out = pyqtSignal()
    linked = pyqtSignal(str, bool)
    together = pyqtSignal(bool)
    lasts = pyqtSignal(int)
    noted = pyqtSignal(str)
    opened_link = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self.choice, self.note, self.minutes = QComboBox(), QLineEdit(), QSpinBox()
        self._shown: object = None

    def show_visit(self, visit: OpenVisit | None, theme: Theme) -> None:
        """Show another one; what is shown already stays as it is, with what is being typed."""
        if self._shown == (visit, theme):
            return
        self._shown = (visit, theme)
        clear(self._column)
        if visit is None:
            return
        sheet = visit.sheet
        when = f", {sheet['at']}" if sheet["at"] else ""
        self._say(f"{sheet['id']}{when}", "title")
        turn = FlowRow([
            button("Earlier", "", partial(self.moved.emit, -1)), button("Later", "", partial(self.moved.emit, 1)),
            button("Take out", "", self.taken_out.emit),
        ])  # fmt: skip
        self._column.addWidget(turn)
        for caution in sheet["cautions"]:
            self._say(f"▲ Caution: {caution}", "caution")
        for id_, name in visit.links:
            self._show_link(id_, name, sheet, theme)
        for number, act in enumerate(sheet["prepare"], start=1):
            self._say(f"{number}. {act}")
        if sheet["note_down"]:
            self._say(f"Note down: {', '.join(sheet['note_down'])}")
        for plan in sheet["plans"]:
            many = sum(len(segment["members"]) for segment in plan["segments"])
            self._say(
                f"Site plan of {plan['name']}: {many} devices on {len(plan['segments'])} buses, on the sheet of the day"
            )
        for act in sheet["afterwards"]:
            self._say(f"Put back: {act}")
        self._fields(visit)

    def _say(self, text: str, role: str = "") -> None:
        self._column.addWidget(label(text, role, wrap=True))

    def _show_link(self, id_: str, name: str, sheet: dict[str, Any], theme: Theme) -> None:
        settings, words = sheet["settings"].get(name), ", then ".join(sheet["words"].get(name, ()))
        told = ": ".join(filter(None, (name, settings)))
        self._say(f"{told}{f'; say {words}' if words else ''}", "strong")
        chain = sheet["chains"].get(name)
        if chain is not None:
            self._column.addWidget(ChainPicture(["computer", *chain, "device"], theme))
        row = FlowRow([
            button("Open this link", "", partial(self.opened_link.emit, id_)),
            button("Not here", "", partial(self.linked.emit, id_, False)),
        ])  # fmt: skip
        for made in row.findChildren(QWidget):
            made.setAccessibleDescription(name)
        self._column.addWidget(row)

    def _fields(self, visit: OpenVisit) -> None:
        self.choice = QComboBox()
        self.choice.setAccessibleName("A link of the records that is worked on here too")
        self.choice.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.choice.addItem("Add a link of the records", "")
        for id_, name in visit.others:
            self.choice.addItem(name, id_)
        self.choice.activated.connect(lambda n: self.linked.emit(self.choice.itemData(n), True) if n else None)
        self._column.addWidget(self.choice)
        self.minutes = QSpinBox()
        self.minutes.setRange(0, LONGEST_MINUTES)
        self.minutes.setSpecialValueText(f"{visit.minutes} min, by its links")
        self.minutes.setSuffix(" min")
        self.minutes.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        self.minutes.setAccessibleName("How long it takes, in minutes; 0: by its links")
        self.minutes.setValue(0 if visit.by_itself else visit.minutes)
        self.minutes.editingFinished.connect(lambda: self.lasts.emit(self.minutes.value()))
        at_once = button("Links in use at the same time", "", lambda: self.together.emit(not visit.together))
        at_once.setCheckable(True)
        at_once.setChecked(visit.together)
        at_once.setVisible(len(visit.links) > 1)
        self._column.addWidget(FlowRow([self.minutes, at_once]))
        self.note = QLineEdit(visit.sheet["note"])
        self.note.setPlaceholderText("A note for this place")
        self.note.setAccessibleName("A note for this place")
        self.note.editingFinished.connect(lambda: self.noted.emit(self.note.text()))
        self._column.addWidget(self.note)
