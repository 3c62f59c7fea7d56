"""Prepare: may I, and is it alive? The acts of this device, with cautions beside the acts they belong to."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QFrame, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from humble_courier.catalog.models import CautionEntry
from humble_courier.catalog.sheet_models import DeviceEntry
from humble_courier.ui.parts import clear, label
from humble_courier.ui.stages.base import Stage


class PrepareStage(Stage):
    """What the device sheet asks for before the first word. `ticked` gives the act's index and whether it is done."""

    ticked = pyqtSignal(int, bool)

    def __init__(self) -> None:
        super().__init__()
        self._acts = QVBoxLayout()
        self._acts.setContentsMargins(0, 0, 8, 0)
        inner = QWidget()
        inner.setLayout(self._acts)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setAccessibleName(self.tr("Acts before the first word"))
        scroll.setWidget(inner)
        inner.setObjectName("lanes")
        self.column.addWidget(scroll, 1)
        self._shown: object = None

    def show_sheet(self, sheet: DeviceEntry | None, cautions: dict[str, CautionEntry], done: set[int]) -> None:
        """Show the acts of a device sheet; None where there is none."""
        if sheet is None:
            self.say(
                self.tr("No sheet for this device"),
                self.tr("Work from its manual: power, mode, the right socket. Note the edition that you use."),
            )
        else:
            left = len(sheet.preconditions) - len(done)
            text = (
                self.tr("Before the first word: {n} acts left at the {device}")
                if left
                else self.tr("{device}: all acts done")
            )
            headline = text.format(n=left, device=sheet.name.lower() if left else sheet.name)
            self.say(
                headline,
                self.tr("From: {edition}. Compare its edition with the manual on site.").format(edition=sheet.edition),
            )
        if self._shown == (sheet, done):
            return
        self._shown = (sheet, set(done))
        clear(self._acts)
        for i, act in enumerate(sheet.preconditions if sheet else []):
            caution = cautions[act.caution].text if act.caution else ""
            self._acts.addWidget(self._act(i, act.act, act.proof, caution, i in done))
        if sheet is not None:
            self._acts.addWidget(self._about(sheet))
        self._acts.addStretch(1)

    def _act(self, index: int, text: str, proof: str, caution: str, done: bool) -> QFrame:
        frame = QFrame()
        frame.setProperty("role", "row")
        column = QVBoxLayout(frame)
        column.setContentsMargins(0, 6, 0, 8)
        if caution:
            row = QHBoxLayout()
            row.addWidget(label("▲", "caution"), 0, Qt.AlignmentFlag.AlignTop)
            row.addWidget(label(self.tr("Caution: {text}").format(text=caution), "caution", wrap=True), 1)
            column.addLayout(row)
        tick = QCheckBox(text)
        tick.setChecked(done)
        tick.toggled.connect(lambda on: self.ticked.emit(index, on))
        column.addWidget(tick)
        column.addWidget(label(self.tr("done when: {proof}").format(proof=proof), "small"))
        return frame

    def _about(self, sheet: DeviceEntry) -> QFrame:
        frame = QFrame()
        column = QVBoxLayout(frame)
        column.setContentsMargins(0, 10, 0, 0)
        column.addWidget(label(self.tr("What the sheet says of its port"), "title"))
        rows = [
            self.tr("Mark: {mark}").format(mark=sheet.port.mark),
            self.tr("Set to {settings}, by {by}").format(settings=sheet.port.settings, by=sheet.port.set_by),
            self.tr("Lines end with {end}; echo {echo}").format(end=sheet.end.upper(), echo="on" if sheet.echo else "off"),
        ]
        if sheet.power_up:
            rows.append(
                self.tr("Says by itself {s} s after power: its {what}").format(
                    s=sheet.power_up.after_s, what=sheet.power_up.means
                )
            )
        for text in rows:
            column.addWidget(label(text, "", wrap=True))
        return frame
