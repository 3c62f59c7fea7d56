"""The driver of a fast start: moves the line and the bytes as the machine of ISO 14230 says. Decides nothing."""

from humble_courier.domain.clock import Clock
from humble_courier.line.marked import Unstuffer
from humble_courier.port.port import OpenPort
from humble_courier.protocols.iso14230 import FastStart, StartStep


def wake(port: OpenPort, start: FastStart, clock: Clock) -> None:
    """Go through the steps; `start` then holds the key bytes or the refusal. Raises PortGone."""
    unstuff = Unstuffer()
    while (step := start.next()) is not None:
        if step.do == "low":
            port.send_break(step.seconds)  # a break is the line held low
        elif step.do == "high":
            clock.wait(clock.now() + step.seconds)
            port.forget()  # the break itself was heard as well
        elif step.do == "send":
            port.write(step.data)
        else:
            _hear(port, start, step, clock, unstuff)


def _hear(port: OpenPort, start: FastStart, step: StartStep, clock: Clock, unstuff: Unstuffer) -> None:
    until = clock.now() + step.seconds
    while clock.now() < until and start.keys is None and not start.refusal:
        data = port.read()
        start.feed(unstuff.chunk(data).data if port.marked else data)
