"""The ports of a machine, the real one or another: what comes and goes, which one is mine, what its log says."""

from collections import Counter
from dataclasses import dataclass
from pathlib import Path

from humble_courier.app.port.kernel_log import LogStory, log_story, log_story_of
from humble_courier.app.port.listing import REAL, all_ports
from humble_courier.app.port.story import PortStory, StoryStep
from humble_courier.catalog.load import Catalog
from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.domain.facts import State
from humble_courier.host.kinds import HostPort, PortKind, UsbDevice
from humble_courier.host.modules import Kernel
from humble_courier.host.plug_events import PlugEvents as PlugEvents
from humble_courier.host.plug_events import plug_events as plug_events
from humble_courier.host.ports import unclaimed
from humble_courier.host.timing import set_timer
from humble_courier.host.watch import Mine, PlugWatch, What

GROUPS = ("adapters", "built in and without wire", "made by programs", "network")
GROUP_OF = {PortKind.USB: GROUPS[0], PortKind.PTY: GROUPS[2], PortKind.NETWORK: GROUPS[3]}
KIND_WORDS = {
    PortKind.USB: "USB",
    PortKind.NATIVE: "built in",
    PortKind.BLUETOOTH: "Bluetooth, no cable",
    PortKind.PTY: "pty",
    PortKind.VIRTUAL: "made by a driver, kind not known",
    PortKind.NETWORK: "network, of a link in the records",
}

NOBODYS = {PortKind.BLUETOOTH: "Bluetooth", PortKind.PTY: "made by programs", PortKind.VIRTUAL: "made by drivers"}
FEWEST_FOLDED = 2


@dataclass(frozen=True)
class PortRow:
    """A line of the list: the port (None for a device without one), what to call it, what changed a moment ago."""

    port: HostPort | None
    title: str
    detail: str
    change: str
    group: str
    idle: UsbDevice | None = None
    folds: bool = False  # stands for several that lead to no device


@dataclass(frozen=True)
class Seen:
    """One look at the machine under `root`: its ports, and devices of which no port comes."""

    root: Path
    ports: list[HostPort]
    idle: list[UsbDevice]


class Machine:
    """The machine under `root`, watched. `refresh` looks; everything else tells what was seen."""

    def __init__(self, catalog: Catalog, root: Path = REAL, clock: Clock = SystemClock()) -> None:
        self.catalog, self.root, self._clock = catalog, root, clock
        self._story = PortStory(catalog, root, Kernel(root))
        self.watch = PlugWatch()
        self.ports: list[HostPort] = []
        self.idle: list[UsbDevice] = []
        self.network: tuple[str, ...] = ()
        self.ours, self.unfolded = "", False  # the port of the link, which is never folded away
        self.at = 0.0

    @property
    def simulated(self) -> bool:
        """Whether this is not the machine the program runs on."""
        return self.root != REAL

    def look(self) -> Seen:
        """What is there now. Reads the machine and changes nothing here: may run beside the window."""
        return Seen(self.root, all_ports(self.root), unclaimed(self.root))

    def take(self, seen: Seen, now: float | None = None) -> bool:
        """Take in what was seen; True where a port came or went. A look at another machine is left alone."""
        if seen.root != self.root:
            return False
        self.at = self._clock.wall() if now is None else now
        self.ports, self.idle = seen.ports, seen.idle
        return bool(self.watch.feed(self.ports, self.at))

    def refresh(self, now: float | None = None) -> bool:
        """Look and take in; True where a port came or went."""
        return self.take(self.look(), now)

    def rows(self) -> list[PortRow]:
        """The list: adapters first, what is plugged in without a port, then what is built in or without wire."""
        rows = [self._row(port) for port in self.ports]
        for port in self.watch.missing(self.at):
            rows.append(PortRow(None, port.address, self._kind_of(port), "vanished a moment ago", "adapters"))
        for usb in self.idle:
            detail = f"{usb.vid}:{usb.pid} in socket {usb.path}; no module has bound it"
            rows.append(PortRow(None, f"no port, {usb.path}", detail, "", "adapters", usb))
        rows += [self._row(HostPort(address, PortKind.NETWORK)) for address in self.network]
        return self._folded(sorted(rows, key=lambda row: GROUPS.index(row.group)))

    def _folded(self, rows: list[PortRow]) -> list[PortRow]:
        """Ports that are nobody's (without a wire, made by programs) stand under a count, until somebody wants them."""
        nobodys = [r for r in rows if r.port and r.port.kind in NOBODYS and not r.change and r.title != self.ours]
        if len(nobodys) < FEWEST_FOLDED:
            return rows
        kinds = Counter(NOBODYS[row.port.kind] for row in nobodys if row.port is not None)
        told = ", ".join(f"{many} {kind}" for kind, many in kinds.items())
        title = f"{len(nobodys)} ports that lead to no device"
        fold = PortRow(None, title, f"{told}; Enter {'folds' if self.unfolded else 'shows'} them", "", GROUPS[3], folds=True)
        return [*(rows if self.unfolded else [row for row in rows if row not in nobodys]), fold]

    def _row(self, port: HostPort) -> PortRow:
        fresh = next(
            (c for c in self.watch.recent(self.at) if c.port.address == port.address and c.what is What.APPEARED), None
        )
        change = f"appeared {self.at - fresh.time:.0f} s ago" if fresh else ""
        return PortRow(port, port.address, self._kind_of(port), change, GROUP_OF.get(port.kind, GROUPS[1]))

    @staticmethod
    def _kind_of(port: HostPort) -> str:
        words = [KIND_WORDS[port.kind]] if port.kind is not PortKind.USB else []
        if port.served is not None:
            words.append(f"made by {port.served.program}")
        if port.usb is not None:
            words.append(f"{port.driver or 'no driver named'}, socket {port.usb.path}")
            words.append(f"serial number {port.usb.serial}" if port.usb.serial else "without serial number")
        return "; ".join(words)

    def mine(self) -> list[Mine]:
        """What was pulled and put back."""
        return self.watch.mine(self.at)

    def headline(self) -> tuple[str, str]:
        """The answer to “which one is mine?”."""
        mine, missing = self.mine(), self.watch.missing(self.at)
        if len(mine) == 1:
            sure = "It says so itself." if mine[0].sure else "Nothing speaks against it; it has no serial number of its own."
            moved = f" Mind: {mine[0].moved}." if mine[0].moved else ""
            return f"Yours is {mine[0].now.address}", f"It vanished and came back. {sure}{moved}"
        if mine:
            names = " and ".join(m.now.address for m in mine)
            return f"Two came back: {names}", "Pull one plug only, wait until it is gone from the list, and put it back."
        if missing:
            return f"{missing[0].address} is gone: put the plug back", "Into the same socket, if you can."
        adapters = [p for p in self.ports if p.kind is PortKind.USB]
        if self.idle:
            usb = self.idle[0]
            return (
                "Something is plugged in, and no port comes of it",
                f"{usb.vid}:{usb.pid} in socket {usb.path}: see its steps.",
            )
        if not adapters:
            return "No adapter is plugged in", "A charge-only cable or a worn socket shows nothing either."
        if len(adapters) == 1:
            return f"One adapter: {adapters[0].address}", "To be sure, pull its plug and put it back."
        return (
            f"{len(adapters)} adapters. Which one is yours?",
            "Pull its plug and put it back: the list shows which one went.",
        )

    def story(self, port: HostPort, was_ms: int | None = None) -> list[StoryStep]:
        """The steps of a port, from the plug to the open node; `was_ms` is its latency before this program changed it."""
        if port.kind is PortKind.NETWORK:
            told = "reached over the network when it is opened; whether somebody else uses it shows then"
            return [StoryStep("Address", port.address, State.ASSUMED), StoryStep("Free", told, State.UNKNOWN)]
        return self._story.of_port(port, was_ms)

    def idle_story(self, usb: UsbDevice) -> list[StoryStep]:
        """The steps of a device of which no port comes."""
        return self._story.of_idle(usb)

    def set_latency(self, port: HostPort, ms: int) -> int:
        """Set the latency timer of a port, because somebody asked; returns the old value (ms). Raises MachineRefused."""
        return set_timer(self.root, port, ms)

    def read_log(self, text: str) -> list[tuple[str, str]]:
        """What a kernel log says, as (conclusion, what to do) for each path; nothing of nothing."""
        if not text.strip():
            return []
        return self._told(log_story([text.encode()], self.catalog))

    def read_log_file(self, path: Path) -> list[tuple[str, str]]:
        """The same of a file of any size. Raises BadInput where it cannot be read."""
        return self._told(log_story_of(path, self.catalog))

    @staticmethod
    def _told(story: LogStory) -> list[tuple[str, str]]:
        return [(f"{c.usb_path or 'USB'}: {c.code.replace('-', ' ')}", c.next) for c in story.conclusions]
