"""Prepare: may I, and is it alive? The acts of this device, with cautions beside the acts they belong to."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QCheckBox, QFrame, QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from humble_courier.app.prepare.sheet_acts import SheetAct, about, acts, lamp_acts
from humble_courier.catalog.entries import CautionEntry
from humble_courier.documents.device import DeviceEntry
from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.widgets.basics import WrapLabel, clear, label


class ActText(WrapLabel):
    """The words of an act; touching them ticks it, as touching the box does."""

    pressed = pyqtSignal()

    def __init__(self, text: str) -> None:
        super().__init__(text)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setWordWrap(True)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        """Touched."""
        self.pressed.emit()


class PrepareStage(StageWidget):
    """What the device sheet asks for before the first word. `ticked` gives the act's id and whether it is done."""

    ticked = pyqtSignal(str, bool)

    def __init__(self) -> None:
        super().__init__()
        self._acts = QVBoxLayout()
        self._acts.setContentsMargins(0, 0, 8, 0)
        inner = QWidget()
        inner.setLayout(self._acts)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setAccessibleName("Acts before the first word")
        scroll.setWidget(inner)
        inner.setObjectName("lanes")
        self.column.addWidget(scroll, 1)
        self._shown: object = None

    def show_sheet(self, sheet: DeviceEntry | None, cautions: dict[str, CautionEntry], done: set[str]) -> None:
        """Show the acts of a device sheet; None where there is none."""
        todo = acts(sheet, cautions) if sheet is not None else []
        if sheet is None:
            self.say(
                "No sheet for this device",
                "Work from its manual: power, mode, the right socket. Note the edition that you use.",
            )
        else:
            left = sum(act.id not in done for act in todo if not act.after)
            waiting, ready = "Before the first word: {n} acts left at the {device}", "{device}: ready for the first word"
            text = waiting if left else ready
            headline = text.format(n=left, device=sheet.name.lower() if left else sheet.name)
            self.say(
                headline,
                f"From: {sheet.edition}. Compare its edition with the manual on site.",
            )
        if self._shown == (sheet, done):
            return
        self._shown = (sheet, set(done))
        clear(self._acts)
        before = [act for act in todo if not act.after]
        for act in before:
            self._acts.addWidget(self._act(act, act.id in done))
        if len(before) < len(todo):
            self._acts.addWidget(label("After the job", "title"))
        for act in todo[len(before) :]:
            self._acts.addWidget(self._act(act, act.id in done))
        lamps = lamp_acts(sheet) if sheet is not None else []
        if lamps:
            self._acts.addWidget(label("What is seen at it: tick it, and the diagnosis knows", "title"))
        for lamp in lamps:
            self._acts.addWidget(self._act(lamp, lamp.id in done, "it means: {proof}"))
        if sheet is not None:
            self._acts.addWidget(self._about(sheet))
        self._acts.addStretch(1)

    def _act(self, act: SheetAct, done: bool, told: str = "done when: {proof}") -> QFrame:
        frame = QFrame()
        frame.setProperty("role", "row")
        column = QVBoxLayout(frame)
        column.setContentsMargins(0, 6, 0, 8)
        if act.caution:
            row = QHBoxLayout()
            row.addWidget(label("▲", "caution"), 0, Qt.AlignmentFlag.AlignTop)
            row.addWidget(label(f"Caution: {act.caution}", "caution", wrap=True), 1)
            column.addLayout(row)
        tick = QCheckBox()
        tick.setAccessibleName(act.act)
        tick.setChecked(done)
        tick.toggled.connect(lambda on: self.ticked.emit(act.id, on))
        line = QHBoxLayout()
        line.addWidget(tick, 0, Qt.AlignmentFlag.AlignTop)
        words = ActText(act.act)
        words.pressed.connect(tick.toggle)
        line.addWidget(words, 1)
        column.addLayout(line)
        column.addWidget(label(told.format(proof=act.proof), "small"))
        return frame

    def _about(self, sheet: DeviceEntry) -> QFrame:
        frame = QFrame()
        column = QVBoxLayout(frame)
        column.setContentsMargins(0, 10, 0, 0)
        column.addWidget(label("What the sheet says", "title"))
        grid = QGridLayout()
        grid.setHorizontalSpacing(16)
        grid.setColumnStretch(1, 1)
        for line, (what, value) in enumerate(about(sheet)):
            grid.addWidget(label(what, "quiet", wrap=True), line, 0)
            grid.addWidget(label(value, "", wrap=True), line, 1)
        column.addLayout(grid)
        return frame
