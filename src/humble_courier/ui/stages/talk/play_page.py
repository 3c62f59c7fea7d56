"""Play the talker: the track, and its sentences as lanes of the time that they take, so that a listener can be tested."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from humble_courier.app.talk.playing import Picture
from humble_courier.ui.stages.talk.track_view import TrackView
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, captioned, label
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.turns_view import TurnsView

LANE = 18.0  # pixels: a sentence


class PlayPage(QWidget):
    """`changed` when sentences or numbers are; `started` and `stopped` by button."""

    changed = pyqtSignal()
    listen = pyqtSignal()
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
            field.editingFinished.connect(self.changed.emit)
            self.fields[key] = field
            shown.append(captioned(text, field))
        fields = FlowRow(shown, wide=tuple(shown))
        self.track, self.load = TrackView(), TurnsView(LANE)
        self.load_text = label("", "quiet", wrap=True)
        self.example = label("", "words", wrap=True)
        self.listen_button = button("Listen", "", self.listen.emit, "F4")
        self.start = button("Talk", "main", self.started.emit, "F5")
        self.stop = button("Stop talking", "", self.stopped.emit, "Shift+F5")
        self.shows = button("The device shows it", "", self.seen.emit, "Ctrl+R")
        self.shows.setToolTip("It proves a device that only listens")
        beside = QVBoxLayout()
        beside.addWidget(FlowRow([self.listen_button, self.start, self.stop, self.shows]))
        beside.addWidget(self.load)
        beside.addWidget(self.load_text)
        beside.addStretch(1)
        pictures = QHBoxLayout()
        pictures.setSpacing(20)
        pictures.addWidget(self.track, 0, Qt.AlignmentFlag.AlignTop)
        pictures.addLayout(beside, 1)
        column.addWidget(fields)
        column.addLayout(pictures)
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

    def show_picture(self, picture: Picture, theme: Theme) -> None:
        """The track, and how one round of sentences fills the time until the next."""
        self.track.show_track(picture, theme)
        self.load.show_turns(picture.lanes, picture.every_s, f"the next round begins after {picture.every_s:g} s", theme)

    def show_load(self, text: str, example: str, talking: bool, may: bool, listening: bool) -> None:
        """How full the line is, and one round of sentences."""
        self.load_text.setText(text)
        self.example.setText(example)
        self.listen_button.setVisible(not listening)
        self.start.setVisible(not talking)
        self.start.setEnabled(may)
        self.stop.setVisible(talking)

    def typed(self) -> dict[str, str]:
        """What stands in the fields, by their keys."""
        return {key: field.text() for key, field in self.fields.items()}

    def chosen(self) -> list[str]:
        """The sentences that are ticked, in their order."""
        return [formatter for formatter, box in self.sentences.items() if box.isChecked()]
