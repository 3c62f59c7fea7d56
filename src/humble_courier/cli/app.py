"""All commands in one place."""

from collections.abc import Callable
from pathlib import Path
from typing import Annotated

import typer

from humble_courier.cli import (
    addresses,
    machine,
    naming,
    planning,
    proving,
    rates,
    records,
    settings,
    simulate,
    talking,
    wiring,
)
from humble_courier.cli.context import Context, Rooms, of
from humble_courier.cli.output import line


def build(rooms: Rooms) -> typer.Typer:
    """The command line; `rooms` is what only the window's room can do."""
    app = typer.Typer(add_completion=False, rich_markup_mode=None, pretty_exceptions_enable=False)

    @app.callback(invoke_without_command=True)
    def begin(
        ctx: typer.Context,
        data: Annotated[Path | None, typer.Option(help="Folder of the records.")] = None,
    ) -> None:
        """Humble Courier: from the parts on the bench to the first answered byte. Alone it opens the window."""
        ctx.obj = Context(rooms, data)
        if ctx.invoked_subcommand is None:
            raise typer.Exit(rooms.window(data, demo=False, fresh=False))

    @app.command()
    def demo(ctx: typer.Context, fresh: Annotated[bool, typer.Option("--fresh", help="Begin anew.")] = False) -> None:
        """Open the window with the demo data (an invented place; its records are kept apart)."""
        raise typer.Exit(rooms.window(of(ctx).data, demo=True, fresh=fresh))

    @app.command()
    def shots(folder: Annotated[Path, typer.Argument(help="Where the pictures go.")]) -> None:
        """Render each main view from the demo data as PNG."""
        for path in rooms.shots(folder):
            line(str(path))

    commands: list[Callable[..., None]] = [
        wiring.trace, planning.plan, planning.build, naming.identify, naming.levels,
        machine.ports, machine.driver, machine.kernel_log, machine.name, machine.port_numbers,
        rates.rate, rates.timing, rates.infer, addresses.switches, addresses.bus, addresses.io, addresses.ip,
        settings.hear, talking.listen, talking.say, talking.decode, proving.find, proving.loopback, proving.latency,
        proving.wake, simulate.simulate,
        records.sheet, records.label, records.schema, records.parts, records.connectors, records.devices,
    ]  # fmt: skip
    for command in commands:
        app.command()(command)
    app.add_typer(records.records, name="records")
    return app
