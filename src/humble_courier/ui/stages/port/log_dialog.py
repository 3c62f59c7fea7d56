"""A kernel log, pasted, dropped as a file or read live: what it says, and what to do."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QMimeData, pyqtSignal
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QPlainTextEdit, QVBoxLayout, QWidget

from humble_courier.app.port.machine import Machine
from humble_courier.errors import CourierError
from humble_courier.ui.widgets.basics import button, label


class LogText(QPlainTextEdit):
    """Text that takes a dropped file by its path: a log may be far larger than a text field bears."""

    dropped = pyqtSignal(str)

    def canInsertFromMimeData(self, source: QMimeData | None) -> bool:
        """Files as well as text."""
        return source is not None and (source.hasUrls() or super().canInsertFromMimeData(source))

    def insertFromMimeData(self, source: QMimeData | None) -> None:
        """A file is handed on by its path, text is taken in."""
        path = source.urls()[0].toLocalFile() if source is not None and source.hasUrls() else ""
        if path:
            self.dropped.emit(path)
        else:
            super().insertFromMimeData(source)


class LogDialog(QDialog):
    """Text on top, conclusions below; they follow the text as it changes."""

    def __init__(self, parent: QWidget, machine: Machine, text: str, live: Callable[[], str]) -> None:
        super().__init__(parent)
        self._machine, self._live = machine, live
        self.setWindowTitle("Kernel log")
        self.resize(820, 560)
        column = QVBoxLayout(self)
        column.addWidget(label("Paste what dmesg or the journal says; files can be dropped here.", "quiet", wrap=True))
        self.text = LogText(text)
        self.text.setAccessibleName("Kernel log")
        column.addWidget(self.text, 2)
        self.said = label("", "", wrap=True)
        column.addWidget(self.said, 1)
        row = QHBoxLayout()
        self.live = button("Read this machine's log", "", self._read_live, "Ctrl+R")
        row.addWidget(self.live)
        row.addStretch(1)
        row.addWidget(button("Close", "main", self.close, "Esc"))
        column.addLayout(row)
        self.text.textChanged.connect(self._tell)
        self.text.dropped.connect(self._read_file)
        self._tell()

    def _read_live(self) -> None:
        try:
            self.text.setPlainText(self._live())
        except CourierError as error:
            self.said.setText(str(error))

    def _read_file(self, path: str) -> None:
        try:
            told = self._machine.read_log_file(Path(path))
        except CourierError as error:
            self.said.setText(str(error))
            return
        self.text.setPlainText(f"read from {path}")
        self._say(told)

    def _tell(self) -> None:
        self._say(self._machine.read_log(self.text.toPlainText()))

    def _say(self, told: list[tuple[str, str]]) -> None:
        self.said.setText("\n".join(f"{what}. {then}" for what, then in told))
