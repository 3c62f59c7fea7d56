"""The one authority over sending: every permit of this process, everybody who works at a port, and the way to stop them all.

Theory of operation. A permit is asked for here and is known here until it is withdrawn; whoever works at a port (a driver, a
procedure, a question to an instrument) is here as long as it works, with the way to end it. So what may leave at this
moment is what stands here, whatever page is open; and `stop_all` is one call, from any thread and from a signal: it takes
back every permit first, so that nothing more is handed to a port, then asks everybody to end. Made at the root and handed
on, with the clock that all of them go by; a bench has its own. It does no work and waits for nobody.
"""

import logging
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.port.permit import Permit


@dataclass(frozen=True)
class SendingNow:
    """What holds at one moment: scopes of the permits, and who works at which port."""

    permits: tuple[str, ...] = ()
    works: tuple[tuple[str, str], ...] = ()

    @property
    def may_send(self) -> str:
        """What may be sent, as the person was told; empty where nothing may."""
        return ", ".join(dict.fromkeys(self.permits))


class Authority:
    """`stopped`: why everything was stopped last; empty while it was not, and again once a new permit was given.

    Once it was stopped for good, as by a signal that ends the command, no permit that is given holds.
    """

    def __init__(self, clock: Clock = SystemClock()) -> None:
        self.clock = clock
        self.stopped = ""
        self.changed: Callable[[], None] = lambda: None  # called from any thread whenever something else holds
        self._lock = threading.RLock()  # a signal may come while it is held, in the same thread
        self._permits: list[Permit] = []
        self._works: dict[int, tuple[str, str, Callable[[], None]]] = {}
        self._numbers, self._for_good = 0, False

    def permit(self, scope: str, ends: float = float("inf")) -> Permit:
        """A permit that a deliberate act gives; `ends` by `clock`."""
        made = Permit(scope, ends, self.clock, lambda: self.changed())
        with self._lock:
            if self._for_good:
                made.withdraw()
            else:
                self._permits, self.stopped = [*(one for one in self._permits if one.holds), made], ""
        self.changed()
        return made

    @contextmanager
    def working(self, what: str, address: str, halt: Callable[[], None]) -> Iterator[None]:
        """Somebody works at a port as long as this lasts; `halt` asks for the end from any thread, and waits for nothing."""
        with self._lock:
            self._numbers += 1
            number = self._numbers
            self._works[number] = what, address.partition("?")[0], halt
        self.changed()
        try:
            yield
        finally:
            with self._lock:
                del self._works[number]
            self.changed()

    def stop_all(self, why: str, for_good: bool = False) -> bool:
        """Take back every permit, and ask everybody to end; whether there was anything to stop."""
        with self._lock:
            self.stopped, self._for_good = why, self._for_good or for_good
            permits = [one for one in self._permits if one.holds]
            works = list(self._works.values())
            self._permits = []
        for permit in permits:
            permit.withdraw()
        for _, _, halt in works:
            halt()
        logging.getLogger(__name__).info("all is stopped: %s; %d permits, %d at ports", why, len(permits), len(works))
        self.changed()
        return bool(permits or works)

    def now(self) -> SendingNow:
        """What holds at this moment."""
        with self._lock:
            permits = tuple(one.scope for one in self._permits if one.holds)
            works = tuple((what, address) for what, address, _ in self._works.values())
        return SendingNow(permits, works)
