"""`demo` and `shots`: the window with the demo data, and pictures of it."""

from enum import StrEnum
from pathlib import Path
from typing import Annotated
from urllib.parse import unquote, urlsplit

import typer

from humble_courier.cli.context import of
from humble_courier.cli.output import line
from humble_courier.errors import BadInput


def demo(ctx: typer.Context, fresh: Annotated[bool, typer.Option("--fresh", help="Begin anew.")] = False) -> None:
    """Open the window with the demo data (an invented place; its records are kept apart)."""
    raise typer.Exit(of(ctx).rooms.window(of(ctx).data, demo=True, fresh=fresh))


def open_(
    ctx: typer.Context,
    file: Annotated[
        str, typer.Argument(help="A link, a kit or a device sheet, or a link in short, taken into your records.")
    ] = "",
) -> None:
    """Open the window with a file, or with what the code of a label says; the word may be left out: humble-courier FILE."""
    from humble_courier.app.records.taking_in import file_of_short, is_short

    if is_short(file):
        with file_of_short(file) as written:
            raise typer.Exit(of(ctx).rooms.window(of(ctx).data, demo=False, fresh=False, file=written))
    # A menu hands over nothing, a desktop the name of a file or its URL (desktop entry specification, field code %u).
    path = Path(unquote(urlsplit(file).path) if file.startswith("file:") else file) if file else None
    if path is not None and not path.is_file():
        raise BadInput("no such command, and no such file", file=path)
    raise typer.Exit(of(ctx).rooms.window(of(ctx).data, demo=False, fresh=False, file=path))


class Colours(StrEnum):
    """Colours of the window."""

    LIGHT = "light"
    DARK = "dark"
    OUTDOOR = "outdoor"


def shots(
    ctx: typer.Context,
    folder: Annotated[Path, typer.Argument(help="Where the pictures go.")],
    size: Annotated[tuple[int, int], typer.Option(help="Width and height of the window in pixels.")] = (1280, 800),
    text: Annotated[int, typer.Option(min=90, max=200, help="Size of the text in percent.")] = 100,
    colours: Annotated[Colours, typer.Option(help="Colours of the window.")] = Colours.LIGHT,
) -> None:
    """Render each main view from the demo data as PNG."""
    for path in of(ctx).rooms.shots(folder, size, text, colours.value):
        line(str(path))


COMMANDS = {"demo": demo, "open": open_, "shots": shots}
