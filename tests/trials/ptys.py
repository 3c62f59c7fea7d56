"""A far end on a pseudo terminal: what it received is the witness of what left the program."""

import os
import pty
import select
import threading
import time
import tty
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from tests.virtual_time import VirtualTime

PAUSE_S = 0.25  # what is handed over piece by piece is one message; more than a message that is paced pauses


class FarEnd:
    """Answers by `answer`, which is handed what came since its last answer, or since a pause; `address` for the program,
    `received` all that came. Pulled by `pull`, or after some bytes.
    """

    def __init__(self, answer: Callable[[bytes], bytes] = lambda _: b"", pull_after: int | None = None) -> None:
        self._master, self._slave = pty.openpty()
        tty.setraw(self._slave)
        self.address, self.received = os.ttyname(self._slave), bytearray()
        self._answer, self._pull_after = answer, pull_after
        self._over, self._clock = threading.Event(), VirtualTime.here
        self._gathered, self._came = bytearray(), 0.0
        self._thread: threading.Thread | None = None
        if self._clock is not None:
            self._clock.outside.append(self._step)
            return
        self._thread = threading.Thread(target=self._run, daemon=True)
        self._thread.start()

    def _run(self) -> None:
        while not self._over.is_set():
            self._step(0.02)
        self._close()

    def _step(self, within_s: float = 0.0) -> bool:
        """Take what has come, and answer it; returns whether something had."""
        if self._over.is_set() or not select.select([self._master], [], [], within_s)[0]:
            return False
        data = os.read(self._master, 4096)
        self.received += data
        if self._pull_after is not None and len(self.received) > self._pull_after:
            self._over.set()
            if self._thread is None:
                self._close()
            return True
        now = self._clock.now() if self._clock is not None else time.monotonic()
        if now - self._came > PAUSE_S:
            self._gathered.clear()
        self._gathered += data
        self._came = now
        if reply := self._answer(bytes(self._gathered)):
            self._gathered.clear()
            os.write(self._master, reply)
        return True

    def _close(self) -> None:
        for end in (self._slave, self._master):
            os.close(end)

    def say(self, data: bytes) -> None:
        """Something is said unasked."""
        os.write(self._master, data)

    def pull(self) -> None:
        """The far end is gone."""
        if self._thread is None and not self._over.is_set():
            self._close()
        self._over.set()
        if self._thread is not None:
            self._thread.join()


@contextmanager
def far_end(answer: Callable[[bytes], bytes] = lambda _: b"", pull_after: int | None = None) -> Iterator[FarEnd]:
    """A far end for as long as it is needed."""
    made = FarEnd(answer, pull_after)
    try:
        yield made
    finally:
        made.pull()


def echo(data: bytes) -> bytes:
    """As a loop-back plug."""
    return data
