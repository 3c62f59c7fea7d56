"""Play the talker: sentences of a moving track, so that a listener can be tested; what they load the line with."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QLineEdit, QProgressBar, QVBoxLayout, QWidget

from humble_courier.ui.widgets.basics import button, label
from humble_courier.ui.widgets.flow import FlowRow


class PlayPage(QWidget):
    """`changed` when sentences or numbers are; `started` and `stopped` by button."""

    changed = pyqtSignal()
    started = pyqtSignal()
    stopped = pyqtSignal()
    seen = pyqtSignal()  # a person saw at the device what was said

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(10)
        self.sentences: dict[str, QCheckBox] = {}
        self._grid = QGridLayout()
        self._grid.setVerticalSpacing(4)
        self._grid.setColumnStretch(1, 1)
        self._grid.setColumnStretch(3, 1)
        rows = (("every_s", "Seconds between", "1"), ("speed_kn", "Speed, knots", "6"),
                ("course", "Course, degrees", "45"), ("turn", "Turn, degrees/s", "0.2"))  # fmt: skip
        self.fields: dict[str, QLineEdit] = {}
        shown: list[QWidget] = []
        for key, text, value in rows:
            field = QLineEdit(value)
            field.setAccessibleName(text)
            field.editingFinished.connect(self.changed.emit)
            self.fields[key] = field
            shown += [label(text, "small"), field]
        fields = FlowRow(shown, wide=tuple(self.fields.values()))
        self.load = QProgressBar()
        self.load.setRange(0, 100)
        self.load.setAccessibleName("Load of the line")
        self.load_text = label("", "quiet", wrap=True)
        self.example = label("", "mono", wrap=True)
        self.start = button("Talk", "main", self.started.emit, "F5")
        self.stop = button("Stop talking", "", self.stopped.emit, "Shift+F5")
        self.shows = button("The device shows it", "", self.seen.emit, "Ctrl+R")
        self.shows.setToolTip("It proves a device that only listens")
        row = FlowRow([self.start, self.stop, self.shows, self.load], wide=(self.load,))
        column.addWidget(fields)
        column.addWidget(row)
        column.addWidget(self.load_text)
        column.addWidget(label("Sentences; each says what a listener can take from it", "title", wrap=True))
        column.addLayout(self._grid)
        column.addWidget(self.example)
        column.addStretch(1)

    def offer(self, sentences: list[tuple[str, str]]) -> None:
        """Offer sentences by formatter, with what they carry; once."""
        for i, (formatter, carries) in enumerate(sentences if not self.sentences else ()):
            box = QCheckBox(formatter)
            box.setAccessibleName(f"{formatter}: {carries}")
            box.setChecked(formatter in ("RMC", "GGA"))
            box.toggled.connect(self.changed.emit)
            self.sentences[formatter] = box
            self._grid.addWidget(box, i // 2, 2 * (i % 2))
            self._grid.addWidget(label(carries, "quiet", wrap=True), i // 2, 2 * (i % 2) + 1)

    def show_load(self, share: float, text: str, example: str, talking: bool, may: bool) -> None:
        """How full the line is, and one round of sentences."""
        self.load.setValue(min(100, round(share * 100)))
        self.load.setFormat(f"{share:.0%}")
        self.load_text.setText(text)
        self.example.setText(example)
        self.start.setVisible(not talking)
        self.start.setEnabled(may)
        self.stop.setVisible(talking)

    def typed(self) -> dict[str, str]:
        """What stands in the fields, by their keys."""
        return {key: field.text() for key, field in self.fields.items()}

    def chosen(self) -> list[str]:
        """The sentences that are ticked, in their order."""
        return [formatter for formatter, box in self.sentences.items() if box.isChecked()]
