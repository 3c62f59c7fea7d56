"""A copy of the records each day, made beside the window a little after it has opened."""

from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from humble_courier.errors import CourierError
from humble_courier.ui.timer import Timer

AFTER_MS = 3000  # when the window has long been shown


class DayCopy(QObject):
    """`refused` tells why there is no copy of today: the disk is full, or the folder may not be written."""

    refused = pyqtSignal(object)
    _ended = pyqtSignal(object)

    def __init__(self, folder: Path, after_ms: int = AFTER_MS) -> None:
        super().__init__()
        self._folder, self._worker = folder, ThreadPoolExecutor(1, "copy")
        self._ended.connect(self._tell)
        Timer(self, self._begin, after_ms, once=True).start()

    def _begin(self) -> None:
        from humble_courier.app.records.backup import copy_of_the_day

        self._worker.submit(copy_of_the_day, self._folder).add_done_callback(self._ended.emit)

    def _tell(self, done: "Future[Path | None]") -> None:
        error = done.exception()
        if isinstance(error, CourierError):
            self.refused.emit(error)
        else:
            done.result()  # a defect is none of the machine's refusals: it is told as one

    def rest(self) -> None:
        """The window has gone: wait for the copy."""
        self._worker.shutdown(wait=True)
