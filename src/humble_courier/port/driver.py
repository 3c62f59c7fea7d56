"""The thin driver: owns the port, feeds the session, sends what the session hands out. Decides nothing."""

import queue
import threading
import time
from collections.abc import Callable
from typing import Protocol

from humble_courier.domain.received import Chunk
from humble_courier.domain.text import Terminator, octets
from humble_courier.errors import CourierError
from humble_courier.port.port import OpenPort
from humble_courier.port.session import Session

LINES_EVERY_S = 0.2  # lamps that follow within a fifth of a second look immediate; asking costs a system call each


class Log(Protocol):
    """Who keeps what is heard and said."""

    def heard(self, t: float, chunk: Chunk) -> None:
        """Bytes that came at `t`, seconds since the epoch."""

    def said(self, t: float, data: bytes) -> None:
        """Bytes that were sent."""

    def close(self) -> None:
        """No more will come."""


class Driver:
    """Moves bytes between a port and a session, a step at a time."""

    def __init__(self, port: OpenPort, session: Session, log: Log | None = None) -> None:
        self.port, self.session, self.log = port, session, log
        self.lock = threading.Lock()  # held while the session changes, never while the port is waited for
        self._lines_at = 0.0

    def step(self) -> Chunk:
        """Read once (at most a few hundredths of a second), feed the session; returns what came, without marks."""
        data = self.port.read()
        now = time.monotonic()
        if now - self._lines_at > LINES_EVERY_S:
            self._lines_at = now
            self.session.lines, self.session.alarms = self.port.lines(), self.port.alarms
        t = time.time()
        with self.lock:
            chunk = self.session.hear(t, data, self.port.marked)
        if self.log is not None and chunk.data:
            self.log.heard(t, chunk)
        return chunk

    def say(self, text: str, end: Terminator, meaning: str = "") -> bytes:
        """Send a line; raises MachineRefused while listening only. Returns the bytes sent."""
        return self.say_bytes(octets(text) + end.octets, meaning)

    def say_bytes(self, data: bytes, meaning: str = "") -> bytes:
        """Send bytes; raises MachineRefused while listening only."""
        t = time.time()
        with self.lock:
            data = self.session.say_bytes(t, data, meaning)
        if self.log is not None:
            self.log.said(t, data)
        self.port.write(data)
        return data

    def send_break(self, seconds: float) -> None:
        """Hold the line at space; raises MachineRefused while listening only."""
        with self.lock:
            self.session.say_bytes(time.time(), b"", f"break of {seconds * 1000:.0f} ms")
        self.port.send_break(seconds)


class BackgroundDriver:
    """Runs a driver in a thread of its own. `error` is set when the port vanished; `refused` when words were not sent."""

    def __init__(self, driver: Driver, changed: Callable[[], None]) -> None:
        self.driver = driver
        self.error: CourierError | None = None
        self._changed, self._stop = changed, threading.Event()
        self._acts: queue.Queue[Callable[[Driver], object]] = queue.Queue()
        self._thread = threading.Thread(target=self._run, name="port", daemon=True)
        self._thread.start()

    def say(self, text: str, end: Terminator, meaning: str = "") -> None:
        """Have a line sent soon."""
        self.do(lambda driver: driver.say(text, end, meaning))

    def do(self, act: Callable[[Driver], object]) -> None:
        """Have something done with the driver soon, in its thread."""
        self._acts.put(act)

    def stop(self) -> None:
        """End the thread and close the port."""
        self._stop.set()
        self._thread.join(timeout=2.0)

    def _run(self) -> None:
        try:
            while not self._stop.is_set():
                self._once()
        except CourierError as error:
            self.error = error
            self._changed()
        finally:
            self.driver.port.close()
            if self.driver.log is not None:
                self.driver.log.close()

    def _once(self) -> None:
        while not self._acts.empty():
            self._acts.get()(self.driver)
            self._changed()
        if self.driver.step().data:
            self._changed()
