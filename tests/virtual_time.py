"""Virtual time for everything that runs beside the test: drivers, searches, proofs, timers of the window.

Theory of operation. Threads stay threads, but time only moves when all of them wait. A thread that waits on this clock is
*parked* until a moment; one that waits for another thread (`Thread.join`, `Future.result`) is *set aside*; each other one is
*busy*. The test's own thread is the one that moves time on: once nobody is busy it goes to the earliest moment that somebody
is parked for, wakes who is due, and waits until all are parked again. Work that is handed to a pool counts from then on
until its callbacks are done. So a loaded machine makes a test take longer, and changes nothing that it sees.

Timers of the window (`ui.timer.Timer`) are kept here while virtual time is in force; what Qt has queued is handled between
two moments. What waits for the outside world (a pty, a process, a socket) does not go by this clock: `settled` waits for it.
"""

import concurrent.futures.thread as pools
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from contextlib import contextmanager
from typing import Any

import pytest

from humble_courier.domain.clock import Clock

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
            self.go_on(done)
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

    def _next(self) -> float:
        return min([*self._parked.values(), *self.timers.values()], default=float("inf"))

    def _move(self, to: float) -> None:
        """Go to a moment; who is due is woken, then the timers."""
        with self._gate:
            self._now = max(self._now, to)
            due = [me for me, until in self._parked.items() if until <= self._now]
            for me in due:
                del self._parked[me]
            self._count(len(due))
        self.settled()
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

    def go_on(self, done: Callable[[], object], until: float = float("inf")) -> bool:
        """Let time pass until something holds, or until a moment; returns whether it holds."""
        hung = time.monotonic() + HUNG_S
        while True:
            self.settled()
            self.between()
            self.settled()
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


@contextmanager
def in_force(clock: VirtualTime) -> Iterator[VirtualTime]:
    """While this lasts, threads and pools that are begun count, and waiting for them moves time on."""
    thread_start, thread_join, run_item = threading.Thread.start, threading.Thread.join, pools._WorkItem.run
    submit, result = pools.ThreadPoolExecutor.submit, Future.result

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

    def handed_over(self: Any, work: Callable[..., Any], /, *args: Any, **more: Any) -> Any:
        clock.begun()
        return submit(self, work, *args, **more)

    def carried_out(self: Any) -> None:
        try:
            run_item(self)
        finally:
            clock.over()

    def got(self: Any, timeout: float | None = None) -> Any:
        if not self.done():
            clock.until_done(self.done, lambda: result(self, timeout))
        return result(self, timeout)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(threading.Thread, "start", start)
        patch.setattr(threading.Thread, "join", join)
        patch.setattr(pools.ThreadPoolExecutor, "submit", handed_over)
        patch.setattr(pools._WorkItem, "run", carried_out)
        patch.setattr(Future, "result", got)
        patch.setattr(VirtualTime, "here", clock)
        yield clock
