"""The thin driver: owns the port, feeds the session, sends what the session hands out. Decides nothing.

What is to be sent waits in `_out` and is handed over as the port takes it, between two reads: a device that holds us off
keeps neither the reading nor the end of it waiting. When the permit is taken back, what has not left is thrown away, here
and in the port, and shown as not sent.
"""

import queue
import threading
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.domain.received import Chunk
from humble_courier.domain.text import Terminator, octets
from humble_courier.errors import BadInput, CourierError, HeldOff, NoLines, NotArmed
from humble_courier.port.permit import Permit, checked
from humble_courier.port.port import OpenPort
from humble_courier.port.session import Session

HELD_OFF_S = 30.0  # a plotter with a full buffer draws for seconds before it takes more (common practice); ten times that
JOIN_S = 2.0  # for the thread of a port whose system call does not come back
LINES_EVERY_S = 0.2  # lamps that follow within a fifth of a second look immediate; asking costs a system call each


class Log(Protocol):
    """Who keeps what is heard and said."""

    def begin(self, address: str, settings: str) -> None:
        """A port is open, at these settings."""

    def heard(self, t: float, chunk: Chunk) -> None:
        """Bytes that came at `t`, seconds since the epoch."""

    def said(self, t: float, data: bytes) -> None:
        """Bytes that were sent."""

    def not_sent(self, t: float, count: int) -> None:
        """The last `count` bytes of those that were to be sent were not."""

    def close(self) -> None:
        """No more will come."""


@dataclass
class _Outgoing:
    """What has not left yet. `left`: bytes that had not, when it was last seen to move, at `since`."""

    rest: bytes
    permit: Permit
    left: int
    since: float


class Driver:
    """Moves bytes between a port and a session, a step at a time."""

    def __init__(
        self, port: OpenPort, session: Session, log: Log | None = None, clock: Clock = SystemClock()
    ) -> None:  # fmt: skip
        self.port, self.session, self.log, self._clock = port, session, log, clock
        self.lock = threading.Lock()  # held while the session changes, never while the port is waited for
        self._lines_at = 0.0
        self._out: deque[_Outgoing] = deque()

    def step(self) -> Chunk:
        """Hand over what is to be sent, read once (at most a few hundredths of a second), feed the session.

        Returns what came, without marks. Raises PortGone, and HeldOff when nothing has left for half a minute.
        """
        self._push()
        data = self.port.read()
        now = self._clock.now()
        if now - self._lines_at > LINES_EVERY_S:
            self._lines_at = now
            self.session.lines, self.session.alarms = self.port.lines(), self.port.alarms
        t = self._clock.wall()
        with self.lock:
            chunk = self.session.hear(t, data, self.port.marked)
        if self.log is not None and chunk.data:
            self.log.heard(t, chunk)
        return chunk

    def say(self, text: str, end: Terminator, meaning: str = "") -> bytes:
        """Send a line; raises MachineRefused while listening only. Returns the bytes sent."""
        return self.say_bytes(octets(text) + end.octets, meaning)

    def say_bytes(self, data: bytes, meaning: str = "", joined: bool = False) -> bytes:
        """Send bytes, as fast as the port takes them; raises NotArmed while listening only, PortGone."""
        t = self._clock.wall()
        permit = checked(self.session.permit)  # held on to: another thread may take it from the session meanwhile
        with self.lock:
            data = self.session.say_bytes(t, data, meaning, joined)
        if self.log is not None:
            self.log.said(t, data)
        self._out.append(_Outgoing(data, permit, len(data), self._clock.now()))
        self._push()
        return data

    def send_break(self, seconds: float) -> None:
        """Hold the line at space; raises NotArmed while listening only, BadInput, PortGone."""
        with self.lock:
            self.session.say_bytes(self._clock.wall(), b"", f"break of {seconds * 1000:.0f} ms")
        self.port.send_break(seconds, self.session.permit)

    def set_lines(self, dtr: bool, rts: bool) -> None:
        """Set DTR and RTS by hand; raises NotArmed while listening only, PortGone."""
        self.port.set_lines(dtr, rts, self.session.permit)

    def _push(self) -> None:
        while self._out:
            first, now = self._out[0], self._clock.now()
            if not first.permit.holds:
                self.take_back()
                return
            first.rest = first.rest[self.port.put(first.rest, first.permit) :] if first.rest else b""
            left = len(first.rest) + self.port.waiting
            if left != first.left:
                first.left, first.since = left, now
            if not left:
                self._out.popleft()
            elif now - first.since > HELD_OFF_S:
                raise HeldOff(self.take_back())
            elif first.rest or len(self._out) == 1:
                return
            else:
                self._out.popleft()  # all of it is in the port, and the next may follow

    def take_back(self) -> int:
        """Nothing more leaves: throw away what has not, here and in the port, and say so; returns how many bytes."""
        unsent = sum(len(one.rest) for one in self._out) + self.port.take_back()
        self._out.clear()
        self._not_sent(unsent)
        return unsent

    def close(self) -> None:
        """Close port and log; what has not left is thrown away and shown as not sent."""
        unsent = sum(len(one.rest) for one in self._out)
        self._out.clear()
        try:
            self._not_sent(unsent + self.port.close())
        finally:
            if self.log is not None:
                self.log.close()

    def _not_sent(self, count: int) -> None:
        if count:
            with self.lock:
                self.session.not_sent(count)
            if self.log is not None:
                self.log.not_sent(self._clock.wall(), count)


class BackgroundDriver:
    """Runs a driver in a thread of its own. `error` is set when the port vanished; `refused` when words were not sent.

    A refusal is an answer and no end: the thread goes on listening.
    """

    def __init__(self, driver: Driver, changed: Callable[[], None]) -> None:
        self.driver = driver
        self.error: CourierError | None = None
        self.refused: CourierError | None = None
        self._changed, self._stop = changed, threading.Event()
        self._acts: queue.Queue[tuple[Permit | None, Callable[[Driver], object]]] = queue.Queue()
        self._thread = threading.Thread(target=self._run, name="port", daemon=True)
        self._thread.start()

    def say(self, text: str, end: Terminator, meaning: str = "") -> None:
        """Have a line sent soon."""
        self.do(lambda driver: driver.say(text, end, meaning))

    def do(self, act: Callable[[Driver], object]) -> None:
        """Have something sent soon, in its thread, under the permit of this moment: a later one does not revive it."""
        self._acts.put((self.driver.session.permit, act))

    def stop(self) -> None:
        """End the thread and close the port."""
        self._stop.set()
        self._thread.join(timeout=JOIN_S)

    def _run(self) -> None:
        try:
            while not self._stop.is_set():
                self._once()
        except CourierError as error:
            self.error = error
            self._changed()
        finally:
            self.driver.close()

    def _once(self) -> None:
        try:
            while not self._acts.empty():
                permit, act = self._acts.get()
                checked(permit)
                act(self.driver)
                self._changed()
            if self.driver.step().data:
                self._changed()
        except (NotArmed, HeldOff, NoLines, BadInput) as refusal:
            self.refused = refusal
            self._changed()
