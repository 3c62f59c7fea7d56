"""What the kernel's log says about adapters: one reading for the window and the command line."""

from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput
from humble_courier.host.kernel_log import Conclusion, LogEvent, conclude, pieces, read_file, read_log
from humble_courier.host.live_log import live_log as live_log

ASIDE = ("identified", "other-device")  # events that serve conclusions and are no news by themselves


@dataclass(frozen=True)
class LogStory:
    """The lines that mean something, and what follows for each USB path."""

    events: list[LogEvent]
    conclusions: list[Conclusion]

    @property
    def news(self) -> list[LogEvent]:
        """The events that are worth telling."""
        return [event for event in self.events if event.code not in ASIDE]


def log_story(chunks: Iterable[bytes], catalog: Catalog) -> LogStory:
    """The story of a log that comes in pieces of any size."""
    return _told(read_log(chunks, catalog.log_lines.values()))


def log_story_of(source: Path | BinaryIO, catalog: Catalog) -> LogStory:
    """The story of a file of any size, or of a stream. Raises BadInput where it cannot be read."""
    if not isinstance(source, Path):
        return log_story(pieces(source), catalog)
    try:
        return _told(read_file(source, catalog.log_lines.values()))
    except OSError as error:
        raise BadInput(f"{source}: {error.strerror}") from None


def _told(events: list[LogEvent]) -> LogStory:
    return LogStory(events, conclude(events))
