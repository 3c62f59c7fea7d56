"""Read a recording: a place to drop a file on, or what was heard on this port; what it says about rate and frame."""

from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QPlainTextEdit, QVBoxLayout, QWidget

from humble_courier.app.settings.inferring import Inferred
from humble_courier.ui.dropped import files_of, welcome
from humble_courier.ui.stages.settings.belief_view import BeliefView
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, label
from humble_courier.ui.widgets.flow import FlowRow


class CapturePage(QWidget):
    """`dropped` gives a file, `heard` asks for what came in on this port, `adopted` takes the best reading over."""

    dropped = pyqtSignal(Path)
    opened = pyqtSignal()
    heard = pyqtSignal()
    adopted = pyqtSignal()

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
        self.said, self.more = label("", "title", wrap=True), label("", "quiet", wrap=True)
        self.belief = BeliefView()
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setAccessibleName("What was read")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.addWidget(self.place)
        column.addWidget(FlowRow([open_file, self.listen, self.adopt]))
        for widget in (self.said, self.more):
            column.addWidget(widget)
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
        self.said.setText("Nothing read yet")
        self.more.setText("A recording of a few sentences is enough; received bytes tell less than level changes.")
        self.adopt.setEnabled(False)
        self.belief.show_belief((), theme)
        self.text.setVisible(False)

    def show_busy(self, name: str) -> None:
        """A file is being read."""
        self.said.setText(f"Reading {name} …")
        self.more.setText("")

    def show_problem(self, text: str) -> None:
        """It could not be read."""
        self.said.setText("This cannot be read")
        self.more.setText(text)

    def show_reading(self, found: Inferred, theme: Theme) -> None:
        """What was read."""
        best = found.best
        kind = ", inverted" if best.inverted else ""
        self.said.setText(f"{best.rate} {best.frame}{kind}: {best.probability:.1%}")
        told = [f"measured {found.measured_rate:.1f} bit/s"] if found.measured_rate else []
        if found.equivalent:
            told.append("the data cannot tell it from {frames}".format(frames=", ".join(found.equivalent)))
        if found.listen_next is not None:
            told.append(f"to learn most, listen next with {found.listen_next.spoken}")
        told += found.notes
        text = "; ".join(told)
        self.more.setText(text[:1].upper() + text[1:] + "." if text else "")
        self.belief.show_belief(found.candidates, theme)
        each = [f"{d.signal}: {d.best.rate} {d.best.frame}, {d.measured_rate:.1f} bit/s" for d in found.directions]
        turns = [f"{t.seconds:9.4f} s  {t.signal}  {t.text}" for t in found.turns]
        self.text.setPlainText("\n".join([*each, *turns]) or found.text or "")
        self.text.setVisible(bool(found.text))
        self.adopt.setEnabled(not best.inverted)
