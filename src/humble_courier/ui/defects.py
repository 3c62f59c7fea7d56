"""A defect of ours while the window is open: one dialog with the place of the report, and the program goes on."""

import sys
import threading
from types import TracebackType

from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtWidgets import QMessageBox, QWidget

from humble_courier.app.defects import told, write_report


class Defects(QObject):
    """Takes what nobody else has caught, from any thread. One dialog at a time: a defect that repeats does not pile up."""

    _happened = pyqtSignal(str)

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self._window = window
        self.dialog: QMessageBox | None = None
        self._happened.connect(self._show)  # from another thread it comes when the window gets to it

    def watch(self) -> None:
        """From now on defects come here."""
        sys.excepthook = self.take
        threading.excepthook = lambda args: self.take(args.exc_type, args.exc_value, args.exc_traceback)

    def take(self, kind: type[BaseException], error: BaseException | None, trace: TracebackType | None) -> None:
        """Write the report, and have it told."""
        text = told(kind, write_report(kind, error, trace))
        sys.stderr.write(f"humble-courier: {text}\n")
        self._happened.emit(text)

    def _show(self, text: str) -> None:
        if self.dialog is not None:
            return
        self.dialog = QMessageBox(self._window)
        self.dialog.setIcon(QMessageBox.Icon.Warning)
        self.dialog.setWindowTitle("A defect of this program")
        self.dialog.setTextFormat(Qt.TextFormat.PlainText)
        self.dialog.setText(
            f"This is {text}. What was kept is safe, and the program goes on; if something looks wrong, close it and open "
            "it anew."
        )
        self.dialog.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.dialog.finished.connect(self._closed)
        self.dialog.open()

    def _closed(self) -> None:
        self.dialog = None
