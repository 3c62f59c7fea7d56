"""The thin driver: owns the port, feeds the session, sends what the session hands out. Decides nothing.

What is to be sent waits in `_out` and is handed over between two reads, only so much at a time as leaves within a few
hundredths of a second: Linux cannot take back what an adapter has (drivers/usb/serial/generic.c throws away only its own
queue), so what was handed over is what still leaves after the permit is taken back. A frame whose gaps mean something goes
over whole. When the permit is taken back, what has not left is thrown away, here and in the port, and shown as not sent.

A port may be *lent*: a search or a proof then works at the open port, so that it is neither closed nor opened and no line
moves; the thread of the session stands still until it is given back.
"""

import queue
import threading
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from math import ceil
from typing import Protocol

from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.domain.received import Chunk
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator, octets
from humble_courier.errors import BadInput, CourierError, HeldOff, NoLines, NotArmed, PortGone
from humble_courier.port.agenda import Agenda
from humble_courier.port.permit import Permit, checked
from humble_courier.port.port import READ_S, LentPort, OpenLines, OpenPort
from humble_courier.port.session import Session

HELD_OFF_S = 30.0  # a plotter with a full buffer draws for seconds before it takes more (common practice); ten times that
JOIN_S = 2.0  # for the thread of a port whose system call does not come back
TELL = "Listen again; the report of this defect says more"
AHEAD_S = 0.05  # of characters handed over before they can have left: a read waits 20 ms, so the line does not run dry
SOON_S = 0.001  # a plan that is always due must not turn waiting into spinning
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
    whole: bool = False


class Driver:
    """Moves bytes between a port and a session, a step at a time."""

    def __init__(
        self, port: OpenPort, session: Session, log: Log | None = None, clock: Clock = SystemClock()
    ) -> None:  # fmt: skip
        self.port, self.session, self.log, self.clock = port, session, log, clock
        self.lock = threading.Lock()  # held while the session changes, never while the port is waited for
        self.agenda = Agenda()
        self._lines_at = 0.0
        self._out: deque[_Outgoing] = deque()
        self.handed = 0  # bytes that were handed to the port
        self._leaves_until = 0.0  # when all that was handed over can have left, by the time of its characters

    def step(self) -> Chunk:
        """Hand over what is to be sent, read once (at most a few hundredths of a second), feed the session.

        Returns what came, without marks. Raises PortGone, and HeldOff when nothing has left for half a minute.
        """
        self._take_due()
        self._push()
        data = self.port.read(max(SOON_S, self.agenda.due_in(self.clock.now())))
        now = self.clock.now()
        if now - self._lines_at > LINES_EVERY_S:
            self._lines_at = now
            self.session.lines, self.session.alarms = self.port.lines(), self.port.alarms
        t = self.clock.wall()
        with self.lock:
            chunk = self.session.hear(t, data, self.port.marked)
        if chunk.data:
            self.agenda.hear(chunk.data, now)
        if self.log is not None and chunk.data:
            self.log.heard(t, chunk)
        return chunk

    def say(self, text: str, end: Terminator, meaning: str = "") -> bytes:
        """Send a line; raises MachineRefused while listening only. Returns the bytes sent."""
        return self.say_bytes(octets(text) + end.octets, meaning)

    def _take_due(self) -> None:
        """Say what is planned for now, each under the permit with which it was planned."""
        for words, permit in self.agenda.take(self.clock.now()):
            if permit.holds and permit is self.session.permit:
                self.say_bytes(words.data, words.meaning)

    def say_bytes(self, data: bytes, meaning: str = "", joined: bool = False, whole: bool = False) -> bytes:
        """Send bytes, a little ahead of the line; raises NotArmed while listening only, PortGone.

        `whole`: handed over at once, as a gap within a frame would end it.
        """
        t = self.clock.wall()
        permit = checked(self.session.permit)  # held on to: another thread may take it from the session meanwhile
        with self.lock:
            data = self.session.say_bytes(t, data, meaning, joined)
        if self.log is not None:
            self.log.said(t, data)
        self._out.append(_Outgoing(data, permit, len(data), self.clock.now(), whole))
        self._push()
        return data

    def send_break(self, seconds: float) -> None:
        """Hold the line at space; raises NotArmed while listening only, BadInput, PortGone."""
        with self.lock:
            self.session.say_bytes(self.clock.wall(), b"", f"break of {seconds * 1000:.0f} ms")
        self.port.send_break(seconds, self.session.permit)

    def set_lines(self, dtr: bool, rts: bool) -> None:
        """Set DTR and RTS by hand; raises NotArmed while listening only, PortGone."""
        self.port.set_lines(dtr, rts, self.session.permit)

    def _push(self) -> None:
        while self._out:
            first, now = self._out[0], self.clock.now()
            if not first.permit.holds:
                self.take_back()
                return
            first.rest = first.rest[self._hand_over(first, now) :] if first.rest else b""
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

    def _hand_over(self, first: _Outgoing, now: float) -> int:
        """As much as leaves soon; returns how many bytes."""
        character_s = self.session.settings.character_s
        room_s = now + AHEAD_S - max(now, self._leaves_until)
        piece = first.rest if first.whole else first.rest[: ceil(room_s / character_s)] if room_s > 0 else b""
        count = self.port.put(piece, first.permit) if piece else 0
        self._leaves_until = max(now, self._leaves_until) + count * character_s
        self.handed += count
        return count

    def set(self, settings: Settings) -> None:
        """Other settings at the open port; no line moves. Raises PortGone, BadInput for a rate that it refuses."""
        self.port.set(settings)
        with self.lock:
            self.session.take_settings(settings)
        if self.log is not None:
            self.log.begin(self.port.address.partition("?")[0], str(settings))

    def take_back(self) -> int:
        """Nothing more leaves: throw away what has not, here and in the port, and say so; returns how many bytes."""
        unsent = sum(len(one.rest) for one in self._out) + self.port.take_back()
        self._out.clear()
        self._leaves_until = 0.0
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
                self.log.not_sent(self.clock.wall(), count)


class BackgroundDriver:
    """Runs a driver in a thread of its own. `error` is set when the port vanished; `refused` when words were not sent.

    A refusal is an answer and no end: the thread goes on listening.
    """

    def __init__(self, driver: Driver, changed: Callable[[], None]) -> None:
        self.driver = driver
        self.error: CourierError | None = None
        self.refused: CourierError | None = None
        self._changed, self._stop = changed, threading.Event()
        self._acts: queue.Queue[Callable[[Driver], object]] = queue.Queue()
        self._lent, self._aside = "", threading.Event()
        self._clock = driver.clock
        self._thread = threading.Thread(target=self._run, name="port", daemon=True)
        self._thread.start()

    def say(self, text: str, end: Terminator, meaning: str = "") -> None:
        """Have a line sent soon."""
        self.do(lambda driver: driver.say(text, end, meaning))

    def do(self, act: Callable[[Driver], object]) -> None:
        """Have something sent soon, in its thread, under the permit of this moment: a later one does not revive it."""
        if self._lent:
            raise BadInput(f"{self._lent} works at this port: stop it first, or wait until it is done")
        permit = self.driver.session.permit

        def allowed(driver: Driver) -> None:
            checked(permit)
            act(driver)

        self._acts.put(allowed)

    def set(self, settings: Settings) -> None:
        """Have other settings in force soon; that needs no permit, as nothing leaves by it."""
        self._acts.put(lambda driver: driver.set(settings))

    def lower(self, lines: OpenLines) -> None:
        """Have DTR and RTS lowered soon where these say low; nothing is raised, so that it needs no permit."""
        self._acts.put(lambda driver: driver.port.lower(lines))

    def lend(self, what: str, settings: Settings) -> OpenPort:
        """The open port for somebody else, at other settings; this thread stands still until it is closed there.

        Raises BadInput where it is lent already, or its thread does not come back from it.
        """
        if self._lent:
            raise BadInput(f"{self._lent} works at this port already")
        self._lent = what
        until = self._clock.now() + JOIN_S
        while self._thread.is_alive() and not self._aside.is_set() and self._clock.now() < until:
            self._clock.wait(self._clock.now() + READ_S / 4)
        if not self._aside.is_set():
            self._lent = ""
            raise BadInput(f"{self.driver.port.address.partition('?')[0]} does not come back: the adapter does not answer")
        port = self.driver.port
        self.driver.agenda.clear()  # what we were to say does not go on afterwards
        try:
            self.driver.take_back()
            port.set(settings)
            port.forget()
        except CourierError:
            self._given_back()
            raise
        return LentPort(port, self._given_back)

    @property
    def lent(self) -> str:
        """Who works at the port in place of this thread; empty while nobody does."""
        return self._lent

    def _given_back(self) -> None:
        try:
            if self.driver.port.is_open:
                self.driver.port.set(self.driver.session.settings)
        except CourierError as error:
            self.refused = error  # where the port is gone, the next read says so as well
        finally:
            self._aside.clear()
            self._lent = ""

    def stop(self) -> None:
        """End the thread and close the port."""
        self._stop.set()
        self._thread.join(timeout=JOIN_S)

    def _run(self) -> None:
        try:
            while not self._stop.is_set() or self._lent:  # whoever has it gives it back: its permit is gone
                if self._lent:
                    self._aside.set()
                    self._clock.wait(self._clock.now() + READ_S)
                else:
                    self._once()
        except CourierError as error:
            self._over(error)
        except BaseException as error:
            self._over(
                PortGone(f"{self.driver.port.address.partition('?')[0]} is not listened to any more: {error!r}", TELL)
            )
            raise  # a defect: the hook of the threads writes the report
        finally:
            self.driver.close()

    def _over(self, error: CourierError) -> None:
        """The thread ends: whatever ends it is told, and nothing may be sent by it any more."""
        self.error = error
        self.driver.session.disarm()
        self._changed()

    def _once(self) -> None:
        try:
            while not self._acts.empty():
                self._acts.get()(self.driver)
                self._changed()
            handed = self.driver.handed
            if self.driver.step().data or self.driver.handed != handed:
                self._changed()
        except (NotArmed, HeldOff, NoLines, BadInput) as refusal:
            self.refused = refusal
            self._changed()
