"""In step with the team's records, beside the window: a little after it has opened, from time to time, and when asked."""

import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal

from humble_courier.app.records.team import InStep, in_step
from humble_courier.errors import CourierError
from humble_courier.ui.timer import Timer

AFTER_MS, EVERY_MS = 4000, 300_000


class TeamStep(QObject):
    """`team` gives the server's name, empty for none. `told`: a sentence, whether it went well, and whether pieces came."""

    told = pyqtSignal(str, bool, bool)
    _ended = pyqtSignal(object)

    def __init__(self, folder: Path, team: Callable[[], str], after_ms: int = AFTER_MS) -> None:
        super().__init__()
        self._folder, self._team = folder, team
        self._worker = ThreadPoolExecutor(1, "team")
        self._going: Future[InStep] | None = None
        self._ended.connect(self._tell)
        self._timer, first = Timer(self, self.begin, EVERY_MS), Timer(self, self.begin, after_ms, once=True)
        self._timer.start()
        first.start()

    def begin(self) -> None:
        """Begin, where a team is named and nothing is under way."""
        url = self._team()
        if url and self._going is None:
            self._going = self._worker.submit(in_step, self._folder, url)
            self._going.add_done_callback(self._ended.emit)

    def _tell(self, done: "Future[InStep]") -> None:
        self._going = None
        if done.cancelled():
            return
        error, clock = done.exception(), time.strftime("%H:%M")
        if isinstance(error, CourierError):
            self.told.emit(f"Not in step with the team at {clock}: {error}", False, False)
            return
        found = done.result()  # a defect is told as one
        self.told.emit(f"{found.told} ({clock})", True, bool(found.taken or found.files))

    def rest(self) -> None:
        """The window has gone: once more, so that the day's work is there for the others."""
        self._timer.stop()
        self.begin()
        self._worker.shutdown(wait=True)
