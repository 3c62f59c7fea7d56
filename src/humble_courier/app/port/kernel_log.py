"""What the kernel's log says about adapters: one reading for the window and the command line."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput
from humble_courier.host.kernel_log import Conclusion, LogEvent, conclude, pieces, read_log
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
    """The story of a log that comes in pieces of any size. Raises BadInput where there is nothing in it."""
    there = _There(chunks)
    events = read_log(there, catalog.log_lines.values())
    if not there.anything:
        raise BadInput("nothing to read: the log is empty; take it with `sudo dmesg` or `journalctl -k`")
    return LogStory(events, conclude(events))


class _There:
    """Passes pieces on, and notes whether anything stood in them: an empty log says nothing of any cable."""

    def __init__(self, chunks: Iterable[bytes]) -> None:
        self._chunks, self.anything = chunks, False

    def __iter__(self) -> Iterator[bytes]:
        for chunk in self._chunks:
            self.anything = self.anything or bool(chunk.strip())
            yield chunk


def log_story_of(source: Path | BinaryIO, catalog: Catalog) -> LogStory:
    """The story of a file of any size, or of a stream. Raises BadInput where it cannot be read or is empty."""
    if not isinstance(source, Path):
        return log_story(pieces(source), catalog)
    try:
        with source.open("rb") as file:
            return log_story(pieces(file), catalog)
    except OSError as error:
        raise BadInput(f"{source}: {error.strerror}") from None
