"""Virtual time for everything that runs beside the test: drivers, searches, proofs, timers of the window.

Theory of operation. Threads stay threads, but time only moves when all of them wait. A thread that waits on this clock is
*parked* until a moment; one that waits for another thread (`Thread.join`, `Future.result`) is *set aside*; each other one is
*busy*. The test's own thread is the one that moves time on: once nobody is busy it goes to the earliest moment that somebody
is parked for, wakes who is due, and waits until all are parked again. Work that is handed to a pool counts from then on
until its callbacks are done. So a loaded machine makes a test take longer, and changes nothing that it sees.

Timers of the window (`ui.timer.Timer`) are kept here while virtual time is in force; what Qt has queued is handled between
two moments. A far end on a pty is `outside`: it has no thread, and answers between two moments; a driver that reads a pty
waits as one that reads a simulated port does. Nothing else outside (a process, a socket) goes by this clock.
"""

import concurrent.futures.thread as pools
import select
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from contextlib import contextmanager
from typing import Any

import pytest
import serial

from humble_courier.domain.clock import Clock
from humble_courier.port.port import OpenPort

HUNG_S = 120.0  # of the computer's own time in which nothing moved: a test that hangs ends, and says where
BETWEEN_S = 0.001  # looks at a thread that ends without telling


class VirtualTime(Clock):
    """A clock that stands still until the test's thread waits. `wall` begins at the time of day, and never gives one twice.

    `here`: the one that is in force.
    """

    here: "VirtualTime | None" = None

    def __init__(self, begin: float = 1000.0) -> None:
        self._now, self._day, self._reads = begin, time.time() - begin, 0
        self._gate = threading.Condition()
        self._mine = threading.get_ident()
        self._busy = 0
        self._parked: dict[int, float] = {}
        self._aside: dict[int, Callable[[], bool]] = {}
        self.timers: dict[Any, float] = {}  # the window's, with when each is due
        self.between: Callable[[], None] = lambda: None  # what is handled between two moments
        self.outside: list[Callable[[], bool]] = []  # far ends on ptys: each tells whether it had something to do

    # The clock

    def now(self) -> float:
        return self._now

    def wall(self) -> float:
        self._reads += 1
        return self._day + self._now + self._reads * 1e-6

    def wait(self, until: float) -> None:
        me = threading.get_ident()
        if me == self._mine:
            self.go_on(lambda: self._now >= until, until)
            return
        with self._gate:
            if until <= self._now:
                return
            self._parked[me] = until
            self._count(-1)
            while me in self._parked:
                self._gate.wait()

    # Who is busy

    def _count(self, change: int) -> None:
        with self._gate:
            self._busy += change
            self._gate.notify_all()

    def begun(self) -> None:
        """A piece of work was handed to a thread."""
        self._count(+1)

    def over(self) -> None:
        """It is done."""
        self._count(-1)

    def until_done(self, done: Callable[[], bool], real: Callable[[], Any]) -> None:
        """A thread waits for another one: `real` does, `done` tells whether it would return at once."""
        me = threading.get_ident()
        if me == self._mine:
            self._stand_by(done)
            return
        with self._gate:
            self._aside[me] = done
            self._count(-1)
        try:
            real()
        finally:
            with self._gate:
                del self._aside[me]
                self._count(+1)

    # The test's thread

    def _quiet(self) -> bool:
        return self._busy <= 0 and not any(done() for done in list(self._aside.values()))

    def settled(self) -> None:
        """Wait until nobody is busy."""
        with self._gate:
            hung = time.monotonic() + HUNG_S
            while not self._quiet():
                self._gate.wait(BETWEEN_S * 20)
                assert time.monotonic() < hung, f"{self._busy} pieces of work do not end, {len(self._parked)} threads wait"

    def _answered(self) -> None:
        """Everybody has done what there was to do at this moment, those outside as well."""
        self.settled()
        while sum(step() for step in list(self.outside)):
            self.settled()

    def _next(self) -> float:
        return min([*self._parked.values(), *self.timers.values()], default=float("inf"))

    def _stand_by(self, done: Callable[[], bool]) -> None:
        """The test's thread waits for another one: time passes for the others, and the window stands still."""
        hung = time.monotonic() + HUNG_S
        while self._answered() or not done():
            with self._gate:
                to = min(self._parked.values(), default=self._now)
            self._wake(to)
            time.sleep(0 if to > self._now else BETWEEN_S)
            assert time.monotonic() < hung, "a thread that is waited for does not end"

    def _wake(self, to: float) -> None:
        with self._gate:
            self._now = max(self._now, to)
            due = [me for me, until in self._parked.items() if until <= self._now]
            for me in due:
                del self._parked[me]
            self._count(len(due))
        self._answered()

    def _move(self, to: float) -> None:
        """Go to a moment; who is due is woken, then the timers."""
        self._wake(to)
        for timer in [one for one, at in self.timers.items() if at <= self._now]:
            self._fire(timer)

    def _fire(self, timer: Any) -> None:
        if timer not in self.timers:
            return  # another one has stopped it
        if timer.isSingleShot():
            del self.timers[timer]
        else:
            self.timers[timer] = self._now + max(1, timer.interval()) / 1000
        timer.timeout.emit()

    def pass_s(self, seconds: float) -> None:
        """Let so much time pass."""
        self.go_on(lambda: False, self._now + seconds)

    def go_on(self, done: Callable[[], object], until: float = float("inf")) -> bool:
        """Let time pass until something holds, or until a moment; returns whether it holds."""
        hung = time.monotonic() + HUNG_S
        while True:
            self._answered()
            self.between()
            self._answered()
            if done():
                return True
            to = min(self._next(), until)
            if to == float("inf"):  # nobody waits for a moment: a thread is about to end
                time.sleep(BETWEEN_S)
                assert time.monotonic() < hung, "nothing goes on, and nothing is waited for"
                continue
            hung = time.monotonic() + HUNG_S
            if until < self._next():
                self._now = max(self._now, until)
                self.between()
                return bool(done())
            self._move(to)


def _threads(clock: VirtualTime, patch: pytest.MonkeyPatch) -> None:
    """Threads count from their start on, and waiting for their end moves time on."""
    thread_start, thread_join = threading.Thread.start, threading.Thread.join

    def start(self: threading.Thread) -> None:
        ours = getattr(self, "_target", None)
        if ours is None or ours is pools._worker:
            thread_start(self)
            return

        def counted(*args: Any, **more: Any) -> None:
            try:
                ours(*args, **more)
            finally:
                clock.over()

        self._target = counted  # type: ignore[attr-defined]
        clock.begun()
        thread_start(self)

    def join(self: threading.Thread, timeout: float | None = None) -> None:
        clock.until_done(lambda: not self.is_alive(), lambda: thread_join(self, timeout))

    patch.setattr(threading.Thread, "start", start)
    patch.setattr(threading.Thread, "join", join)


def _pools(clock: VirtualTime, patch: pytest.MonkeyPatch) -> None:
    """What is handed to a pool counts until its callbacks are done, or it is given up."""
    submit, result, run_item = pools.ThreadPoolExecutor.submit, Future.result, pools._WorkItem.run
    waiting: set[Future[Any]] = set()  # handed over, and neither carried out nor given up

    def given_up(done: "Future[Any]") -> None:
        if done.cancelled() and done in waiting:
            waiting.discard(done)
            clock.over()

    def handed_over(self: Any, work: Callable[..., Any], /, *args: Any, **more: Any) -> Any:
        clock.begun()
        made = submit(self, work, *args, **more)
        waiting.add(made)
        made.add_done_callback(given_up)
        return made

    def carried_out(self: Any) -> None:
        told = self.future.cancelled() and self.future not in waiting
        waiting.discard(self.future)
        try:
            run_item(self)
        finally:
            if not told:
                clock.over()

    def got(self: Any, timeout: float | None = None) -> Any:
        if not self.done():
            clock.until_done(self.done, lambda: result(self, timeout))
        return result(self, timeout)

    patch.setattr(pools.ThreadPoolExecutor, "submit", handed_over)
    patch.setattr(pools._WorkItem, "run", carried_out)
    patch.setattr(Future, "result", got)


def _ptys(clock: VirtualTime, patch: pytest.MonkeyPatch) -> None:
    """Who reads a pty waits by this clock while nothing is there."""
    read = serial.Serial.read

    def heard(self: serial.Serial, size: int = 1) -> bytes:
        if not select.select([self.fd], [], [], 0)[0]:
            clock.wait(clock.now() + (self.timeout or 0.0))
        return read(self, size) if select.select([self.fd], [], [], 0)[0] else b""

    def comes(self: OpenPort, within_s: float) -> bool:
        clock.wait(clock.now() + within_s)
        return bool(self._raw.in_waiting)

    patch.setattr(serial.Serial, "read", heard)
    patch.setattr(OpenPort, "_comes", comes)


@contextmanager
def in_force(clock: VirtualTime) -> Iterator[VirtualTime]:
    """While this lasts, threads, pools and ptys go by this clock."""
    with pytest.MonkeyPatch.context() as patch:
        for counts in (_threads, _pools, _ptys):
            counts(clock, patch)
        patch.setattr(VirtualTime, "here", clock)
        yield clock
