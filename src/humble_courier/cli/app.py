"""All commands in one place. Only the module of the command that is called is loaded: `trace` need not know the rest."""

from collections.abc import Callable, Sequence
from itertools import islice
from math import isfinite
from pathlib import Path
from types import ModuleType
from typing import Annotated

import click
import typer
from typer.core import TyperGroup
from typer.main import get_command

from humble_courier.app.port.sending import Authority
from humble_courier.cli.context import Context, Rooms, of
from humble_courier.errors import BadInput


def _wiring() -> ModuleType:
    from humble_courier.cli import wiring

    return wiring


def _planning() -> ModuleType:
    from humble_courier.cli import planning

    return planning


def _day() -> ModuleType:
    from humble_courier.cli import day

    return day


def _naming() -> ModuleType:
    from humble_courier.cli import naming

    return naming


def _machine() -> ModuleType:
    from humble_courier.cli import machine

    return machine


def _rates() -> ModuleType:
    from humble_courier.cli import rates

    return rates


def _addresses() -> ModuleType:
    from humble_courier.cli import addresses

    return addresses


def _settings() -> ModuleType:
    from humble_courier.cli import settings

    return settings


def _talking() -> ModuleType:
    from humble_courier.cli import talking

    return talking


def _links() -> ModuleType:
    from humble_courier.cli import links

    return links


def _proving() -> ModuleType:
    from humble_courier.cli import proving

    return proving


def _simulate() -> ModuleType:
    from humble_courier.cli import simulate

    return simulate


def _diagnosing() -> ModuleType:
    from humble_courier.cli import diagnosing

    return diagnosing


def _records() -> ModuleType:
    from humble_courier.cli import records

    return records


def _records_files() -> ModuleType:
    from humble_courier.cli import records_files

    return records_files


def _history() -> ModuleType:
    from humble_courier.cli import history

    return history


def _notes() -> ModuleType:
    from humble_courier.cli import notes

    return notes


def _desktop() -> ModuleType:
    from humble_courier.cli import desktop

    return desktop


def _window() -> ModuleType:
    from humble_courier.cli import window

    return window


# Commands in the order in which `--help` lists them; each module has the same in its COMMANDS.
MODULES: tuple[tuple[Callable[[], ModuleType], tuple[str, ...]], ...] = (
    (_window, ("demo", "open", "shots")),
    (_wiring, ("trace",)),
    (_planning, ("plan", "build")),
    (_day, ("pack", "day", "visits")),
    (_naming, ("identify", "levels")),
    (_machine, ("ports", "driver", "kernel-log", "name", "port-numbers")),
    (_rates, ("rate", "timing", "infer")),
    (_addresses, ("switches", "bus", "site", "io", "ip")),
    (_settings, ("hear",)),
    (_talking, ("exchanges", "learn", "listen", "say", "decode")),
    (_links, ("prove",)),
    (_proving, ("find", "loopback", "latency", "wake", "units")),
    (_diagnosing, ("diagnose", "checks", "causes")),
    (_simulate, ("simulate",)),
    (_records, ("sheet", "label", "schema", "parts", "connectors", "devices")),
    (_history, ("history", "compare")),
    (_notes, ("notes",)),
    (_records_files, ("records",)),
    (_desktop, ("install", "uninstall", "completion", "man")),
)
FIRST, VERBOSE = ("--data", "--records"), "--verbose"  # options that stand before the command
LOADERS = {name: load for load, names in MODULES for name in names}


class Commands(TyperGroup):
    """The commands, each built when it is called (or listed)."""

    def list_commands(self, ctx: click.Context) -> list[str]:  # noqa: ARG002 (click hands it)
        """All names, in their order."""
        return list(LOADERS)

    def get_command(self, ctx: click.Context, name: str) -> click.Command | None:  # noqa: ARG002
        """One command; None where there is none of that name."""
        if name not in LOADERS:
            return None
        command = LOADERS[name]().COMMANDS[name]
        if isinstance(command, typer.Typer):
            return get_command(command)
        alone = _typer()
        alone.command(name)(command)
        made = get_command(alone)
        for parameter in made.params:
            if isinstance(parameter.type, click.types.FloatParamType):
                parameter.callback = _finite
        return made


def _finite(_ctx: click.Context, parameter: click.Parameter, value: float | None) -> float | None:
    """Ranges let `nan` and `inf` pass, and nothing can be counted with them."""
    if value is not None and not isfinite(value):
        raise click.BadParameter(f"{value} is not a number to count with", param=parameter)
    return value


def data_first(words: Sequence[str]) -> list[str]:
    """The same words with the options of all commands in front: a person need not know which option is whose."""
    moved: list[str] = []
    kept: list[str] = []
    left = iter(words)
    for word in left:
        if word == "--":
            kept += [word, *left]
        elif word == VERBOSE:
            moved.append(word)
        elif word in FIRST:
            moved += [word, *islice(left, 1)]
        else:
            (moved if word.startswith(tuple(f"{one}=" for one in FIRST)) else kept).append(word)
    return moved + kept


def file_last(words: Sequence[str]) -> list[str]:
    """A file in place of a command is opened in the window: `humble-courier weir.link.yaml`."""
    last = words[-1] if words else ""
    options = len(words) == 1 or (len(words) == 3 and words[0] == "--data") or (len(words) == 2 and "=" in words[0])
    named = "." in last or "/" in last or last.startswith("courier:")
    if options and last not in LOADERS and not last.startswith("-") and named:
        return [*words[:-1], "open", last]
    return list(words)


def _typer() -> typer.Typer:
    return typer.Typer(add_completion=False, rich_markup_mode=None, pretty_exceptions_enable=False)


def build(rooms: Rooms, authority: Authority | None = None) -> click.Command:
    """The command line; `rooms` is what only the window's room can do, `authority` that over sending."""
    app = _typer()

    @app.callback(cls=Commands, invoke_without_command=True)
    def begin(
        ctx: typer.Context,
        data: Annotated[Path | None, typer.Option(help="Folder of the records.")] = None,
        version: Annotated[bool, typer.Option("--version", help="Say which version this is.")] = False,
        records: Annotated[str, typer.Option(help="Records of a team: postgresql://NAME@SERVER/DATABASE")] = "",
        verbose: Annotated[
            bool, typer.Option("--verbose", help="Say on standard error what is done; kept in a log too.")
        ] = False,
    ) -> None:
        """Humble Courier: from the parts on the bench to the first answered byte. Alone it opens the window."""
        if version:
            from importlib.metadata import version as known

            typer.echo(f"Humble Courier {known('humble-courier')}")
            raise typer.Exit
        if verbose:
            from humble_courier.app.log_file import begin_log, log_command

            begin_log(verbose=True)
            log_command(ctx.invoked_subcommand or "the window")
        ctx.obj = Context(rooms, data, records, authority or Authority())
        if records and ctx.invoked_subcommand in (None, "open", "demo"):
            raise BadInput("the window works on its own records and keeps them in step with a team's: name it under Choices")
        if ctx.invoked_subcommand is None:
            raise typer.Exit(of(ctx).rooms.window(data, demo=False, fresh=False))

    made = get_command(app)
    made.context_settings["help_option_names"] = ["-h", "--help"]
    return made
