"""The thin driver of procedures: opens ports, says, listens, tells the machine. Decides nothing.

It says nothing without a permit, which the press that started the procedure gave; `stop` takes it back, and what has not
left the port is thrown away. Every byte goes through the log first.
"""

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.domain.received import Chunk, Heard
from humble_courier.errors import CourierError, NoLines
from humble_courier.line.marked import Unstuffer
from humble_courier.port.authority import Authority
from humble_courier.port.driver import Log
from humble_courier.port.permit import Permit
from humble_courier.port.port import READ_S, OpenLines, OpenPort, open_port
from humble_courier.procedures.steps import Outcome, Procedure, Step

SLICE_S = 0.05  # of a wait: so that a stop is heeded within a fraction of a second
SPARE_S = 2.0  # for an adapter and a loaded computer, beside the time that the line itself takes (common practice)
SOON_S = 0.0005  # two moments within that are one
MORE = 80  # characters of an answer that are waited for when the time is over in the middle of it


Opens = Callable[..., OpenPort]  # address, settings, lines at opening: how a procedure comes to its port


class Runner:
    """Carries out steps. A port stays open between steps that need the same one; it is only set anew.

    `what` works at which ports, for the authority. `lines`: what RTS and DTR do when a port is opened, by address.
    `permit`: what may be sent; None only listens.
    """

    def __init__(
        self, lines: Callable[[str], OpenLines] = lambda _: OpenLines(), clock: Clock = SystemClock(),
        opens: Opens | None = None, permit: Permit | None = None, log: Log | None = None,
        authority: Authority | None = None, what: tuple[str, str] = ("a procedure", ""),
    ) -> None:  # fmt: skip
        self._lines, self._clock = lines, clock
        self._opens = opens or partial(open_port, clock=clock)
        self._permit, self._log, self._authority = permit, log, authority or Authority(clock)
        self._what = what
        self._port: OpenPort | None = None
        self._cancelled = False

    def stop(self) -> None:
        """End it soon, from any thread; from now on nothing is sent."""
        self._cancelled = True
        if self._permit is not None:
            self._permit.withdraw()

    def run(self, procedure: Procedure, told: Callable[[Step, Outcome], None] = lambda _, __: None) -> None:
        """Until the procedure is over, or `stop` is called by somebody."""
        with self._authority.working(*self._what, self.stop):
            try:
                while not self._cancelled and (step := procedure.next()) is not None:
                    outcome = self.carry_out(step)
                    if self._cancelled:
                        break  # half a step says nothing: it is done anew where the procedure goes on
                    procedure.done(step, outcome)
                    told(step, outcome)
            finally:
                self.close()

    def close(self) -> None:
        """Close the port and the log."""
        if self._port is not None:
            unsent, self._port = self._port.close(), None
            if unsent and self._log is not None:
                self._log.not_sent(self._clock.wall(), unsent)
        if self._log is not None:
            self._log.close()

    def carry_out(self, step: Step) -> Outcome:
        """Do one step; a refusal of the machine is an outcome, not an exception."""
        begun = self._clock.now()
        try:
            port = self._open(step)
            if step.lines is not None:
                self._move(port, *step.lines)
            return self._listen(port, step, begun)
        except CourierError as error:
            self.close()
            return Outcome(seconds=self._clock.now() - begun, refusal=error)

    def _open(self, step: Step) -> OpenPort:
        if self._port is not None and self._port.address == step.address:
            self._port.set(step.settings)
            self._port.forget()
        else:
            self.close()
            self._port = self._opens(step.address, step.settings, self._lines(step.address))
        if self._log is not None:
            self._log.begin(step.address.partition("?")[0], str(step.settings))
        if step.rest_s:
            self._rest(step.rest_s)
            self._port.forget()
        return self._port

    def _move(self, port: OpenPort, dtr: bool, rts: bool) -> None:
        try:
            port.set_lines(dtr, rts, self._permit)
        except NoLines:
            return  # the outcome tells: a port without lines reports none

    def _rest(self, seconds: float) -> None:
        until = self._clock.now() + seconds
        while not self._cancelled and self._clock.now() < until:
            self._clock.wait(min(until, self._clock.now() + SLICE_S))

    def _say(self, port: OpenPort, data: bytes, step: Step) -> None:
        if self._permit is not None and self._permit.holds and self._log is not None:
            self._log.said(self._clock.wall(), data)
        port.write(data, self._permit, SPARE_S + 2 * len(data) * step.settings.character_s)

    def _hear(self, port: OpenPort, unstuff: Unstuffer, within_s: float) -> list[Heard]:
        data = port.read(within_s)
        chunk = unstuff.chunk(data) if port.marked else Chunk(data, {})
        if self._log is not None and chunk.data:
            self._log.heard(self._clock.wall(), chunk)
        return chunk.heard

    def _listen(self, port: OpenPort, step: Step, begun: float) -> Outcome:
        start = self._clock.now()  # before the words: an answer may be there before a write returns
        if step.say:
            self._say(port, step.say, step)
        hearing = _Hearing(step, start, self._clock.now())
        unstuff = Unstuffer()
        while not self._cancelled:
            heard = self._hear(port, unstuff, hearing.until_due(self._clock.now()))
            hearing.take(heard, self._clock.now())
            more = hearing.due() if not heard else b""
            if more:
                self._say(port, more, step)
                hearing.said(self._clock.now())
            if hearing.over:
                break
        outcome = Outcome(hearing.heard, self._clock.now() - begun, marked=port.marked, said_at=tuple(hearing.said_at))
        return replace(outcome, lines=port.lines()) if step.lines is not None else outcome


class _Hearing:
    """What came of one step so far, and whether that is enough. Seconds since the begin of the first words."""

    def __init__(self, step: Step, start: float, spoke: float) -> None:
        self._step, self._start = step, start
        self._now = self._last = self._spoke = spoke - start
        self._then, self._said = list(step.then), bytearray(step.say)
        self.said_at = [0.0] if step.say else []
        self.heard: list[tuple[float, Heard]] = []

    def take(self, came: list[Heard], now: float) -> None:
        """Characters that came until `now`."""
        self._now = now - self._start
        self.heard += [(self._now, one) for one in came]
        self._last = self._now if came else self._last

    @property
    def _answered(self) -> bool:
        """On one pair our own words come back first: that is no answer."""
        return bool(self.heard) and not self._said.startswith(
            bytes(one.byte for _, one in self.heard[: len(self._said) + 1])
        )

    @property
    def _next_at(self) -> float:
        """When the next words are due."""
        first = len(self._then) == len(self._step.then)
        return self._spoke + (self._step.first_s if first and self._step.first_s else self._step.between_s)

    def until_due(self, now: float) -> float:
        """How long to listen before looking again."""
        if not self._then or self._answered:
            return READ_S
        return min(READ_S, max(SOON_S, self._next_at - (now - self._start)))

    def due(self) -> bytes:
        """What is said next, once its time has come and nothing has answered."""
        if not self._then or self._answered or self._now < self._next_at - SOON_S / 2:
            return b""
        self._said += self._then[0]
        return self._then.pop(0)

    def said(self, now: float) -> None:
        """The next words were handed over."""
        self._spoke = now - self._start
        self.said_at.append(self._spoke)

    @property
    def over(self) -> bool:
        """Enough came, the time is up and nothing is coming in any more, or it is quiet after an answer."""
        step, quiet = self._step, self._now - self._last
        late = self._now - self._spoke - step.seconds
        coming = bool(self.heard) and quiet < step.quiet_s and bool(step.say)
        waiting = bool(self._then) and not self._answered
        if len(self.heard) >= step.enough or (not waiting and late >= 0 and not coming):
            return True
        if not waiting and late >= MORE * step.settings.character_s + step.quiet_s:
            return True
        spoken = self._answered or (bool(self.heard) and not step.say)
        airtime = len(step.say) * step.settings.character_s
        return spoken and self._now - max(self._last, airtime) >= step.quiet_s
