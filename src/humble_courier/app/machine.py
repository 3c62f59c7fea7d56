"""From the plug to the open port, as a short chain of steps with the one that failed; for the real machine or another."""

import time
from dataclasses import dataclass
from pathlib import Path

from humble_courier.app.drivers import claim
from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput
from humble_courier.host.aliases import UsbId
from humble_courier.host.kernel_log import Event, conclude, read_file, read_log
from humble_courier.host.modules import Kernel
from humble_courier.host.ports import HostPort, Kind, UsbDevice, list_ports, unclaimed
from humble_courier.host.power import power_of
from humble_courier.host.watch import Mine, Watch, What
from humble_courier.units.facts import State

REAL = Path("/")
SLOW_MS = 16  # the timer that many USB adapters start with


@dataclass(frozen=True)
class StoryStep:
    """One step: what it is about, what is so, how far it is known, and the command that would mend it."""

    title: str
    text: str
    state: State
    remedy: str = ""


@dataclass(frozen=True)
class Row:
    """A line of the list: the port (None for a device without one), what to call it, what changed a moment ago."""

    port: HostPort | None
    title: str
    detail: str
    change: str
    group: str
    idle: UsbDevice | None = None


class Machine:
    """The machine under `root`, watched. `refresh` looks; everything else tells what was seen."""

    def __init__(self, catalog: Catalog, root: Path = REAL) -> None:
        self.catalog, self.root = catalog, root
        self.kernel = Kernel(root)
        self.watch = Watch()
        self.ports: list[HostPort] = []
        self.idle: list[UsbDevice] = []
        self.at = 0.0

    @property
    def simulated(self) -> bool:
        """Whether this is not the machine the program runs on."""
        return self.root != REAL

    def refresh(self, now: float | None = None) -> bool:
        """Look again; True where a port came or went."""
        self.at = time.time() if now is None else now
        self.ports, self.idle = list_ports(self.root), unclaimed(self.root)
        return bool(self.watch.feed(self.ports, self.at))

    def rows(self) -> list[Row]:
        """The list: adapters first, what is plugged in without a port, then what is built in or without wire."""
        rows = [self._row(port) for port in self.ports]
        for port in self.watch.missing(self.at):
            rows.append(Row(None, port.address, self._kind_of(port), "vanished a moment ago", "adapters"))
        for usb in self.idle:
            detail = f"{usb.vid}:{usb.pid} in socket {usb.path}; no module has bound it"
            rows.append(Row(None, f"no port, {usb.path}", detail, "", "adapters", usb))
        return sorted(rows, key=lambda row: row.group != "adapters")

    def _row(self, port: HostPort) -> Row:
        fresh = next(
            (c for c in self.watch.recent(self.at) if c.port.address == port.address and c.what is What.APPEARED), None
        )
        change = f"appeared {self.at - fresh.time:.0f} s ago" if fresh else ""
        group = "adapters" if port.kind is Kind.USB else "built in and without wire"
        return Row(port, port.address, self._kind_of(port), change, group)

    @staticmethod
    def _kind_of(port: HostPort) -> str:
        words = ["built in" if port.kind is Kind.NATIVE else str(port.kind)] if port.kind is not Kind.USB else []
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
        adapters = [p for p in self.ports if p.kind is Kind.USB]
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

    def story(self, port: HostPort) -> list[StoryStep]:
        """The steps of a port, from the plug to the open node."""
        steps = self._plug_steps(port.usb, port) if port.usb is not None else []
        access = port.access
        there = access is None or access.there
        node = StoryStep("Node", port.address if there else "gone", State.PROVEN if there else State.CONTRADICTED)
        steps.append(node)
        if access is not None and there:
            good = State.PROVEN if access.allowed else State.CONTRADICTED
            steps.append(StoryStep("Permission", access.story, good, access.remedy))
        steps.append(self._free(port))
        if port.latency_ms is not None:
            steps.append(self._timing(port))
        return steps

    def _plug_steps(self, usb: UsbDevice, port: HostPort | None) -> list[StoryStep]:
        power = power_of(port, self.root) if port is not None else None
        good = power is None or power.enough
        told = power.story if power is not None and not good else f"seen in socket {usb.path}"
        asks = f", asks for {usb.max_power_ma} mA" if usb.max_power_ma is not None and good else ""
        plug = StoryStep("Plug", told + asks, State.PROVEN if good else State.CONTRADICTED)
        reports = f", reports “{usb.product}”" if usb.product else ""
        return [plug, StoryStep("Device", f"{usb.vid}:{usb.pid}{reports}", State.PROVEN), self._module(usb, port)]

    def _module(self, usb: UsbDevice, port: HostPort | None) -> StoryStep:
        if port is not None and port.driver:
            return StoryStep("Module", f"{port.driver} has claimed it", State.PROVEN)
        if usb.bound == "usbfs":
            taker = self.catalog.port_takers["usbfs"]
            return StoryStep("Module", f"{taker.what}; {taker.stays}", State.CONTRADICTED, taker.remedy)
        found = claim(UsbId(int(usb.vid, 16), int(usb.pid, 16)), self.catalog, self.kernel)
        if found.block is not None:
            told = f"{found.claimed_by} would claim it; line {found.block.line} of {found.block.file} keeps it out"
        elif found.claimed_by is None:
            told = "no module of this kernel names its id"
        else:
            told = (
                f"{found.claimed_by} would claim it, and is not loaded"
                if not found.loaded
                else f"{found.claimed_by} did not bind it"
            )
        return StoryStep("Module", told, State.CONTRADICTED, found.steps[0].do)

    def idle_story(self, usb: UsbDevice) -> list[StoryStep]:
        """The steps of a device of which no port comes."""
        return [*self._plug_steps(usb, None), StoryStep("Node", "none", State.UNKNOWN)]

    def _free(self, port: HostPort) -> StoryStep:
        taker = self.catalog.port_takers.get(port.holder.program) if port.holder else None
        if port.holder is not None and taker is not None:
            told = f"held by {port.holder.program}: {taker.what}; {taker.stays}"
            return StoryStep("Free", told, State.CONTRADICTED, taker.remedy)
        if port.holder is not None:
            told = f"held by {port.holder.program} (process {port.holder.pid}): end that program"
            return StoryStep("Free", told, State.CONTRADICTED, f"kill {port.holder.pid}")
        if port.lock is not None:
            return StoryStep(
                "Free", f"locked by {port.lock}: end the program that made it", State.CONTRADICTED, f"cat {port.lock}"
            )
        return StoryStep("Free", "nobody has it open, as far as we may see", State.ASSUMED)

    @staticmethod
    def _timing(port: HostPort) -> StoryStep:
        name = port.address.rpartition("/")[2]
        told = f"answers wait up to {port.latency_ms} ms in the adapter"
        command = f"echo 1 | sudo tee /sys/bus/usb-serial/devices/{name}/latency_timer"
        slow = (port.latency_ms or 0) >= SLOW_MS
        if slow:
            told += f"; should a protocol give up early, 1 is quicker (note the old value, {port.latency_ms})"
        return StoryStep("Timing", told, State.PROVEN, command if slow else "")

    def read_log(self, text: str) -> list[tuple[str, str]]:
        """What a kernel log says, as (conclusion, what to do) for each path."""
        return self._told(read_log([text.encode()], self.catalog.log_lines.values()))

    def read_log_file(self, path: Path) -> list[tuple[str, str]]:
        """The same of a file of any size. Raises BadInput where it cannot be read."""
        try:
            return self._told(read_file(path, self.catalog.log_lines.values()))
        except OSError as error:
            raise BadInput(f"{path}: {error.strerror}") from None

    @staticmethod
    def _told(events: list[Event]) -> list[tuple[str, str]]:
        return [(f"{c.usb_path or 'USB'}: {c.code.replace('-', ' ')}", c.next) for c in conclude(events)]
