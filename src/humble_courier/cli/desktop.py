"""`install`, `uninstall`, `completion`, `man`: the program among the others of this person."""

from typing import TYPE_CHECKING, Annotated

import typer

from humble_courier.cli.options import Json
from humble_courier.cli.output import line, print_json

if TYPE_CHECKING:
    from humble_courier.app.desktop.install import Installed


def install(json: Json = False) -> None:
    """Put menu entry, icon and kinds of file (link, kit, device sheet) among those of your other programs; for you alone."""
    from humble_courier.app.desktop.install import install as put

    _tell(put(), "written", json)


def uninstall(json: Json = False) -> None:
    """Take them out again; records, sheets and choices stay."""
    from humble_courier.app.desktop.install import uninstall as take

    _tell(take(), "taken out", json)


def _tell(done: "Installed", word: str, json: bool) -> None:
    if json:
        print_json({"files": [str(path) for path in done.files], "told": list(done.told)})
        return
    for path in done.files:
        line(f"{path} {word}")
    if not done.files:
        line("Nothing was there.")
    for name in done.told:
        line(f"{name} told the desktop of it.")


def completion(
    shell: Annotated[str, typer.Argument(help="bash, zsh or fish.")],
) -> None:
    """The completion of commands and options for a shell; the first line says where it belongs."""
    from humble_courier.cli.reference import completion_of

    line(completion_of(shell))


def man() -> None:
    """The manual page of all commands, for man(1): man -l <(humble-courier man)."""
    from humble_courier.cli.reference import man_page

    line(man_page())


COMMANDS = {"install": install, "uninstall": uninstall, "completion": completion, "man": man}
