"""From the plug to the open node, as a short chain of steps with the one that failed and what would mend it."""

from dataclasses import dataclass
from pathlib import Path

from humble_courier.app.port.drivers import claim
from humble_courier.catalog.load import Catalog
from humble_courier.domain.facts import State
from humble_courier.host.aliases import UsbId
from humble_courier.host.kinds import HostPort, PortKind, UsbDevice
from humble_courier.host.modules import Kernel
from humble_courier.host.power import power_of
from humble_courier.host.timing import flag_command, timer_command

SLOW_MS = 16  # the timer that many USB adapters start with
QUICK_MS = 1  # the least that the timer of such adapters takes (drivers/usb/serial/ftdi_sio.c, latency_timer)


@dataclass(frozen=True)
class StoryStep:
    """One step: what it is about, what is so, how far it is known, and the command that would mend it.

    `sets_ms` is the latency that the program itself may set when asked; None where there is nothing of the kind.
    """

    title: str
    text: str
    state: State
    remedy: str = ""
    sets_ms: int | None = None


@dataclass(frozen=True)
class PortStory:
    """Tells the steps of ports and of devices without one, on the machine under `root`."""

    catalog: Catalog
    root: Path
    kernel: Kernel

    def of_port(self, port: HostPort, was_ms: int | None = None) -> list[StoryStep]:
        """The steps of a port. `was_ms` is the latency that it had before this program changed it."""
        steps = self._plug_steps(port.usb, port) if port.usb is not None else []
        if port.served is not None:
            made = f"made by {port.served.program} (process {port.served.pid}); gone when that program ends"
            steps.append(StoryStep("Made by", made, State.PROVEN))
        access = port.access
        there = access is None or access.there
        steps.append(StoryStep("Node", port.address if there else "gone", State.PROVEN if there else State.CONTRADICTED))
        if access is not None and there:
            good = State.PROVEN if access.allowed else State.CONTRADICTED
            steps.append(StoryStep("Permission", access.story, good, access.remedy))
        steps.append(self._free(port))
        if port.latency_ms is not None:
            steps.append(_timer(port, port.latency_ms, was_ms))
        if port.low_latency is not None:
            steps.append(_flag(port, port.low_latency))
        return steps

    def of_idle(self, usb: UsbDevice) -> list[StoryStep]:
        """The steps of a device of which no port comes."""
        return [*self._plug_steps(usb, None), StoryStep("Node", "none", State.UNKNOWN)]

    def _plug_steps(self, usb: UsbDevice, port: HostPort | None) -> list[StoryStep]:
        steps = [StoryStep("Plug", f"seen in socket {usb.path}", State.PROVEN)]
        power = power_of(port or HostPort("", PortKind.USB, usb=usb), self.root)
        if power is not None and not power.enough:
            steps.append(StoryStep("Power", power.story, State.CONTRADICTED))
        elif power is not None and power.asks_ma is not None:
            told = f"asks for {power.asks_ma} mA; {power.hub} gives {power.gives_ma}"
            steps.append(StoryStep("Power", told, State.ASSUMED))
        reports = f", reports “{usb.product}”" if usb.product else ""
        return [*steps, StoryStep("Device", f"{usb.vid}:{usb.pid}{reports}", State.PROVEN), self._module(usb, port)]

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
        elif not found.loaded:
            told = f"{found.claimed_by} would claim it, and is not loaded"
        else:
            told = f"{found.claimed_by} did not bind it"
        return StoryStep("Module", told, State.CONTRADICTED, found.steps[0].do)

    def _free(self, port: HostPort) -> StoryStep:
        taker = self.catalog.port_takers.get(port.holder.program) if port.holder else None
        if port.holder is not None and taker is not None:
            told = f"held by {port.holder.program}: {taker.what}; {taker.stays}"
            return StoryStep("Free", told, State.CONTRADICTED, taker.remedy)
        if port.holder is not None:
            told = f"held by {port.holder.program} (process {port.holder.pid}): end that program"
            return StoryStep("Free", told, State.CONTRADICTED, f"kill {port.holder.pid}")
        if port.lock is not None:
            told = f"locked by {port.lock}: end the program that made it"
            return StoryStep("Free", told, State.CONTRADICTED, f"cat {port.lock}")
        return StoryStep("Free", "nobody has it open, as far as we may see", State.ASSUMED)


def _timer(port: HostPort, ms: int, was_ms: int | None) -> StoryStep:
    """The latency timer: how long the adapter collects before it hands over what came."""
    told = f"answers wait up to {ms} ms in the adapter"
    if was_ms is not None and was_ms != ms:
        told += f"; it was {was_ms} ms before this program set it"
        return StoryStep("Timing", told, State.PROVEN, timer_command(port, was_ms), was_ms)
    if ms >= SLOW_MS:
        told += f"; should a protocol give up early, {QUICK_MS} is quicker"
        return StoryStep("Timing", told, State.PROVEN, timer_command(port, QUICK_MS), QUICK_MS)
    return StoryStep("Timing", told, State.PROVEN)


def _flag(port: HostPort, low: bool) -> StoryStep:
    if low:
        return StoryStep("Timing", "the driver hands each byte over at once (low-latency flag)", State.PROVEN)
    told = (
        "the driver hands bytes over in lots; the low-latency flag would end that. The command opens the port: mind DTR, RTS"
    )
    return StoryStep("Timing", told, State.PROVEN, flag_command(port, low=True))
