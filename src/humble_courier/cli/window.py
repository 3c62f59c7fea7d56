"""`demo` and `shots`: the window with the demo data, and pictures of it."""

from pathlib import Path
from typing import Annotated

import typer

from humble_courier.cli.context import of
from humble_courier.cli.output import line


def demo(ctx: typer.Context, fresh: Annotated[bool, typer.Option("--fresh", help="Begin anew.")] = False) -> None:
    """Open the window with the demo data (an invented place; its records are kept apart)."""
    raise typer.Exit(of(ctx).rooms.window(of(ctx).data, demo=True, fresh=fresh))


def shots(ctx: typer.Context, folder: Annotated[Path, typer.Argument(help="Where the pictures go.")]) -> None:
    """Render each main view from the demo data as PNG."""
    for path in of(ctx).rooms.shots(folder):
        line(str(path))


COMMANDS = {"demo": demo, "shots": shots}
