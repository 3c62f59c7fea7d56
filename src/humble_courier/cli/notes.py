"""`notes`: values noted at a device with their history, and pictures and files that are kept with its link."""

from datetime import datetime
from pathlib import Path
from typing import Annotated, Any

import typer

from humble_courier.cli.context import catalog_of, records_at, until_end
from humble_courier.cli.options import Json
from humble_courier.cli.output import columns, line, print_json


def notes(
    ctx: typer.Context,
    link: Annotated[str, typer.Argument(help="A link of the records by its name, or a part of it that only one has.")],
    note: Annotated[tuple[str, str] | None, typer.Option("--set", help="Note a value: its name, and what was read.")] = None,
    keep: Annotated[Path | None, typer.Option(help="Keep a copy of this picture or file.")] = None,
    demo: Annotated[bool, typer.Option("--demo", help="The demo's records.")] = False,
    json: Json = False,
) -> None:
    """What was noted at a device, with its history, and the pictures and files that are kept with its link."""
    from humble_courier.app.records.export import open_records
    from humble_courier.app.records.noting import NotedLink

    catalog = catalog_of(ctx)
    catalog.demo = demo
    one = NotedLink(until_end(ctx, open_records(records_at(ctx, demo))), link)
    if note is not None:
        one.ledger.note(*note)
    if keep is not None:
        one.keep(keep)
    found = one.document(catalog)
    if json:
        print_json(found)
        return
    line(f"{found['link']}:")
    rows = [(n["name"], n["value"] or "not noted yet", _before(n["history"])) for n in found["notes"]]
    columns([("", "now", "before"), *rows] if rows else [])
    for file in found["files"]:
        line(f"{file['name']}, {_day(file['at'])}: {file['path']}")


def _before(history: list[dict[str, Any]]) -> str:
    return ", ".join(f"{one['value']} ({_day(one['at'])})" for one in history[-2::-1])


def _day(at: float) -> str:
    return f"{datetime.fromtimestamp(at):%Y-%m-%d}"


COMMANDS = {"notes": notes}
