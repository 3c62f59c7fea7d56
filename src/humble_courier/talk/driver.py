"""The thin driver: owns the port, feeds the session, sends what the session hands out. Decides nothing."""

import queue
import threading
import time
from collections.abc import Callable

from humble_courier.errors import CourierError
from humble_courier.protocols.lines import End
from humble_courier.talk.port import Port
from humble_courier.talk.session import Session

LINES_EVERY_S = 0.2


class Driver:
    """Moves bytes between a port and a session, a step at a time."""

    def __init__(self, port: Port, session: Session) -> None:
        self.port, self.session = port, session
        self.lock = threading.Lock()  # held while the session changes, never while the port is waited for
        self._lines_at = 0.0

    def step(self) -> bytes:
        """Read once (at most a few hundredths of a second), feed the session; returns the bytes without marks."""
        data = self.port.read()
        now = time.monotonic()
        if now - self._lines_at > LINES_EVERY_S:
            self._lines_at = now
            self.session.lines = self.port.lines()
        with self.lock:
            return bytes(one.byte for one in self.session.hear(time.time(), data, self.port.marked))

    def say(self, text: str, end: End, meaning: str = "") -> bytes:
        """Send a line; raises MachineRefused while listening only. Returns the bytes sent."""
        with self.lock:
            data = self.session.say(time.time(), text, end, meaning)
        self.port.write(data)
        return data


class BackgroundDriver:
    """Runs a driver in a thread of its own. `error` is set when the port vanished; `heard` counts changes."""

    def __init__(self, driver: Driver, changed: Callable[[], None]) -> None:
        self.driver = driver
        self.error: CourierError | None = None
        self._changed, self._stop = changed, threading.Event()
        self._words: queue.Queue[tuple[str, End, str]] = queue.Queue()
        self._thread = threading.Thread(target=self._run, name="port", daemon=True)
        self._thread.start()

    def say(self, text: str, end: End, meaning: str = "") -> None:
        """Have a line sent soon."""
        self._words.put((text, end, meaning))

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

    def _once(self) -> None:
        while not self._words.empty():
            self.driver.say(*self._words.get())
            self._changed()
        if self.driver.step():
            self._changed()
