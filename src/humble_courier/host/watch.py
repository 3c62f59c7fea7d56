"""Watch and compare: what vanished and came back, and so which port is mine. Fed with lists and times; looks at nothing."""

from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from humble_courier.host.kinds import HostPort

RECENT_S = 30.0  # pulling a plug and putting it back takes less; changes older than this are another story
MOST_CHANGES = 64  # kept; more than this in half a minute is no answer to anything


class What(StrEnum):
    """What happened to a port."""

    VANISHED = "vanished"
    APPEARED = "appeared"


@dataclass(frozen=True)
class Change:
    """A port that came or went, at `time` in seconds."""

    what: What
    port: HostPort
    time: float


@dataclass(frozen=True)
class Mine:
    """The answer: the port as it is now and as it was; `sure` where the adapter itself says it is the same."""

    now: HostPort
    before: HostPort
    sure: bool

    @property
    def moved(self) -> str:
        """What is different now, in words; empty where nothing is."""
        told = []
        if self.now.address != self.before.address:
            told.append(f"its number changed: it was {self.before.address}")
        if self.now.usb and self.before.usb and self.now.usb.path != self.before.usb.path:
            told.append(f"it is in another socket ({self.now.usb.path}, before {self.before.usb.path})")
        return " and ".join(told)


class PlugWatch:
    """Compares each list of ports with the one before."""

    def __init__(self) -> None:
        self._ports: dict[str, HostPort] | None = None
        self.changes: deque[Change] = deque(maxlen=MOST_CHANGES)

    def feed(self, ports: Sequence[HostPort], time: float) -> list[Change]:
        """Take the next list; returns what changed. The first list changes nothing."""
        now = {port.address: port for port in ports}
        before, self._ports = self._ports, now
        if before is None:
            return []
        found = [Change(What.VANISHED, p, time) for a, p in before.items() if a not in now or not _same(p, now[a])]
        found += [Change(What.APPEARED, p, time) for a, p in now.items() if a not in before or not _same(p, before[a])]
        self.changes.extend(found)
        return found

    def recent(self, time: float) -> list[Change]:
        """Changes of the last half minute, the newest first."""
        return [c for c in reversed(self.changes) if time - c.time <= RECENT_S]

    def mine(self, time: float) -> list[Mine]:
        """Adapters that vanished and came back lately: one is the answer, more than one is a question, none is none yet."""
        recent = self.recent(time)
        found: dict[str, Mine] = {}
        for came in (c for c in recent if c.what is What.APPEARED):
            if self._ports is None or came.port.address not in self._ports:
                continue
            went = [c for c in recent if c.what is What.VANISHED and c.time <= came.time and _alike(c.port, came.port)]
            if went:
                best = max(went, key=lambda c: (_certain(c.port, came.port), c.time))
                found.setdefault(came.port.address, Mine(came.port, best.port, _certain(best.port, came.port)))
        sure = [m for m in found.values() if m.sure]
        return sure or list(found.values())

    def missing(self, time: float) -> list[HostPort]:
        """Ports that vanished lately and are not back."""
        back = {c.port.address for c in self.recent(time) if c.what is What.APPEARED}
        gone = [c.port for c in self.recent(time) if c.what is What.VANISHED]
        here = set(self._ports or ())
        return [p for p in gone if p.address not in here and not any(_alike(p, b) for b in self._came(back))]

    def _came(self, addresses: set[str]) -> list[HostPort]:
        return [p for a, p in (self._ports or {}).items() if a in addresses]


def _same(a: HostPort, b: HostPort) -> bool:
    """Whether a node is still the same adapter in the same socket."""
    if a.usb is None or b.usb is None:
        return a.usb is b.usb
    return (a.usb.vid, a.usb.pid, a.usb.serial, a.usb.path) == (b.usb.vid, b.usb.pid, b.usb.serial, b.usb.path)


def _alike(a: HostPort, b: HostPort) -> bool:
    """Whether it may be the same adapter: the same kind, and serial numbers that do not speak against it."""
    if a.usb is None or b.usb is None:
        return a.usb is b.usb and a.address == b.address
    same_kind = (a.usb.vid, a.usb.pid, a.usb.interface) == (b.usb.vid, b.usb.pid, b.usb.interface)
    return same_kind and a.usb.serial == b.usb.serial


def _certain(a: HostPort, b: HostPort) -> bool:
    """Whether it surely is: by its serial number, or by kind and socket."""
    if a.usb is None or b.usb is None:
        return a.address == b.address
    return _alike(a, b) and (a.usb.serial is not None or a.usb.path == b.usb.path)
