"""What a device's usual program and its adapters want, held against this computer and the port in use."""

import platform
import re
import struct
from collections.abc import Iterator
from dataclasses import dataclass

from humble_courier.documents.device import DeviceEntry
from humble_courier.domain.settings import Settings
from humble_courier.line.bridges import BRIDGES, kinds_of
from humble_courier.line.clocks import tolerance

BITS_BY_WIDTH = {16: (16, 32), 32: (32, 64), 64: (64,)}  # systems on which a program of so many bits runs (common practice)


@dataclass(frozen=True)
class ThisComputer:
    """What is compared: operating system, bits of it, the module that claims the port in use, the port's number."""

    system: str
    bits: int
    module: str = ""
    number: int | None = None


@dataclass(frozen=True)
class Want:
    """One requirement: what, whether it is met (None: cannot be told here), and a sentence that says so."""

    what: str
    met: bool | None
    told: str


def this_computer(module: str = "", address: str = "") -> ThisComputer:
    """The computer that runs this, with the port in use."""
    number = re.search(r"(\d+)$", address.partition("?")[0])
    return ThisComputer(platform.system(), struct.calcsize("P") * 8, module, int(number.group()) if number else None)


def wants(sheet: DeviceEntry, here: ThisComputer, device: Settings | None = None) -> list[Want]:
    """All that can be compared; `device`: how the device is set, where it is known."""
    return [*_program(sheet, here, device), *_adapter(sheet, here), *_rate(here, device)]


def _program(sheet: DeviceEntry, here: ThisComputer, device: Settings | None) -> Iterator[Want]:
    program = sheet.program
    if program.systems:
        met = any(here.system.lower() in system.lower() for system in program.systems)
        wanted = " or ".join(program.systems)
        told = f"it runs on {wanted}, and this is {here.system}" if not met else f"it runs on {here.system}"
        yield Want("Its usual program", met, told if met else f"{told}: take a computer with {wanted}")
    if program.bits:
        met = here.bits in BITS_BY_WIDTH[program.bits]
        told = f"it wants a system of {' or '.join(map(str, BITS_BY_WIDTH[program.bits]))} bits; this one has {here.bits}"
        yield Want("Bits of the system", met, told)
    if program.settings:
        fixed = Settings.parse(program.settings)
        told = f"its program always opens {fixed.spoken}"
        if device is not None and device != fixed:
            told += f", and the device is set to {device.spoken}: set the device, or do without that program"
        yield Want("Settings of its program", None if device is None else device == fixed, told)


def _adapter(sheet: DeviceEntry, here: ThisComputer) -> Iterator[Want]:
    for one in sheet.adapters:
        if here.module and one.module == here.module:
            word = "known to work" if one.works else "known not to work"
            told = f"{one.module} is in use, {word} with it" + (f": {one.note}" if one.note else "")
            yield Want("Adapter", one.works, told)
            return
    good = [one.module for one in sheet.adapters if one.works]
    bad = [one.module for one in sheet.adapters if not one.works]
    lists = [f"known to work: {', '.join(good)}"] * bool(good) + [f"known not to: {', '.join(bad)}"] * bool(bad)
    if lists:
        yield Want("Adapter", None, "; ".join(lists))


def _rate(here: ThisComputer, device: Settings | None) -> Iterator[Want]:
    """Whether an adapter's divider makes the device's rate; told where some do not."""
    if device is None:
        return
    bridges = kinds_of(here.module) or list(BRIDGES)
    made = [(bridge, bridge.make(device.rate).actual) for bridge in bridges]
    budget = tolerance(device.frame) / 2  # half of what both ends may be off together
    fails = [(one, actual) for one, actual in made if actual is None or abs(actual / device.rate - 1) > budget]
    if not fails:
        return
    told = "; ".join(
        f"{one.driver} ({one.chip}) makes {actual:.0f}" if actual is not None else f"{one.driver} ({one.chip}) refuses it"
        for one, actual in fails
    )
    only = len(fails) < len(made)
    advice = "take one that makes it; Timing and flow of the settings has them all"
    met = None if only or not kinds_of(here.module) else False
    yield Want(f"{device.rate} bit/s from the adapter", met, f"{told}: {advice}")
