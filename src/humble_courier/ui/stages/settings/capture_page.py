"""Read a recording: a place to drop a file on, or what was heard on this port; what it says about rate and frame."""

from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QPlainTextEdit, QVBoxLayout, QWidget

from humble_courier.app.settings.hearing import Comparison
from humble_courier.app.settings.inferring import Inferred
from humble_courier.ui.dropped import files_of, welcome
from humble_courier.ui.stages.settings.belief_view import BeliefView
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, label
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.wave_view import WaveView

NOTHING, ENOUGH = (
    "Nothing read yet",
    "A recording of a few sentences is enough; received bytes tell less than level changes.",
)
EXAMPLE = "An example, not a recording: the edges of one {character}. Rate, frame, polarity and text are read from such."


class CapturePage(QWidget):
    """`dropped` gives a file, `heard` asks for what came in on this port, `adopted` takes the best reading over."""

    dropped = pyqtSignal(Path)
    opened = pyqtSignal()
    heard = pyqtSignal()
    adopted = pyqtSignal()
    told = pyqtSignal(str, str)  # headline and reason, for the stage

    def __init__(self) -> None:
        super().__init__()
        self.setAcceptDrops(True)
        self.place = label(
            "Drop a recording here: VCD or CSV of level changes, or bytes as they were received.",
            "",
            wrap=True,
        )
        self.place.setObjectName("drop")
        self.place.setMargin(14)
        open_file = button("Open a file", "", self.opened.emit, "Ctrl+O")
        self.listen = button("Judge what was heard here", "", self.heard.emit, "Ctrl+H")
        self.adopt = button("The device is set so", "main", self.adopted.emit, "Ctrl+T")
        self.said, self.more = NOTHING, ENOUGH
        self.example_title, self.example = label(EXAMPLE, "quiet", wrap=True), WaveView()
        self.belief = BeliefView()
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setAccessibleName("What was read")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.addWidget(self.place)
        column.addWidget(FlowRow([open_file, self.listen, self.adopt]))
        column.addWidget(self.example_title)
        column.addWidget(self.example)
        column.addWidget(self.belief)
        column.addWidget(self.text, 1)
        column.addStretch(1)
        self.show_nothing(Theme())

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        """Files are welcome."""
        welcome(event)

    def dropEvent(self, event: QDropEvent | None) -> None:
        """A file was dropped."""
        for path in files_of(event)[:1]:
            self.dropped.emit(path)

    def show_nothing(self, theme: Theme) -> None:
        """Before anything was read."""
        self._say(NOTHING, ENOUGH)
        self.adopt.setEnabled(False)
        self.belief.show_belief((), theme)
        self.belief.hide()
        self.text.setVisible(False)

    def show_example(self, example: Comparison | None, theme: Theme) -> None:
        """What a recording holds, while none was read; None: one was read, or nothing is known to draw."""
        shown = example is not None and self.belief.isHidden()
        self.example.setVisible(shown)
        self.example_title.setVisible(shown)
        if example is not None and shown:
            self.example.show_wave(example.edges, example.seconds, example.sender, theme)
            self.example_title.setText(EXAMPLE.format(character=example.character))

    def show_busy(self, name: str) -> None:
        """A file is being read."""
        self._say(f"Reading {name} …", "")

    def show_problem(self, text: str) -> None:
        """It could not be read."""
        self._say("This cannot be read", text)

    def _say(self, said: str, more: str) -> None:
        self.said, self.more = said, more
        self.told.emit(said, more)

    def show_reading(self, found: Inferred, theme: Theme) -> None:
        """What was read."""
        best = found.best
        kind = ", inverted" if best.inverted else ""
        said = f"{best.rate} {best.frame}{kind}: {best.probability:.1%}"
        told = [f"measured {found.measured_rate:.1f} bit/s"] if found.measured_rate else []
        if found.equivalent:
            told.append("the data cannot tell it from {frames}".format(frames=", ".join(found.equivalent)))
        if found.listen_next is not None:
            told.append(f"to learn most, listen next with {found.listen_next.spoken}")
        told += found.notes
        text = "; ".join(told)
        self._say(said, text[:1].upper() + text[1:] + "." if text else "")
        self.example.hide()
        self.example_title.hide()
        self.belief.show()
        self.belief.show_belief(found.candidates, theme)
        each = [f"{d.signal}: {d.best.rate} {d.best.frame}, {d.measured_rate:.1f} bit/s" for d in found.directions]
        turns = [f"{t.seconds:9.4f} s  {t.signal}  {t.text}" for t in found.turns]
        self.text.setPlainText("\n".join([*each, *turns]) or found.text or "")
        self.text.setVisible(bool(found.text))
        self.adopt.setEnabled(not best.inverted)
