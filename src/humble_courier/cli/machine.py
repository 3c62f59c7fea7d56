"""What the machine says: `ports`, `driver`, `kernel-log`, `name`, `port-numbers`. Nothing is changed; commands are shown."""

import sys
from pathlib import Path
from typing import Annotated

import typer

from humble_courier.app.port.listing import listed, port_document, usb_document
from humble_courier.app.trade import open_catalog
from humble_courier.cli.options import Json
from humble_courier.cli.output import columns, line, print_json

Root = Annotated[Path, typer.Option("--sysroot", help="A folder that stands for the root of a machine.")]
HERE = Path("/")


def ports(
    sysroot: Root = HERE,
    highest: Annotated[int | None, typer.Option(min=1, help="Highest number that an old program accepts.")] = None,
    json: Json = False,
) -> None:
    """The serial ports of this machine: what each is, who claims it, and what keeps us from opening it."""
    found, idle = listed(sysroot, highest)
    if json:
        told = [{"usb": usb_document(usb), "why_not": ["no-driver"]} for usb in idle]
        print_json({"ports": [port_document(one) for one in found], "unclaimed": told})
        return
    if not found:
        line("No serial port. Plug the adapter in; a charge-only cable or a worn socket shows nothing either.")
    there = [one.port for one in found]
    whys = [", ".join(one.why_not) or "free" for one in found]
    columns([(p.address, str(p.kind), p.driver or "-", p.product or "", why) for p, why in zip(there, whys, strict=True)])
    for p in there:
        if p.access is not None and p.access.remedy:
            line(f"{p.address}: {p.access.story}. {p.access.remedy}")
        if p.holder is not None:
            line(f"{p.address}: held by {p.holder.program} (process {p.holder.pid}); end that program first")


def driver(
    usb_id: Annotated[str, typer.Argument(metavar="VID:PID", help="As in 0403:6001.")],
    interface: Annotated[str | None, typer.Option(help="Class of the interface, CC:SS:PP.")] = None,
    device_class: Annotated[str | None, typer.Option(help="Class of the device, CC:SS:PP.")] = None,
    modules_alias: Annotated[Path | None, typer.Option(help="A modules.alias file of another machine.")] = None,
    sysroot: Root = HERE,
    json: Json = False,
) -> None:
    """Which kernel module claims an adapter, and what to do until it is a port."""
    from humble_courier.app.port.drivers import claim_of

    found = claim_of(usb_id, interface, device_class, open_catalog(), sysroot, modules_alias)
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
    from humble_courier.app.port.kernel_log import log_story_of

    story = log_story_of(sys.stdin.buffer if str(file) == "-" else file, open_catalog())
    found = story.conclusions
    if json:
        print_json({
            "events": [
                {"line": e.line, "time": e.time, "code": e.code, "usb_path": e.usb_path, "port": e.port} for e in story.news
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
    from humble_courier.app.port.naming import rule_for

    rule, label = rule_for(address, link, by, sysroot)
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
            "hand_over": [{"do": do, "why": why} for do, why in hand_over(open_catalog())],
        })  # fmt: skip
    else:
        columns([(id_, str(n)) for id_, n in found.numbers.items()])
        for do, why in steps:
            line(f"  {do}: {why}")
        for text in found.conflicts:
            line(text)
        if found.conflicts:
            line("Where no number can be moved:")
            for do, _ in hand_over(open_catalog()):
                line(f"  {do}")
    if found.conflicts:
        raise typer.Exit(1)


COMMANDS = {"ports": ports, "driver": driver, "kernel-log": kernel_log, "name": name, "port-numbers": port_numbers}
