"""`simulate`: a simulated device for this program's address, or on a pty for any other program."""

import signal
from pathlib import Path
from typing import Annotated

import typer

from humble_courier.cli.context import catalog_of
from humble_courier.cli.output import line


def simulate(
    ctx: typer.Context,
    device: Annotated[str, typer.Argument(help="A device of the catalog, as in gauge-logger.")],
    pty: Annotated[Path | None, typer.Option(help="Where to put the pty for other programs.")] = None,
    settings: Annotated[str | None, typer.Option(help="What the device is set to; else its sheet's.")] = None,
    power: Annotated[str, typer.Option(help="Seconds until it is switched on, or on.")] = "0.5",
    socket: Annotated[str | None, typer.Option(help="Another port of the device, by its id.")] = None,
    fault: Annotated[str | None, typer.Option(help="Faults, with commas: straight-cable, noise, two-alike, …")] = None,
) -> None:
    """Serve a simulated device until stopped."""
    from humble_courier.app.talk.serving import serve

    options = {"power": power, "fault": fault, "socket": socket, "settings": settings}
    address, server = serve(device, options, catalog_of(ctx), pty)
    for stop in (signal.SIGINT, signal.SIGTERM):  # also where the shell started us with both ignored
        signal.signal(stop, signal.default_int_handler)
    try:
        line(address)
        line(f"{pty or server.device}: {device} at {server.settings.spoken}, until Ctrl+C", now=True)
        while True:
            server.step()
    except KeyboardInterrupt:
        line("stopped")
    finally:
        server.close()


COMMANDS = {"simulate": simulate}
