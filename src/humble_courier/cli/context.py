"""What every command gets: where the records are, and the two things that only the window's room can do."""

from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol, TypeVar

import typer

from humble_courier.app.port.sending import Authority

if TYPE_CHECKING:
    from collections.abc import Sequence

    from humble_courier.app.folders import RecordsAt
    from humble_courier.app.port.label import LabelFor, LabelSize
    from humble_courier.app.talk.line_logs import LineLog
    from humble_courier.app.trade import Catalog
    from humble_courier.app.wire.planning import Build


class Rooms(Protocol):
    """What the entry point lends the command line, so that it need not know the window toolkit."""

    def window(self, data: Path | None, demo: bool, fresh: bool, file: Path | None = None) -> int:
        """Open the window, with a file that is taken in; returns its exit code."""

    def sheet(self, link: Path, catalog: "Catalog", pdf: Path | None, svg: Path | None) -> None:
        """Put the link sheet on paper, and the wiring into a drawing."""

    def build_sheet(self, build: "Build", pdf: Path | None, svg: Path | None) -> None:
        """Put a build sheet on paper, and both ends into a drawing."""

    def sections(self, title: str, sections: "Sequence[tuple[str, Sequence[tuple[str, str]]]]", pdf: Path) -> None:
        """Put headings with rows of what and value on paper."""

    def day_sheet(self, document: dict[str, Any], pdf: Path) -> None:
        """Put the sheet of a day (the document of `day`) on paper."""

    def label(self, link: Path, catalog: "Catalog", pdf: Path, what: "LabelFor", size: "LabelSize") -> None:
        """Print the label of a link's adapter, cable or socket."""

    def shots(self, folder: Path, size: tuple[int, int], text: int, colours: str) -> list[Path]:
        """Render each main view from the demo data."""


@dataclass
class Context:
    """Options that stand before the command."""

    rooms: Rooms
    data: Path | None = None
    records: str = ""  # a database on a server, in place of the records of this computer
    authority: Authority = field(default_factory=Authority)  # over sending: a signal stops whoever has it


def records_at(ctx: typer.Context, demo: bool = False) -> "RecordsAt":
    """Where the records of a command are."""
    from humble_courier.app.folders import RecordsAt, data_folder

    return RecordsAt(data_folder(of(ctx).data, demo), "" if demo else of(ctx).records)


class Closing(Protocol):
    """What is let go of when a command ends."""

    def close(self) -> None:
        """Let go."""


K = TypeVar("K", bound="Closing | None")


def until_end(ctx: typer.Context, records: K) -> K:
    """Records that a command works with: they are closed when it ends, however it does."""
    if records is not None:
        ctx.call_on_close(records.close)
    return records


def of(ctx: typer.Context) -> Context:
    """The context of a command."""
    found = ctx.find_object(Context)
    assert found is not None
    return found


def catalog_of(ctx: typer.Context) -> "Catalog":
    """The catalog with the sheets of one's own that stand beside the records."""
    from humble_courier.app.folders import data_folder
    from humble_courier.app.trade import open_catalog

    return open_catalog(data_folder(of(ctx).data) / "devices")


def port_of(ctx: typer.Context, address: str) -> str:
    """The address of a command; a simulated device of one's own brings its sheet along. Raises BadInput."""
    from humble_courier.app.port.opening import of_own

    return of_own(address, catalog_of(ctx)) if address.startswith("sim:") else address


def log_of(ctx: typer.Context, what: str) -> "LineLog":
    """The log of a command that opens a port, beside the records."""
    from humble_courier.app.folders import data_folder
    from humble_courier.app.talk.line_logs import new_log

    return new_log(data_folder(of(ctx).data), what)
