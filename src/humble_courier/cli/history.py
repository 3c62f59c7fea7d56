"""`history` and `compare`: what things did, and what changed since a link last worked."""

from datetime import datetime
from typing import Annotated

import typer

from humble_courier.cli.context import catalog_of, records_at, until_end
from humble_courier.cli.options import Json
from humble_courier.cli.output import columns, line, print_json

Demo = Annotated[bool, typer.Option("--demo", help="The demo's records.")]


def history(
    ctx: typer.Context,
    part: Annotated[str | None, typer.Option(help="A part of the catalog or of your own.")] = None,
    place: Annotated[str | None, typer.Option(help="Words of the names of links.")] = None,
    adapter: Annotated[str | None, typer.Option(help="Serial number of an adapter.")] = None,
    demo: Demo = False,
    json: Json = False,
) -> None:
    """What adapters, cables, devices and places did over time: served, failed, when last, what was changed."""
    from humble_courier.app.records.export import open_records
    from humble_courier.app.records.history_document import history as told

    catalog = catalog_of(ctx)
    catalog.demo = demo
    found = told(until_end(ctx, open_records(records_at(ctx, demo))), catalog, part, place, adapter)
    if json:
        print_json(found)
        return
    line(f"Served {found['served']} times, failed {found['failed']} times, last on {_day(found['last'])}.")
    rows: list[tuple[str, ...]] = [
        (t["name"], f"{t['served']} of {t['served'] + t['failed']}", _day(t["last"]), "weak" * t["weak"])
        for t in found["things"]
    ]
    columns(list(rows))
    for one in found["failures"]:
        line(f"{_day(one['at'])} {one['link']}: {one['text']}")
    for one in found["changed"]:
        line(f"{_day(one['at'])} {one['link']}: {one['what']} {one['now']} in place of {one['before']}")


def compare(
    ctx: typer.Context,
    link: Annotated[str, typer.Argument(help="A link/1 document, or a link of the records by its name.")],
    to: Annotated[str, typer.Option(help="last-proof, or another link/1 document.")] = "last-proof",
    demo: Demo = False,
    json: Json = False,
) -> None:
    """What changed since a link last worked."""
    from humble_courier.app.records.export import records_if_any
    from humble_courier.app.records.history_document import compare as told

    catalog = catalog_of(ctx)
    catalog.demo = demo
    found = told(until_end(ctx, records_if_any(records_at(ctx, demo))), catalog, link, to)
    if json:
        print_json(found)
    elif not found["changed"]:
        line("Nothing differs.")
    else:
        columns([(one["place"], one["what"], one["before"], one["now"]) for one in found["changed"]])


def _day(at: float) -> str:
    return f"{datetime.fromtimestamp(at):%Y-%m-%d}"


COMMANDS = {"history": history, "compare": compare}
