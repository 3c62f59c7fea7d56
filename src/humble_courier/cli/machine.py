"""What the machine says: `ports`, `driver`, `kernel-log`, `name`, `port-numbers`. Nothing is changed; commands are shown."""

import sys
from pathlib import Path
from typing import Annotated, Any

import typer

from humble_courier.catalog.load import Catalog
from humble_courier.cli.output import columns, line, print_json
from humble_courier.errors import BadInput, MachineRefused
from humble_courier.host.kinds import HostPort, UsbDevice, number
from humble_courier.host.ports import list_ports, unclaimed
from humble_courier.host.power import Power, power_of
from humble_courier.host.second_opinion import overlooked

Json = Annotated[bool, typer.Option("--json", help="One JSON document on standard output.")]
Root = Annotated[Path, typer.Option("--sysroot", help="A folder that stands for the root of a machine.")]
HERE = Path("/")


def ports(
    sysroot: Root = HERE,
    highest: Annotated[int | None, typer.Option(min=1, help="Highest number that an old program accepts.")] = None,
    json: Json = False,
) -> None:
    """The serial ports of this machine: what each is, who claims it, and what keeps us from opening it."""
    if not sysroot.is_dir():
        raise BadInput(f"--sysroot {sysroot}: no such folder")
    found = list_ports(sysroot)
    if sysroot == HERE:
        found += overlooked(found)
    whys = [[*p.why_not, *(["number-too-high"] if highest and (number(p) or 0) > highest else [])] for p in found]
    if json:
        told = {"ports": [_port(p, sysroot, why) for p, why in zip(found, whys, strict=True)]}
        print_json({**told, "unclaimed": [{"usb": _usb(u), "why_not": ["no-driver"]} for u in unclaimed(sysroot)]})
        return
    if not found:
        line("No serial port. Plug the adapter in; a charge-only cable or a worn socket shows nothing either.")
    columns([
        (p.address, str(p.kind), p.driver or "-", p.product or "", ", ".join(why) or "free")
        for p, why in zip(found, whys, strict=True)
    ])  # fmt: skip
    for p in found:
        if p.access is not None and p.access.remedy:
            line(f"{p.address}: {p.access.story}. {p.access.remedy}")
        if p.holder is not None:
            line(f"{p.address}: held by {p.holder.program} (process {p.holder.pid}); end that program first")


def _usb(usb: UsbDevice) -> dict[str, Any]:
    return {
        "vid": usb.vid, "pid": usb.pid, "serial": usb.serial, "manufacturer": usb.manufacturer, "product": usb.product,
        "path": usb.path,
    }  # fmt: skip


def _port(p: HostPort, root: Path, why_not: list[str]) -> dict[str, Any]:
    usb, power = p.usb, power_of(p, root)
    return {
        "address": p.address,
        "device": p.name,
        "by_id": p.by_id,
        "by_path": p.by_path,
        "kind": p.kind,
        "usb": _usb(usb) if usb else None,
        "driver": p.driver,
        "openable": not why_not,
        "why_not": why_not,
        "holder": {"pid": p.holder.pid, "program": p.holder.program} if p.holder else None,
        "remedy": p.access.remedy if p.access else "",
        "latency_ms": p.latency_ms,
        "low_latency": p.low_latency,
        "served_by": {"pid": p.served.pid, "program": p.served.program} if p.served else None,
        "max_power_ma": usb.max_power_ma if usb else None,
        "power": _power(power) if power else None,
    }  # fmt: skip


def _power(power: Power) -> dict[str, Any]:
    told = {"gives_ma": power.gives_ma, "over_current": power.over_current, "enough": power.enough}
    return {**told, "shared_ma": power.shared_ma, "remedy": power.remedy}


def driver(
    usb_id: Annotated[str, typer.Argument(metavar="VID:PID", help="As in 0403:6001.")],
    interface: Annotated[str | None, typer.Option(help="Class of the interface, CC:SS:PP.")] = None,
    device_class: Annotated[str | None, typer.Option(help="Class of the device, CC:SS:PP.")] = None,
    modules_alias: Annotated[Path | None, typer.Option(help="A modules.alias file of another machine.")] = None,
    sysroot: Root = HERE,
    json: Json = False,
) -> None:
    """Which kernel module claims an adapter, and what to do until it is a port."""
    from humble_courier.app.port.drivers import claim
    from humble_courier.host.aliases import UsbId
    from humble_courier.host.modules import Kernel

    usb = UsbId.parse(usb_id, interface, device_class)
    found = claim(usb, Catalog(), Kernel(sysroot), modules_alias)
    if json:
        print_json({
            "claimed_by": found.claimed_by,
            "candidates": list(found.candidates),
            "in_kernel": found.in_kernel,
            "loaded": found.loaded,
            "blocked": {"file": found.block.file, "line": found.block.line} if found.block else None,
            "bound": [{"interface": b.interface, "driver": b.driver} for b in found.bound],
            "from_reference": found.from_reference,
            "steps": [{"do": s.do, "why": s.why} for s in found.steps],
            "other_os": [{"do": s.do, "why": s.why} for s in found.other_os],
        })  # fmt: skip
    else:
        line(f"{usb_id}: claimed by {found.claimed_by}" if found.claimed_by else f"{usb_id}: no module claims it")
        if found.from_reference:
            line("This machine has no list of its own; the shipped list of Linux 6.1 was asked.")
        for step in found.steps:
            line(f"  {step.do}\n      {step.why}")
        line("On a laptop with another system:")
        for step in found.other_os:
            line(f"  {step.do}")
    if found.claimed_by is None:
        raise typer.Exit(1)


def kernel_log(
    file: Annotated[Path, typer.Argument(help="Text of dmesg or of the journal; - reads standard input.")],
    json: Json = False,
) -> None:
    """What the kernel's log says about adapters, path by path, and what to do."""
    from humble_courier.host.kernel_log import conclude, pieces, read_file, read_log

    patterns = list(Catalog().log_lines.values())
    try:
        events = read_log(pieces(sys.stdin.buffer), patterns) if str(file) == "-" else read_file(file, patterns)
    except OSError as error:
        raise BadInput(f"{file}: {error.strerror}") from None
    found = conclude(events)
    if json:
        told = [e for e in events if e.code not in ("identified", "other-device")]
        print_json({
            "events": [
                {"line": e.line, "time": e.time, "code": e.code, "usb_path": e.usb_path, "port": e.port} for e in told
            ],
            "conclusions": [
                {"code": c.code, "because": list(c.because), "next": c.next, "usb_path": c.usb_path} for c in found
            ],
        })  # fmt: skip
        return
    for c in found:
        rests = f" (lines {', '.join(map(str, c.because[:8]))})" if c.because else ""
        line(f"{c.usb_path or 'USB'}: {c.code}{rests}. {c.next}")


def name(
    address: Annotated[str, typer.Argument(help="A port, as in /dev/ttyUSB0.")],
    link: Annotated[str, typer.Option("--as", help="The name, in small letters.")] = "link",
    by: Annotated[str | None, typer.Option(help="serial or socket.")] = None,
    sysroot: Root = HERE,
    json: Json = False,
) -> None:
    """A udev rule that gives a port a name that stays. It is shown, not put in place."""
    from humble_courier.host.names import By, make_rule

    if by is not None and by not in list(By):
        raise BadInput(f"--by {by}: expected serial or socket")
    found = list_ports(sysroot)
    port = next((p for p in found if p.address == address), None)
    if port is None:
        known = ", ".join(p.address for p in found) or "none"
        raise MachineRefused(f"{address} is not there", f"Ports of this machine: {known}")
    rule = make_rule(port, link, By(by) if by else None, found)
    label = f"{link} · {rule.link} · {port.driver or 'no driver named'}"
    if json:
        told = {"rule": rule.text, "link": rule.link, "label": label, "by": rule.by, "survives": rule.survives}
        print_json({**told, "commands": list(rule.commands)})
        return
    line(rule.text)
    line(rule.survives)
    line("To put it in place (not done here):")
    for command in rule.commands:
        line(f"  {command}")


def port_numbers(
    plan: Annotated[Path, typer.Argument(help="A port-numbers/1 document.")],
    json: Json = False,
) -> None:
    """Numbers for programs that accept low ports only: all limits at once, with the fewest changes."""
    from humble_courier.app.port.numbers import hand_over, read_plan, solve

    found, steps = solve(read_plan(plan))
    if json:
        print_json({
            "assignments": [{"adapter": id_, "number": n} for id_, n in found.numbers.items()],
            "changes": found.changes,
            "steps": [{"do": do, "why": why} for do, why in steps],
            "conflicts": [{"text": text} for text in found.conflicts],
            "hand_over": [{"do": do, "why": why} for do, why in hand_over(Catalog())],
        })  # fmt: skip
    else:
        columns([(id_, str(n)) for id_, n in found.numbers.items()])
        for do, why in steps:
            line(f"  {do}: {why}")
        for text in found.conflicts:
            line(text)
        if found.conflicts:
            line("Where no number can be moved:")
            for do, _ in hand_over(Catalog()):
                line(f"  {do}")
    if found.conflicts:
        raise typer.Exit(1)
