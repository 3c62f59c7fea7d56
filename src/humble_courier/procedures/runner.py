"""The thin driver of procedures: opens ports, says, listens, tells the machine. Decides nothing."""

from collections.abc import Callable
from dataclasses import replace

from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.domain.received import Heard
from humble_courier.errors import CourierError
from humble_courier.line.marked import Unstuffer
from humble_courier.port.port import OpenLines, OpenPort, open_port
from humble_courier.procedures.steps import Outcome, Procedure, Step

MORE = 80  # characters of an answer that are waited for when the time is over in the middle of it


class Runner:
    """Carries out steps. A port stays open between steps that need the same one; it is only set anew.

    `lines`: what RTS and DTR do when a port is opened, by address.
    """

    def __init__(
        self, lines: Callable[[str], OpenLines] = lambda _: OpenLines(), clock: Clock | None = None,
        opens: Callable[..., OpenPort] = open_port,
    ) -> None:  # fmt: skip
        self._lines, self._clock, self._opens = lines, clock or SystemClock(), opens
        self._port: OpenPort | None = None
        self.cancelled = False

    def run(self, procedure: Procedure, told: Callable[[Step, Outcome], None] = lambda _, __: None) -> None:
        """Until the procedure is over, or `cancelled` is set by somebody."""
        try:
            while not self.cancelled and (step := procedure.next()) is not None:
                outcome = self.carry_out(step)
                procedure.done(step, outcome)
                told(step, outcome)
        finally:
            self.close()

    def close(self) -> None:
        """Close the port."""
        if self._port is not None:
            self._port.close()
            self._port = None

    def carry_out(self, step: Step) -> Outcome:
        """Do one step; a refusal of the machine is an outcome, not an exception."""
        begun = self._clock.now()
        try:
            port = self._open(step)
            if step.lines is not None:
                port.set_lines(*step.lines)
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
        if step.rest_s:
            self._clock.wait(self._clock.now() + step.rest_s)
            self._port.forget()
        return self._port

    def _listen(self, port: OpenPort, step: Step, begun: float) -> Outcome:
        if step.say:
            port.write(step.say)
        start = last = self._clock.now()
        airtime = len(step.say) * step.settings.character_s
        heard: list[tuple[float, Heard]] = []
        unstuff = Unstuffer()
        then, said = list(step.then), bytearray(step.say)
        while not self.cancelled:
            data = port.read()
            now = self._clock.now()
            came = unstuff.feed(data) if port.marked else [Heard(byte) for byte in data]
            heard += [(now - start, one) for one in came]
            last = now if came else last
            # On one pair our own words come back first: that is no answer.
            answered = bool(heard) and not said.startswith(bytes(one.byte for _, one in heard[: len(said) + 1]))
            if then and not answered and not data and now - start >= step.between_s * (1 + len(step.then) - len(then)):
                said += then[0]
                port.write(then.pop(0))
            late, coming = now - start - step.seconds, bool(heard) and now - last < step.quiet_s and bool(step.say)
            if len(heard) >= step.enough or (late >= 0 and not coming) or late >= MORE * step.settings.character_s:
                break
            spoken = answered or (bool(heard) and not step.say)
            if spoken and now - max(last, start + airtime) >= step.quiet_s:
                break
        outcome = Outcome(heard, self._clock.now() - begun, marked=port.marked)
        return replace(outcome, lines=port.lines()) if step.lines is not None else outcome
