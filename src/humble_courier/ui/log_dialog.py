"""A kernel log, pasted or read live: what it says, and what to do."""

from collections.abc import Callable

from PyQt6.QtWidgets import QDialog, QHBoxLayout, QPlainTextEdit, QVBoxLayout, QWidget

from humble_courier.errors import CourierError
from humble_courier.ui.parts import button, label

Told = list[tuple[str, str]]


class LogDialog(QDialog):
    """Text on top, conclusions below; they follow the text as it changes."""

    def __init__(self, parent: QWidget, read: Callable[[str], Told], text: str, live: Callable[[], str]) -> None:
        super().__init__(parent)
        self._read, self._live = read, live
        self.setWindowTitle(self.tr("Kernel log"))
        self.resize(820, 560)
        column = QVBoxLayout(self)
        column.addWidget(
            label(self.tr("Paste what dmesg or the journal says; files can be dropped here."), "quiet", wrap=True)
        )
        self.text = QPlainTextEdit(text)
        self.text.setAccessibleName(self.tr("Kernel log"))
        column.addWidget(self.text, 2)
        self.said = label("", "", wrap=True)
        column.addWidget(self.said, 1)
        row = QHBoxLayout()
        self.live = button(self.tr("Read this machine's log"), "", self._read_live, "Ctrl+R")
        row.addWidget(self.live)
        row.addStretch(1)
        row.addWidget(button(self.tr("Close"), "main", self.close, "Esc"))
        column.addLayout(row)
        self.text.textChanged.connect(self._tell)
        self._tell()

    def _read_live(self) -> None:
        try:
            self.text.setPlainText(self._live())
        except CourierError as error:
            self.said.setText(str(error))

    def _tell(self) -> None:
        told = self._read(self.text.toPlainText())
        self.said.setText("\n".join(f"{what}. {then}" for what, then in told))
