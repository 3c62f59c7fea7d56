"""Cutting a stream of bytes into messages: one loop for all protocols, which only say where a message begins and ends.

A protocol gives a `Cut`: it looks at a buffer from a place on and says how many bytes it takes and what they are. Bytes
that belong to no message are gathered into events of the kind `noise`, so that nothing that arrived is left out.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

LONGEST = 70_000  # bytes held while a message is incomplete: more than the longest message of any protocol here
LONGEST_NOISE = 4096  # bytes of noise told as one event


@dataclass(frozen=True)
class Event:
    """One message of a stream: `offset` and `size` in bytes, whether it is sound, and what it says.

    `why`: what is wrong with it where it is not `ok`, else what it means, in words.
    """

    offset: int
    size: int
    kind: str
    ok: bool
    fields: dict[str, Any] = field(default_factory=dict)
    why: str = ""


@dataclass(frozen=True)
class Made:
    """A message without its place."""

    kind: str
    ok: bool
    fields: dict[str, Any] = field(default_factory=dict)
    why: str = ""


Cut = Callable[[bytes, int, bool], tuple[int, Made | None]]
"""`(buffer, at, over)` to `(bytes taken, message)`: 0 bytes where more must come, no message where the bytes are noise.

With `over` nothing more will come: 0 then means noise.
"""


class Framer:
    """Feed what arrives, however it is cut into pieces; get whole messages. `end` says that no more will come."""

    def __init__(self, cut: Cut) -> None:
        self._cut, self._held, self._offset = cut, b"", 0
        self._noise = bytearray()

    def feed(self, data: bytes, t: float = 0.0) -> list[Event]:  # noqa: ARG002 (other decoders need the time)
        """Messages that are complete with these bytes."""
        self._held += data
        return self._run(over=False)

    def end(self) -> list[Event]:
        """What is left over when the stream is at its end."""
        events = self._run(over=True)
        self._flush(events, self._offset)
        return events

    def _run(self, over: bool) -> list[Event]:
        events: list[Event] = []
        held, at, size = self._held, 0, len(self._held)
        while at < size:
            taken, made = self._cut(held, at, over)
            if taken == 0:
                if not over and size - at < LONGEST:
                    break
                taken, made = 1, None
            if made is None:
                self._noise += held[at : at + taken]
            else:
                self._flush(events, self._offset + at)
                events.append(Event(self._offset + at, taken, made.kind, made.ok, made.fields, made.why))
            at += taken
            if len(self._noise) >= LONGEST_NOISE:
                self._flush(events, self._offset + at)
        self._held, self._offset = held[at:], self._offset + at
        return events

    def _flush(self, events: list[Event], end: int) -> None:
        if self._noise:
            size = len(self._noise)
            fields = {"hex": bytes(self._noise[:64]).hex(" ").upper()}
            events.append(Event(end - size, size, "noise", False, fields, f"{size} bytes that belong to no message"))
            self._noise.clear()


def find(buffer: bytes, at: int, marks: bytes) -> int:
    """Where the first of some bytes stands from `at` on; the end of the buffer where there is none."""
    found = [place for mark in marks if (place := buffer.find(mark, at)) >= 0]
    return min(found, default=len(buffer))
