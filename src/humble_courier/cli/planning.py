"""`plan` and `build`: which chain of the kit serves, what to buy, and the sheet of a cable to make."""

from pathlib import Path
from typing import Annotated

import typer

from humble_courier.app.files import write_whole
from humble_courier.app.wire import build_table
from humble_courier.app.wire.plan_document import planned
from humble_courier.app.wire.planning import Build, Planned, build_for_file, plan_file
from humble_courier.app.wire.wire_map import sentence
from humble_courier.cli.context import catalog_of, of
from humble_courier.cli.options import Json
from humble_courier.cli.output import columns, line, print_json

LinkFile = Annotated[Path, typer.Argument(help="A link/1 document; its chain is left aside.")]
Scheme = Annotated[str, typer.Option(help="Order of colours: own or tia-568.")]


def plan(
    ctx: typer.Context,
    link: LinkFile,
    kit: Annotated[Path, typer.Option(help="A kit/1 document.")],
    k: Annotated[int, typer.Option(help="How many chains.")] = 5,
    scheme: Scheme = "own",
    json: Json = False,
) -> None:
    """The best chains out of the kit; where nothing in it serves, what to buy or what to build."""
    found = plan_file(link, kit, catalog_of(ctx), k, scheme)
    if json:
        print_json(planned(found))
    else:
        _print(found)
    if not found.outcome.plans:
        raise typer.Exit(1)


def build(
    ctx: typer.Context,
    link: Annotated[Path, typer.Argument(help="A link/1 document; adapters and converters of its chain are kept.")],
    scheme: Scheme = "own",
    pdf: Annotated[Path | None, typer.Option(help="The sheet on paper.")] = None,
    svg: Annotated[Path | None, typer.Option(help="Both ends from both sides, as a drawing.")] = None,
    csv: Annotated[Path | None, typer.Option(help="Wire list and acceptance table.")] = None,
    json: Json = False,
) -> None:
    """The sheet of a cable to make for a link: wires, colours, what stays open and why, how to accept it."""
    found = build_for_file(link, catalog_of(ctx), scheme)
    if csv is not None:
        write_whole(csv, build_table.table(found.sheet))
    if pdf is not None or svg is not None:
        of(ctx).rooms.build_sheet(found, pdf, svg)
    if json:
        print_json(build_table.document(found))
    elif not (csv or pdf or svg):
        _print_build(found)


def _print(found: Planned) -> None:
    for number, plan in enumerate(found.outcome.plans, start=1):
        names = " + ".join(offer.part.name for offer in plan.offers) or "nothing: the two go straight together"
        line(f"{number}. {names}  ({plan.trace.verdict}" + (f", cost {plan.cost:g})" if plan.cost else ")"))
        for finding in plan.trace.findings:
            line(f"     {finding.text} [{finding.code}]")
    if not found.outcome.complete:
        line("The kit is large: the search stopped early, longer chains were not all looked at.")
    if found.outcome.plans:
        return
    line("Nothing in the kit will do.")
    if found.outcome.nearest is not None:
        parts = " + ".join(offer.part.name for offer in found.outcome.nearest.offers) or "joining the two directly"
        line(f"Nearest: {parts}. {sentence(found.outcome.nearest.trace)[1]}")
    if found.buy:
        line("Buy: " + ", ".join(part.name for part in found.buy))
    if found.build is not None:
        line("Or build:")
        _print_build(found.build)


def _print_build(found: Build) -> None:
    sheet = found.sheet
    if found.before:
        line("After: " + ", ".join(part.name for part in found.before))
    line(f"A (computer's side): {sheet.a}    B (device's side): {sheet.b}    colours: {sheet.scheme}")
    head: tuple[str, ...] = ("A", "B", "signal", "colour", "pair")
    columns([head, *((w.a, w.b, f"{w.at_a} to {w.at_b}", w.colour, str(w.pair or "")) for w in sheet.wires)])
    for one in found.advice:
        line(f"{one[0].upper()}{one[1:]}.")
    for o in sheet.open:
        line(f"{o.end} {o.contact} ({o.signal}) stays open: {o.why}")
    line("Must beep: " + ", ".join(f"{a}–{b}" for a, b in sheet.beep))
    line("Must be silent: " + ", ".join(f"{a}–{b}" for a, b in sheet.silent))


COMMANDS = {"plan": plan, "build": build}
