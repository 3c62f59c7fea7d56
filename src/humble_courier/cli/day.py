"""`pack` and `day`: what to take for a day of visits, and the sheet of that day."""

import datetime
from pathlib import Path
from typing import Annotated, Any

import typer

from humble_courier.app.files import write_whole
from humble_courier.app.today.calendar import as_ics
from humble_courier.app.today.day import Day, day_named, read_day
from humble_courier.app.today.day_document import day_sheet, packed
from humble_courier.app.today.packing import BagFound, Least, Packer, Packing, likeliest, packing
from humble_courier.app.wire.planning import read_kit
from humble_courier.cli.context import catalog_of, of, records_at, until_end
from humble_courier.cli.options import Json
from humble_courier.cli.output import columns, line, print_json
from humble_courier.errors import BadInput

VisitsFile = Annotated[Path, typer.Argument(help="A visits/1 document.")]
KitFile = Annotated[Path, typer.Option(help="A kit/1 document.")]
Seconds = Annotated[float, typer.Option(help="How long to look for the least bag.")]
By = Annotated[Least, typer.Option(help="What is least: pieces, weight or cost.")]
SPARES = ("none", "one-failure")


def pack(
    ctx: typer.Context,
    visits: VisitsFile,
    kit: KitFile,
    spare: Annotated[
        str, typer.Option(help="one-failure: any one piece may fail, and each link still has a chain.")
    ] = "none",
    least: By = Least.PIECES,
    limit: Annotated[float | None, typer.Option(help="Grams: the bag below them that serves the day most surely.")] = None,
    seconds: Seconds = 30.0,
    json: Json = False,
) -> None:
    """The least bag of the kit that serves every link of the day; what to buy, build and fetch where it does not."""
    if spare not in SPARES:
        raise BadInput(f"--spare {spare}: expected {' or '.join(SPARES)}")
    day, made = _made(ctx, visits, kit, least)
    packer = Packer(made.problem, spare == "one-failure")
    sure = likeliest(made, limit) if limit is not None else None
    found = packer.solve(seconds) if limit is None else BagFound(sure.bag, sure.grams, 0.0) if sure is not None else None
    document = packed(day, made, found, packer.unsafe, catalog_of(ctx))
    if sure is not None:
        document |= {"chance": round(sure.chance, 4), "chance_of_the_lightest": round(sure.least, 4)}
    if json:
        print_json(document)
    else:
        if limit is not None and sure is None:
            line(f"No bag of this kit that weighs {limit:g} g or less serves the day: allow more, or leave a visit out.")
        for text in told(document):
            line(text)
        columns([(visit, ", ".join(parts) or "nothing of the kit") for visit, parts in document["serves"].items()])
    if document["missing"]:
        raise typer.Exit(1)


def day(
    ctx: typer.Context,
    visits: VisitsFile,
    kit: KitFile,
    pdf: Annotated[Path | None, typer.Option(help="The sheet of the day on paper.")] = None,
    ics: Annotated[Path | None, typer.Option(help="The visits as iCalendar.")] = None,
    seconds: Seconds = 30.0,
    json: Json = False,
) -> None:
    """The sheet of the day: what to do before leaving, and at each place what to take, to prepare and to mind."""
    plan, made = _made(ctx, visits, kit, Least.PIECES)
    found = Packer(made.problem, spare=False).solve(seconds)
    document = day_sheet(plan, made, found, catalog_of(ctx))
    if ics is not None:
        write_whole(ics, as_ics(plan, datetime.date.today()))
    if pdf is not None:
        of(ctx).rooms.day_sheet(document, pdf)
    if json:
        print_json(document)
    elif ics is None and pdf is None:
        _print_day(document)
    if made.lacking or found is None:
        raise typer.Exit(1)


def _made(ctx: typer.Context, visits: Path, kit: Path, by: Least) -> tuple[Day, Packing]:
    catalog = catalog_of(ctx)
    plan = read_day(visits, catalog)
    return plan, packing(plan, read_kit(kit, catalog), catalog, by)


def told(document: dict[str, Any]) -> list[str]:
    """The bag in sentences."""
    take, missing = document["take"], document["missing"]
    found = []
    if take:
        proven = "proven to be the least" if document["optimal"] else f"it may be {document['gap']:.1%} above the least"
        if "chance" in document:
            least = document["chance_of_the_lightest"]
            proven = f"the whole day succeeds with {document['chance']:.0%}, the best found (the lightest bag: {least:.0%})"
        pieces = "1 piece" if len(take) == 1 else f"{len(take)} pieces"
        found.append(f"{pieces}, {document['weight_g']:.0f} g, cost {document['cost']:g}: {proven}.")
    found += [f"Not served: {', '.join(missing)}."] if missing else []
    for kind in ("buy", "build", "fetch"):
        wanted = document[kind]
        found += [f"{kind.capitalize()}: {one}" for one in wanted]
    lost = document["fails_without"]
    found += [f"If {part} fails: {', '.join(links)} cannot be served." for part, links in lost.items()]
    return found


def _print_day(document: dict[str, Any]) -> None:
    line("Before leaving:")
    for act in document["before_leaving"]:
        line(f"  {act['do']} ({act['why']})")
    for visit in document["visits"]:
        take = ", ".join(visit["take"]) or "nothing"
        line(f"{visit['at'] or '--:--'}  {visit['id']}, {visit['minutes']} min. Take: {take}")
        for caution in visit["cautions"]:
            line(f"  Caution: {caution}")
        for number, act in enumerate(visit["prepare"], start=1):
            line(f"  {number}. {act}")
        for plan in visit["plans"]:
            line(f"  Site plan {plan['name']}: {sum(len(one['members']) for one in plan['segments'])} devices")


def visits(
    ctx: typer.Context,
    calendar: Annotated[Path, typer.Argument(help="An iCalendar file.")],
    date: Annotated[
        str | None, typer.Option(help="Which day of it, as 2026-11-26; else today, else the next with an event.")
    ] = None,
    demo: Annotated[bool, typer.Option("--demo", help="Links of the demo's records.")] = False,
    json: Json = False,
) -> None:
    """A day of a calendar as a visits/1 document; links of the records whose names stand in an event are written out."""
    from humble_courier.app.records.export import records_if_any
    from humble_courier.app.today.calendar_document import as_yaml, document_of, plain, read_calendar

    text = read_calendar(calendar)
    store = until_end(ctx, records_if_any(records_at(ctx, demo)))
    document = plain(document_of(text, store, datetime.date.today(), day_named(date)))
    if json:
        print_json(document)
    else:
        line(as_yaml(document).rstrip())
    if not all(visit.get("links") for visit in document["visits"]):
        raise typer.Exit(1)


COMMANDS = {"pack": pack, "day": day, "visits": visits}
