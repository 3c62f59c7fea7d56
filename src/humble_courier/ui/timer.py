"""The one kind of timer of the window. Tests let all of them go by a time of their own, in this one place."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer


class Timer(QTimer):
    """Calls `due` each `ms` milliseconds from `start` on, or `once` after each `start`."""

    def __init__(self, parent: QObject, due: Callable[[], object], ms: int = 0, once: bool = False) -> None:
        super().__init__(parent)
        self.setInterval(ms)
        self.setSingleShot(once)
        self.timeout.connect(due)
