"""Entry point: joins the command line with the window's room, and turns every failure into one clear line."""

import gc

# Loading modules makes many objects and no garbage: looking for it every 700 objects costs a tenth of a short command.
gc.set_threshold(50_000, 20, 20)

import errno
import os
import sys
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING, Any, TextIO

import click

from humble_courier.app.port.sending import Authority
from humble_courier.cli.app import build, data_first, file_last
from humble_courier.cli.interrupt import EXIT_CODE as INTERRUPTED
from humble_courier.cli.interrupt import Interrupt
from humble_courier.cli.output import write
from humble_courier.domain.text import signs
from humble_courier.errors import CourierError, MachineRefused, Refusal

if TYPE_CHECKING:
    from collections.abc import Sequence

    from humble_courier.app.port.label import LabelFor, LabelSize
    from humble_courier.app.trade import Catalog
    from humble_courier.app.wire.planning import Build

COMPLETE = "_HUMBLE_COURIER_COMPLETE"  # by which a shell asks how a line goes on
LONGEST_LINE = 1000  # characters of the one line for a person


class _Rooms:
    """The window's room, imported only when it is asked for."""

    def window(self, data: Path | None, demo: bool, fresh: bool, file: Path | None = None) -> int:
        from humble_courier.ui.start import run

        return run(data, demo, fresh, file)

    def sheet(self, link: Path, catalog: "Catalog", pdf: Path | None, svg: Path | None) -> None:
        from humble_courier.ui.paper.link_sheet import print_link

        print_link(link, catalog, pdf, svg)

    def build_sheet(self, build: "Build", pdf: Path | None, svg: Path | None) -> None:
        from humble_courier.ui.paper.build_sheet import print_build

        print_build(build, pdf, svg)

    def sections(self, title: str, sections: "Sequence[tuple[str, Sequence[tuple[str, str]]]]", pdf: Path) -> None:
        from humble_courier.ui.paper.sections import print_sections

        print_sections(title, sections, pdf)

    def day_sheet(self, document: dict[str, Any], pdf: Path) -> None:
        from humble_courier.ui.paper.day_sheet import print_day

        print_day(document, pdf)

    def label(self, link: Path, catalog: "Catalog", pdf: Path, what: "LabelFor", size: "LabelSize") -> None:
        from humble_courier.ui.paper.label import print_label

        print_label(link, catalog, pdf, what, size)

    def shots(self, folder: Path, size: tuple[int, int], text: int, colours: str) -> list[Path]:
        from humble_courier.ui.shots import take

        return take(folder, size, text, colours)


def main() -> None:
    """Run the program; exits with the published codes, never with a traceback."""
    sys.excepthook = _defect
    if COMPLETE in os.environ:
        from humble_courier.cli.reference import complete

        sys.exit(complete(os.environ[COMPLETE]))
    authority = Authority()
    interrupt = Interrupt(authority)
    try:
        with interrupt:
            code = build(_Rooms(), authority).main(file_last(data_first(sys.argv[1:])), standalone_mode=False)
            write("", now=True)
        if code == INTERRUPTED:  # that is what becomes of an interruption within a command
            raise KeyboardInterrupt
    except click.ClickException as error:
        _end(error.format_message(), 2, {"code": "usage"})
    except CourierError as error:
        _end(str(error), INTERRUPTED if interrupt.heard else error.exit_code, error.told())
    except BrokenPipeError:  # whoever read our output has had enough, as `head` does
        _no_more_output()
        sys.exit(0)
    except OSError as error:
        if error.errno != errno.ENOSPC:
            raise
        refused = MachineRefused("standard output cannot be written", "The disk is full: make room", Refusal.DISK_FULL)
        _end(str(refused), refused.exit_code, refused.told())
    except (click.Abort, KeyboardInterrupt):
        _end("stopped before anything came that could be told", INTERRUPTED, {"code": "interrupted"})
    sys.exit(INTERRUPTED if interrupt.heard else code if isinstance(code, int) else 0)


def _end(text: str, code: int, more: dict[str, object]) -> None:
    """One line on standard error; where JSON was asked for a document on standard output as well."""
    line = signs(" ".join(text.split()))
    line = line if len(line) <= LONGEST_LINE else f"{line[:LONGEST_LINE]}…"  # what was handed in may be of any length
    if "--json" in sys.argv:
        import json

        error = {"code": "", "text": line, "file": None, "line": None, "remedy": None} | more
        _last_words(sys.stdout, json.dumps({"error": error}, ensure_ascii=False) + "\n")
    if "--verbose" in sys.argv:
        from humble_courier.app.log_file import log_end

        log_end(line, code)
    _last_words(sys.stdout, "")
    _last_words(sys.stderr, f"humble-courier: {line}\n")
    sys.exit(code)


def _last_words(stream: TextIO, text: str) -> None:
    """Say it where it can be said: the exit code tells the rest."""
    try:
        stream.write(text)
        stream.flush()
    except OSError:
        if stream is sys.stdout:
            _no_more_output()


def _no_more_output() -> None:
    """What is still held goes nowhere: Python would try once more at its end, and complain."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def _defect(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
    """What is no error of anybody else is a defect of ours: the details go to a file, one line to the person."""
    from humble_courier.app.defects import EXIT_CODE, told, write_report

    try:
        _end(told(kind, write_report(kind, error, trace)), EXIT_CODE, {"code": "defect"})
    except SystemExit:
        os._exit(EXIT_CODE)  # an exception hook has no other way to say with which code the process ends


if __name__ == "__main__":
    main()
