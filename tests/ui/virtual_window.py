"""The window in virtual time: its timers go by the test's clock, and what Qt has queued is handled between two moments."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager

import pytest
from PyQt6 import sip
from PyQt6.QtCore import QCoreApplication, QEvent
from pytestqt.qtbot import QtBot

from humble_courier.ui.timer import Timer
from tests.virtual_time import VirtualTime

QT_MS = 10_000  # ends a test that hangs
PATIENCE_S = 60.0  # of virtual time at least: it costs nothing where it is not needed


def _handle_events() -> None:
    QCoreApplication.sendPostedEvents()
    QCoreApplication.processEvents()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)  # which only a loop does by itself


@contextmanager
def of_window(clock: VirtualTime) -> Iterator[VirtualTime]:
    """While this lasts, timers of the window and the waits of `qtbot` go by `clock`."""

    real_wait = QtBot.waitUntil

    def start(self: Timer, ms: int | None = None) -> None:
        if ms is not None:
            self.setInterval(ms)
        clock.timers[self] = clock.now() + self.interval() / 1000

    def stop(self: Timer) -> None:
        clock.timers.pop(self, None)

    def wait_until(self: QtBot, done: Callable[[], object], *, timeout: int = 5000) -> None:
        def holds() -> bool:
            try:
                return done() in (None, True)
            except AssertionError:
                return False

        if not clock.go_on(holds, clock.now() + max(PATIENCE_S, timeout / 1000)):
            real_wait(self, done, timeout=QT_MS)  # what is Qt's own, such as a window that becomes the active one

    def between() -> None:
        for timer in [one for one in clock.timers if sip.isdeleted(one)]:
            del clock.timers[timer]
        _handle_events()

    clock.between = between
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(Timer, "start", start)
        patch.setattr(Timer, "stop", stop)
        patch.setattr(Timer, "isActive", lambda self: self in clock.timers)
        patch.setattr(QtBot, "waitUntil", wait_until)
        patch.setattr(QtBot, "wait", lambda _, ms: clock.go_on(lambda: False, clock.now() + ms / 1000))
        yield clock
        clock.between = lambda: None
        clock.timers.clear()
