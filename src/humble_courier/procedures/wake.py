"""The driver of a fast start, and of a round through all units: does as the machine says. Decides nothing."""

from collections.abc import Callable
from typing import Protocol

from humble_courier.domain.clock import Clock
from humble_courier.domain.received import Chunk
from humble_courier.line.marked import Unstuffer
from humble_courier.port.driver import Log
from humble_courier.port.permit import Permit
from humble_courier.port.port import OpenPort
from humble_courier.protocols.iso14230 import StartStep

WITHIN_S = 1.0  # for a few bytes at 10 400 bit/s, on a line that nothing holds off


class Steps(Protocol):
    """A machine of steps: a start, or a round of starts. `settled`: what is waited for has come."""

    @property
    def settled(self) -> bool:
        """Whether the wait is over early."""

    def next(self) -> StartStep | None:
        """The next step; None when it is over."""

    def feed(self, data: bytes) -> None:
        """Bytes heard."""


def wake(
    port: OpenPort, start: Steps, clock: Clock, permit: Permit, log: Log | None = None,
    told: Callable[[], None] = lambda: None,
) -> None:  # fmt: skip
    """Go through the steps; `start` then holds what came of it. Raises PortGone, HeldOff, NotArmed."""
    unstuff = Unstuffer()
    while (step := start.next()) is not None:
        told()
        if step.do == "low":
            port.send_break(step.seconds, permit)  # a break is the line held low
        elif step.do == "high":
            clock.wait(clock.now() + step.seconds)
            port.forget()  # the break itself was heard as well
        elif step.do == "send":
            if log is not None:
                log.said(clock.wall(), step.data)
            port.write(step.data, permit, WITHIN_S)
        else:
            _hear(port, start, step, clock, unstuff, log, permit)


def _hear(
    port: OpenPort, start: Steps, step: StartStep, clock: Clock, unstuff: Unstuffer, log: Log | None, permit: Permit
) -> None:  # fmt: skip
    until = clock.now() + step.seconds
    while clock.now() < until and not start.settled and permit.holds:
        data = port.read()
        chunk = unstuff.chunk(data) if port.marked else Chunk(data, {})
        if log is not None and chunk.data:
            log.heard(clock.wall(), chunk)
        start.feed(chunk.data)
