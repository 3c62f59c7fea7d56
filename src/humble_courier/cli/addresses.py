"""`switches`, `bus`, `io`, `ip`: addresses, from the wanted number to the picture of the switches and back."""

from pathlib import Path
from typing import Annotated, Any

import typer

from humble_courier.app.settings.address_plans import Conflict, shown
from humble_courier.app.trade import open_catalog
from humble_courier.cli.context import of
from humble_courier.cli.options import Json
from humble_courier.cli.output import columns, line, print_json


def switches(
    address: Annotated[int | None, typer.Option(help="The address that is wanted.")] = None,
    width: Annotated[int | None, typer.Option(min=1, max=32, help="How many switches the bank has.")] = None,
    read: Annotated[str | None, typer.Option(help="Switches as seen, from switch 1 on: 1,0,1,1 or on off on on.")] = None,
    msb_first: Annotated[bool, typer.Option("--msb-first", help="Switch 1 has the highest weight.")] = False,
    on_is_zero: Annotated[bool, typer.Option("--on-is-zero", help="A switch that is on counts nothing.")] = False,
    offset: Annotated[int, typer.Option(help="Address = number of the switches + offset.")] = 0,
    rotary: Annotated[int | None, typer.Option(min=1, max=8, help="So many rotary hexadecimal switches instead.")] = None,
    json: Json = False,
) -> None:
    """From the wanted address to the switches, or from the switches seen to the address."""
    from humble_courier.app.settings.banks import coded_bank, rotary_positions

    if rotary is not None and address is not None:
        digits = rotary_positions(address - offset, rotary)
        print_json({"rotary": list(digits), "address": address}) if json else line(f"set to {' '.join(digits)}")
        return
    bank = coded_bank(address, read, width, msb_first, on_is_zero, offset)
    if json:
        print_json({
            "switches": list(bank.positions), "reads_back": bank.address, "weights": list(bank.weights),
            "range": list(bank.range), "address": bank.address,
        })  # fmt: skip
        return
    rows = zip(bank.positions, bank.weights, strict=True)
    columns([(f"switch {i}", "on" if on else "off", f"weighs {w}") for i, (on, w) in enumerate(rows, start=1)])
    line(f"address {bank.address}")


def bus(
    plan: Annotated[Path, typer.Argument(help="A bus/1 document.")],
    json: Json = False,
) -> None:
    """Many devices on one bus: unique and legal addresses, the same settings everywhere."""
    from humble_courier.app.settings.address_plans import judge_bus

    found = judge_bus(plan, open_catalog())
    assignments = [{"name": n, "address": a} for n, a in found.plan.addresses.items()]
    suggest = [{"name": n, "address": a, "switches": list(found.switches.get(n, ()))} for n, a in found.plan.suggest.items()]
    if json:
        print_json({
            "assignments": assignments, "conflicts": _told(found.plan.conflicts), "ok": found.plan.ok, "suggest": suggest,
            "switches": {n: list(s) for n, s in found.switches.items()}, "highest_master": found.plan.highest_master,
        })  # fmt: skip
    else:
        columns([(n, str(a)) for n, a in found.plan.addresses.items()])
        _say(found.plan.conflicts)
        for name, address in found.plan.suggest.items():
            positions = "".join(str(s) for s in found.switches.get(name, ()))
            line(f"{name}: take {address}" + (f", switches {positions} (from switch 1 on)" if positions else ""))
        if found.plan.highest_master is not None:
            line(f"Set the highest master to {found.plan.highest_master}.")
    if not found.plan.ok:
        raise typer.Exit(1)


def site(
    ctx: typer.Context,
    plan: Annotated[Path, typer.Argument(help="A site/1 document.")],
    csv: Annotated[Path | None, typer.Option(help="One row a device, as CSV.")] = None,
    pdf: Annotated[Path | None, typer.Option(help="The plan on paper, with the switches as they stand.")] = None,
    json: Json = False,
) -> None:
    """The devices of a whole site over as many segments as they want: addresses, switches, instance numbers."""
    from humble_courier.app.files import write_whole
    from humble_courier.app.settings.site_plans import judge_site, site_csv, site_document, site_sections

    judged = judge_site(plan, open_catalog())
    document = site_document(judged)
    if csv is not None:
        write_whole(csv, site_csv(judged))
    if pdf is not None:
        of(ctx).rooms.sections(f"Site plan {plan.stem}", site_sections(document), pdf)
    if json:
        print_json(document)
    elif csv is None and pdf is None:
        for segment in document["segments"]:
            line(f"{segment['name']}: {len(segment['members'])} devices")
            rows = [(m["name"], m["address"], "".join(map(str, m["switches"])), m["instance"]) for m in segment["members"]]
            columns([tuple("" if cell is None else str(cell) for cell in row) for row in rows])
    if not json:
        _say(judged.plan.conflicts)
    if not judged.plan.ok:
        raise typer.Exit(1)


def io(
    plan: Annotated[Path, typer.Argument(help="An io/1 document.")],
    point: Annotated[str | None, typer.Option(help="Ask where a point is, as it is printed: X17.")] = None,
    terminal: Annotated[str | None, typer.Option(help="Ask which point is at a terminal: MODULE:1.")] = None,
    json: Json = False,
) -> None:
    """Ranges of I/O points: starts, ends, overlaps, the next free start; which point is at which terminal."""
    from humble_courier.app.settings.address_plans import (
        judge_points,
        next_start_shown,
        points_printed,
        points_shown,
        which_point,
        which_terminal,
    )  # fmt: skip

    found, radix = judge_points(plan)
    rows, following = points_shown(found, radix), next_start_shown(found, radix)
    said = which_terminal(found, radix, point) if point is not None else ""
    said = which_point(found, radix, terminal) if terminal is not None else said
    if json:
        told = {"assignments": rows, "conflicts": _told(found.conflicts), "ok": found.ok}
        free = {letter: shown(start, radix) for letter, start in found.next_starts.items()}
        asked = {"answer": said} if said else {}
        more = {"printed": points_printed(found, radix), "next_starts": free, **asked}
        print_json({**told, "suggest": {"next_start": following}, **more})
    elif said:
        line(said)
    else:
        columns(list(points_printed(found, radix).items()))
        _say(found.conflicts)
        line(f"Next free start: {following}")
    if not found.ok:
        raise typer.Exit(1)


def ip(
    device: Annotated[str, typer.Option(help="The device's address and network, as in 192.0.2.10/24.")],
    computer: Annotated[str, typer.Option(help="The computer's address and network.")],
    other: Annotated[list[str] | None, typer.Option(help="Further addresses of the computer.")] = None,
    site: Annotated[list[str] | None, typer.Option(help="Addresses in use at the site, against a factory address.")] = None,
    json: Json = False,
) -> None:
    """Do computer and device reach each other, and which address should the computer take?"""
    from humble_courier.app.settings.address_plans import judge_network

    judged = judge_network(device, computer, other or (), site or ())
    found = judged.plan
    if json:
        assignments = [{"name": "device", "address": judged.device}, {"name": "computer", "address": judged.computer}]
        told = {"assignments": assignments, "conflicts": _told(found.conflicts), "ok": found.ok}
        print_json({**told, "suggest": found.suggest})
    else:
        _say(found.conflicts)
        if found.suggest is not None:
            line(f"Give the computer {found.suggest}.")
        elif found.ok:
            line("They reach each other.")
        elif not judged.clash:
            line("The device's network has no address left for the computer.")
    if not found.ok:
        raise typer.Exit(1)


def _told(conflicts: tuple[Conflict, ...]) -> list[dict[str, Any]]:
    return [{"code": c.code, "where": c.where, "text": c.text, "costs_only": c.costs_only} for c in conflicts]


def _say(conflicts: tuple[Conflict, ...]) -> None:
    for conflict in conflicts:
        line(f"{conflict.where}: {conflict.text}")


COMMANDS = {"switches": switches, "bus": bus, "site": site, "io": io, "ip": ip}
