"""The same character at both ends: as it is sent, as it is looked at, and what appears."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QGridLayout, QVBoxLayout, QWidget

from humble_courier.app.settings.hearing import Comparison
from humble_courier.domain.settings import Frame, Handshake, Settings
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, label
from humble_courier.ui.widgets.bytes_view import BytesView
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.wave_view import WaveView

RATES = [110, 300, 600, 1200, 2400, 4800, 9600, 14_400, 19_200, 38_400, 57_600, 115_200, 230_400, 460_800, 921_600]
FRAMES = ["8N1", "7E1", "7O1", "8E1", "8O1", "8N2", "7N2", "7N1", "5N1.5"]


class EndEditor:
    """Rate, frame and handshake of one end, as a row of a grid."""

    def __init__(self, grid: QGridLayout, row: int, title: str, changed: "EndsPage") -> None:
        self.rate, self.frame, self.handshake = QComboBox(), QComboBox(), QComboBox()
        self.rate.setEditable(True)
        self.rate.addItems([str(rate) for rate in RATES])
        self.frame.addItems(FRAMES)
        self.handshake.addItems(list(Handshake))
        computer = row == 0
        grid.addWidget(label(title, "title"), row, 0)
        for i, (box, name) in enumerate(((self.rate, "rate"), (self.frame, "frame"), (self.handshake, "handshake"))):
            box.setAccessibleName(f"{title}: {name}")
            box.activated.connect(lambda _: changed.take(self, computer))
            grid.addWidget(box, row, i + 1)
        line = self.rate.lineEdit()
        if line is not None:
            line.editingFinished.connect(lambda: changed.take(self, computer))

    def show_settings(self, settings: Settings | None) -> None:
        """Show what this end is set to."""
        if settings is None:
            return
        self.rate.setCurrentText(str(settings.rate))
        if self.frame.findText(str(settings.frame)) < 0:
            self.frame.addItem(str(settings.frame))
        self.frame.setCurrentText(str(settings.frame))
        self.handshake.setCurrentText(settings.handshake)

    def text(self) -> str:
        """What is chosen, as settings text."""
        return f"{self.rate.currentText().strip()},{self.frame.currentText()},{self.handshake.currentText()}"


class EndsPage(QWidget):
    """The same character at both ends, what appears, and the settings to change."""

    settings_changed = pyqtSignal(bool, str)  # True for the computer's end; settings text
    adopt = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(6)
        self._sent_title, self._heard_title = label("", "title", wrap=True), label("", "title", wrap=True)
        self.sent, self.heard, self.bytes = WaveView(), WaveView(), BytesView()
        self.appears = label("", "title", wrap=True)
        rows = [(self._sent_title, 0), (self.sent, 2), (self._heard_title, 0), (self.heard, 2), (self.appears, 0)]
        for widget, stretch in (*rows, (self.bytes, 1)):
            self.column.addWidget(widget, stretch)
        both = QWidget()
        ends = QGridLayout(both)
        ends.setContentsMargins(0, 0, 0, 0)
        ends.setHorizontalSpacing(8)
        ends.setVerticalSpacing(6)
        self.computer = EndEditor(ends, 0, "Computer", self)
        self.device = EndEditor(ends, 1, "Device", self)
        self.adopt_button = button("Use the device's", "main", self.adopt.emit, "Ctrl+U")
        beside = QWidget()  # not stretched to both rows
        top = QVBoxLayout(beside)
        top.setContentsMargins(0, 0, 0, 0)
        top.addWidget(self.adopt_button)
        top.addStretch(1)
        self.column.addWidget(FlowRow([both, beside]))
        self._shown: tuple[str, str] = ("", "")

    def take(self, editor: EndEditor, computer: bool) -> None:
        """An end was changed by the person."""
        text = editor.text()
        if text != self._shown[0 if computer else 1]:
            self.settings_changed.emit(computer, text)

    def show_ends(self, ours: Settings | None, theirs: Settings | None, both: Comparison | None, theme: Theme) -> None:
        """Show both ends and the comparison of what is sent with what is heard."""
        self.computer.show_settings(ours)
        self.device.show_settings(theirs)
        self._shown = (self.computer.text(), self.device.text())
        differ = ours.differences(theirs) if ours and theirs else []
        self.adopt_button.setEnabled(bool(differ))
        if ours is None or theirs is None or both is None:
            return
        wrong = sum(one.doubtful for one in both.appears)
        text = "What would appear on the computer: {n} characters, {wrong} with errors"
        alike = "What appears on the computer"
        self.appears.setText(text.format(n=len(both.appears), wrong=wrong) if differ else alike)
        sent = "Device sends “{c}” at {rate} bit/s, {frame}"
        self._sent_title.setText(sent.format(c=both.character, rate=theirs.rate, frame=_spoken(theirs.frame)))
        heard = "The computer looks at the line at {rate} bit/s, {frame}"
        self._heard_title.setText(heard.format(rate=ours.rate, frame=_spoken(ours.frame)))
        self.sent.show_wave(both.edges, both.seconds, both.sender, theme)
        self.heard.show_wave(both.edges, both.seconds, both.receiver, theme)
        self.bytes.show_bytes(both.appears, theme)


def _spoken(frame: Frame) -> str:
    words = {"N": "no parity", "E": "even parity", "O": "odd parity", "M": "mark parity", "S": "space parity"}
    return f"{frame.data_bits} bits, {words[frame.parity]}"
