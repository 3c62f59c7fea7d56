"""Finds a silent device. Asked for the next step, told what came; opens nothing, reads no clock.

Theory of operation. Every port has a search of its own, and the one whose next step is worth most is asked for it
(`port_search.py`). Three kinds of failure are told apart: there is no such port, it cannot be opened, nothing answers.
"""

from collections.abc import Callable

from humble_courier.errors import Refusal
from humble_courier.procedures.device_search.found import Found, SearchEnd, Tried
from humble_courier.procedures.device_search.plan import Known, Space
from humble_courier.procedures.device_search.port_search import FIRST_S, PortSearch
from humble_courier.procedures.steps import Outcome, Step


class DeviceSearch:
    """The search over one or more ports. `name`: what the found one speaks, from what it said."""

    def __init__(self, known: Known, name: Callable[[bytes], str] = lambda _: "text") -> None:
        self._known, self._name = known, name
        self._ports = list(known.addresses)
        self.spaces: dict[str, Space] = {}
        self.ends: dict[str, tuple[SearchEnd, str]] = {}
        self.found: Found | None = None
        self.tried: list[Tried] = []
        self.now: Step | None = None  # what is being done
        self._searches: dict[str, PortSearch] = {}

    @property
    def left(self) -> float:
        """Share of the belief that is not excluded yet, over all ports."""
        open_ones = [self.spaces[a].left if a in self.spaces else 1.0 for a in self._ports]
        return sum(open_ones) / max(1, len(self._known.addresses))

    @property
    def notes(self) -> list[str]:
        """What stood out on the way, as two devices with one address."""
        return [note for search in self._searches.values() for note in search.notes]

    @property
    def seconds_left(self) -> float:
        """How long the rest takes at most."""
        return sum(self.spaces[a].seconds if a in self.spaces else FIRST_S for a in self._ports)

    def next(self) -> Step | None:
        """The next step: of the port whose next trial is worth most."""
        if self.found is not None:
            return None
        while self._ports and self.found is None:
            best = max(self._ports, key=lambda a: self._search(a).worth())
            step = self.now = self._search(best).next()
            if step is not None:
                return step
            self._finish(best)
        return None

    def _search(self, address: str) -> PortSearch:
        if address not in self._searches:
            self._searches[address] = PortSearch(self._known, address, self._name)
            self.spaces[address] = self._searches[address].space
        return self._searches[address]

    def done(self, step: Step, outcome: Outcome) -> None:
        """Take in what came of a step."""
        self.tried.append(Tried(step.address, step.settings, step.action, len(outcome.heard), outcome.seconds))
        if outcome.refusal is not None:
            absent = getattr(outcome.refusal, "code", None) is Refusal.ABSENT
            self.ends[step.address] = (SearchEnd.ABSENT if absent else SearchEnd.REFUSED, str(outcome.refusal))
            self._ports.remove(step.address)
            return
        search = self._search(step.address)
        search.done(step, outcome)
        if search.found is not None:
            self.found = search.found
            self.ends[step.address] = (SearchEnd.FOUND, search.found.identity)

    def _finish(self, address: str) -> None:
        search = self._search(address)
        if search.found is not None:  # at its very end: all was tried, and it only echoes
            self.found = search.found
            self.ends[address] = (SearchEnd.FOUND, search.found.identity)
        elif search.ever_heard:
            self.ends[address] = (SearchEnd.GARBLED, "something speaks, and no usual settings read it")
        elif not self._known.armed:
            self.ends[address] = (SearchEnd.STOPPED, "nothing speaks by itself, and nothing was asked: sending is not armed")
        else:
            self.ends[address] = (SearchEnd.SILENT, "the port opens, and nothing answers")
        self._ports.remove(address)
