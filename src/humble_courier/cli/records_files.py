"""`records`: export and merge, search, check, a copy of everything and back."""

from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from humble_courier.app.folders import data_folder
from humble_courier.app.records.merge_file import Whose
from humble_courier.cli.context import catalog_of, of, records_at, until_end
from humble_courier.cli.options import Json
from humble_courier.cli.output import columns, error_line, line, print_json

if TYPE_CHECKING:
    from humble_courier.app.records.report import Paper

records = typer.Typer(help="What was kept: links, facts, proofs.", no_args_is_help=True)
Demo = Annotated[bool, typer.Option("--demo", help="The demo's records.")]
ExportFile = Annotated[Path, typer.Argument(help="A records/1 document, or a zip file of one.")]


@records.callback()
def _records() -> None:
    """What was kept: links, facts, proofs."""


@records.command("export")
def export(
    ctx: typer.Context,
    out: Annotated[Path | None, typer.Option(help="File to write, a .zip with all pictures; else standard output.")] = None,
    demo: Demo = False,
    json: Json = False,
) -> None:
    """Write all records as one JSON document (records/1; its schema: schema records)."""
    from humble_courier.app.records.export import open_records, write_records

    store = until_end(ctx, open_records(records_at(ctx, demo)))
    found = write_records(store, out) if out is not None else store.export()
    for one in found.left_out:
        error_line(f"left out, as it cannot be read: {one.row} ({one.why})")
    if out is None:
        print_json(found)
    elif json:
        print_json({"file": str(out), "links": len(found.links), "left_out": found.left_out})
    else:
        line(f"{out}: {len(found.links)} links")


@records.command("import")
def import_(ctx: typer.Context, file: ExportFile, demo: Demo = False, json: Json = False) -> None:
    """Take in a file of records; the same as merge, where a link that was changed on both sides stays the newest."""
    merge(ctx, file, Whose.NEWEST, demo, json)


@records.command("merge")
def merge(
    ctx: typer.Context,
    file: ExportFile,
    take: Annotated[Whose, typer.Option(help="Whose version holds where a link was changed on both sides.")] = Whose.NEWEST,
    demo: Demo = False,
    json: Json = False,
) -> None:
    """Take in the records of another laptop: nothing of either side is lost, nothing stands twice."""
    from humble_courier.app.records.merge_file import merge_file, opened, read_export

    read_export(file)  # before records are made where there are none yet
    document = merge_file(until_end(ctx, opened(records_at(ctx, demo))), file, take).document
    if json:
        print_json(document)
        return
    line(f"{document['taken']} new pieces taken in from {document['links']} links; {document['same']} links were the same.")
    if document["conflicts"]:
        line(f"Changed on both sides; the version that holds is the one of {take.value}, the other one is kept too:")
        columns(
            [
                (c["what"], f"ours: {c['ours'] or 'nothing'}", f"theirs: {c['theirs'] or 'nothing'}")
                for c in document["conflicts"]
            ]
        )


@records.command("sync")
def sync(
    ctx: typer.Context,
    with_: Annotated[str | None, typer.Option("--with", help="The team's records; else those that are preferred.")] = None,
    json: Json = False,
) -> None:
    """Bring the records of this computer in step with those of the team (PostgreSQL); nothing of either side is lost."""
    from humble_courier.app.records.team import in_step, preferred_team

    found = in_step(data_folder(of(ctx).data), with_ or of(ctx).records or preferred_team())
    if json:
        print_json({"taken": found.taken, "given": found.given, "files": found.files, "both": list(found.both)})
    else:
        line(f"{found.told}.")


@records.command("search")
def search(
    ctx: typer.Context,
    words: Annotated[list[str], typer.Argument(help="Words, or how they begin; all have to be there.")],
    since: Annotated[str | None, typer.Option(help="From this day on, as 2026-11-26.")] = None,
    demo: Demo = False,
    json: Json = False,
) -> None:
    """Where words stand: in names, settings, facts, proofs, and in what was heard."""
    from humble_courier.app.records.export import open_records
    from humble_courier.app.records.searching import search as look

    found = look(until_end(ctx, open_records(records_at(ctx, demo))), " ".join(words), since)
    if json:
        print_json({"found": found})
    else:
        columns([(f"{datetime.fromtimestamp(one.at):%Y-%m-%d %H:%M}", one.link, one.kind, one.text[:80]) for one in found])
    if not found:
        error_line(f"“{' '.join(words)}” stands nowhere in the records.")
        raise typer.Exit(1)


@records.command("check")
def check(ctx: typer.Context, demo: Demo = False, json: Json = False) -> None:
    """Whether the database is whole and every row can be read."""
    from humble_courier.app.records.export import open_records
    from humble_courier.app.records.merge_file import check as look

    found = look(until_end(ctx, open_records(records_at(ctx, demo))))
    if json:
        print_json(found)
    else:
        for one in found["problems"]:
            line(f"{one['what']}: {one['why']}")
        state = "whole" if found["ok"] else "not whole: restore a copy, or export what can be read"
        line(f"{found['links']} links, {found['proofs']} proofs, {found['facts']} facts: {state}.")
    if not found["ok"]:
        raise typer.Exit(1)


@records.command("backup")
def backup(
    ctx: typer.Context,
    file: Annotated[Path, typer.Argument(help="The copy to write, a zip file.")],
    demo: Demo = False,
    json: Json = False,
) -> None:
    """Copy everything into one file: records and device sheets; the records may be open meanwhile."""
    from humble_courier.app.records.backup import back_up

    _of_this_computer(ctx)
    size = back_up(data_folder(of(ctx).data, demo), file)
    if json:
        print_json({"file": str(file), "bytes": size})
    else:
        line(f"{file} written, {size} bytes")


@records.command("restore")
def restore(
    ctx: typer.Context,
    file: Annotated[Path, typer.Argument(help="A copy that backup has written.")],
    demo: Demo = False,
    json: Json = False,
) -> None:
    """Put a copy in the place of the records; what is there is moved aside, not deleted."""
    from humble_courier.app.records.backup import restore as put_back

    _of_this_computer(ctx)
    aside = put_back(data_folder(of(ctx).data, demo), file)
    if json:
        print_json({"restored": str(file), "moved_aside": str(aside)})
    else:
        line(f"Restored. What was there before lies in {aside}.")


Pdf = Annotated[Path, typer.Option(help="The sheet to write.")]


@records.command("report")
def report(
    ctx: typer.Context,
    pdf: Pdf,
    words: Annotated[list[str] | None, typer.Argument(help="Words of the links; all links without.")] = None,
    demo: Demo = False,
    json: Json = False,
) -> None:
    """A report over many links: how each is set, when it was proven, what failed since."""
    from humble_courier.app.records.export import open_records
    from humble_courier.app.records.report import report as made
    from humble_courier.app.records.report import with_words

    store = until_end(ctx, open_records(records_at(ctx, demo)))
    _on_paper(ctx, made(store, with_words(store, " ".join(words or [])), catalog_of(ctx)), pdf, json)


@records.command("handover")
def handover(
    ctx: typer.Context,
    link: Annotated[str, typer.Argument(help="A link of the records by its name.")],
    pdf: Pdf,
    demo: Demo = False,
    json: Json = False,
) -> None:
    """All that a colleague needs to go on with a link: settings, cautions, words, notes, what became of it."""
    from humble_courier.app.records.export import open_records
    from humble_courier.app.records.noting import NotedLink
    from humble_courier.app.records.report import handover as made

    store = until_end(ctx, open_records(records_at(ctx, demo)))
    _on_paper(ctx, made(store, NotedLink(store, link).id, catalog_of(ctx)), pdf, json)


def _on_paper(ctx: typer.Context, paper: "Paper", pdf: Path, json: bool) -> None:
    title, sections = paper
    of(ctx).rooms.sections(title, sections, pdf)
    if json:
        print_json({"file": str(pdf), "title": title, "sections": {heading: dict(rows) for heading, rows in sections}})
    else:
        line(f"{pdf}: {title}")


def _of_this_computer(ctx: typer.Context) -> None:
    if of(ctx).records:
        raise typer.BadParameter(
            "a copy of a server is made by its own means, as pg_dump; this copies this computer's records"
        )


COMMANDS = {"records": records}
