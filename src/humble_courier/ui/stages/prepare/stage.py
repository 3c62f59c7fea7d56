"""Prepare: may I, and is it alive? The acts of this device, with cautions beside the acts they belong to."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QCheckBox, QFrame, QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from humble_courier.app.link.notes import Note
from humble_courier.app.prepare.computer_fit import Want
from humble_courier.app.prepare.sheet_acts import SheetAct, about, acts, lamp_acts, standing
from humble_courier.catalog.entries import CautionEntry
from humble_courier.documents.device import DeviceEntry
from humble_courier.domain.facts import State
from humble_courier.ui.stage_widget import StageWidget
from humble_courier.ui.stages.prepare.files_view import FilesView
from humble_courier.ui.stages.prepare.notes_view import NotesView
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import WrapLabel, clear, label
from humble_courier.ui.widgets.steps_view import Mark


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
        self._site, self._acts, self._wants, self._said = QVBoxLayout(), QVBoxLayout(), QVBoxLayout(), QVBoxLayout()
        self.notes, self.files = NotesView(), FilesView()
        inner = QWidget()
        whole = QVBoxLayout(inner)
        whole.setContentsMargins(0, 0, 8, 0)
        for part in (self._site, self._acts, self._wants):
            whole.addLayout(part)
        whole.addWidget(self.notes)
        whole.addWidget(self.files)
        whole.addLayout(self._said)
        whole.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setAccessibleName("Acts before the first word")
        scroll.setWidget(inner)
        inner.setObjectName("lanes")
        self.column.addWidget(scroll, 1)
        self._shown: object = None
        self._wanted: object = None
        self._cautions: tuple[str, ...] = ()

    def show_sheet(
        self, sheet: DeviceEntry | None, cautions: dict[str, CautionEntry], done: set[str], region: str = "",
        proven: bool = False,
    ) -> None:  # fmt: skip
        """Show the acts of a device sheet; None where there is none. `proven`: it has answered."""
        todo = acts(sheet, cautions, region) if sheet is not None else []
        if sheet is None:
            self.say(
                "No sheet for this device",
                "Work from its manual: power, mode, the right socket. Note the edition that you use.",
            )
        else:
            source = f"From: {sheet.edition}. Compare its edition with the manual on site."
            self.say(standing(sheet.name, todo, done, proven), source)
        if self._shown == (sheet, done, region):
            return
        self._shown = (sheet, set(done), region)
        clear(self._acts)
        clear(self._said)
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
            self._said.addWidget(self._about(sheet))

    def show_site(self, cautions: Sequence[str]) -> None:
        """What holds at this site, before everything else."""
        if self._cautions == tuple(cautions):
            return
        self._cautions = tuple(cautions)
        clear(self._site)
        for caution in cautions:
            self._site.addLayout(_caution(f"At this site: {caution}"))

    def show_wants(self, wants: Sequence[Want], theme: Theme) -> None:
        """What its program and its adapters want, held against this computer."""
        if self._wanted == (wants, theme):
            return
        self._wanted = (wants, theme)
        clear(self._wants)
        if wants:
            self._wants.addWidget(label("What its program wants, and this computer", "title"))
        states = {True: State.PROVEN, False: State.CONTRADICTED, None: State.UNKNOWN}
        for want in wants:
            row = QHBoxLayout()
            row.addWidget(Mark(states[want.met], theme), 0, Qt.AlignmentFlag.AlignTop)
            row.addWidget(label(f"{want.what}: {want.told}", "", wrap=True), 1)
            self._wants.addLayout(row)

    def show_notes(self, notes: Sequence[Note]) -> None:
        """Values to note, and those that were."""
        self.notes.show_notes(notes)

    def _act(self, act: SheetAct, done: bool, told: str = "done when: {proof}") -> QFrame:
        frame = QFrame()
        frame.setProperty("role", "row")
        column = QVBoxLayout(frame)
        column.setContentsMargins(0, 6, 0, 8)
        if act.caution:
            column.addLayout(_caution(f"Caution: {act.caution}"))
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


def _caution(text: str) -> QHBoxLayout:
    row = QHBoxLayout()
    row.addWidget(label("▲", "caution"), 0, Qt.AlignmentFlag.AlignTop)
    row.addWidget(label(text, "caution", wrap=True), 1)
    return row
