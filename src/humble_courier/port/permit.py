"""A permit to send: what somebody has deliberately allowed, and until when. Nothing leaves a port without one.

Theory of operation: a permit is given by one act (arming, or the press that starts a procedure), is handed from hand to hand
down to the port, and is asked at the last moment before each piece of bytes. Who takes it back, in whatever thread, takes it
back from all at once. It is never renewed: the next act gives a new one.
"""

import logging
import threading
from collections.abc import Callable

from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.errors import NotArmed


class Permit:
    """`scope`: what may be sent, as the person was told. `ends`: when it is over by itself, by `clock`.

    `told` is called, from any thread, when it was taken back.
    """

    def __init__(
        self, scope: str, ends: float = float("inf"), clock: Clock = SystemClock(), told: Callable[[], None] = lambda: None
    ) -> None:  # fmt: skip
        self.scope, self.begins, self.ends = scope, clock.now(), ends
        self._clock, self._told = clock, told
        self._withdrawn = threading.Event()
        logging.getLogger(__name__).info("permit given: %s", scope)

    def withdraw(self) -> None:
        """Take it back, in all threads at once; a permit that was taken back stays so."""
        if self._withdrawn.is_set():
            return
        self._withdrawn.set()
        logging.getLogger(__name__).info("permit taken back: %s", self.scope)
        self._told()

    @property
    def holds(self) -> bool:
        """Whether something may be sent now."""
        return not self._withdrawn.is_set() and self._clock.now() < self.ends

    def check(self) -> None:
        """Raises NotArmed where nothing may be sent any more."""
        if not self.holds:
            raise NotArmed(f"no longer allowed: {self.scope}", "Arm again, or start it again")


def checked(permit: Permit | None) -> Permit:
    """A permit that holds; raises NotArmed where there is none, or no longer."""
    if permit is None:
        raise NotArmed("listening only: nothing is sent", "Arm first")
    permit.check()
    return permit
