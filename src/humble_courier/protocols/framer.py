"""Cutting a stream of bytes into messages: one loop for all protocols, which only say where a message begins and ends.

A protocol gives a `Cut`: it looks at a buffer from a place on and says how many bytes it takes and what they are. Bytes
that belong to no message are gathered into events of the kind `noise`, so that nothing that arrived is left out.
"""

import re
from bisect import bisect_left
from collections.abc import Callable
from typing import Any

import msgspec

from humble_courier.protocols.places import Places

LONGEST = 70_000  # bytes held while a message is incomplete: more than the longest message of any protocol here
LONGEST_NOISE = 4096  # bytes of noise told as one event


class Event(msgspec.Struct, frozen=True, gc=False):
    """One message of a stream: `offset` and `size` in bytes, whether it is sound, and what it says.

    `why`: what is wrong with it where it is not `ok`, else what it means, in words.
    """

    offset: int
    size: int
    kind: str
    ok: bool
    fields: dict[str, Any] = {}
    why: str = ""


class Made(msgspec.Struct, frozen=True, gc=False):
    """A message without its place."""

    kind: str
    ok: bool
    fields: dict[str, Any] = {}
    why: str = ""


Cut = Callable[[bytes, int, bool], tuple[int, Made | None]]
"""`(buffer, at, over)` to `(bytes taken, message)`: 0 bytes where more must come, no message where the bytes are noise.

With `over` nothing more will come: 0 then means noise.
"""
_RUN = re.compile(rb"(.)\1*", re.DOTALL)  # one byte, as often as it stands there


class Framer:
    """Feed what arrives, however it is cut into pieces; get whole messages. `end` says that no more will come.

    `reach`: so many bytes a `cut` looks at, at most (None: not known); where they are all the same, so is its answer for
    the next of them. `places`: where `cut` is to be asked in a buffer; everything else is noise.
    """

    def __init__(self, cut: Cut, reach: int | None = None, places: Callable[[bytes], Places] | None = None) -> None:
        self._cut, self._reach, self._places = cut, reach, places
        self._held, self._offset = b"", 0
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
        places = self._places(held).tolist() if self._places is not None and held else None
        reach, cut, noise = self._reach, self._cut, self._noise
        while at < size:
            if places is not None:
                index = bisect_left(places, at)
                place = places[index] if index < len(places) else size
                if place > at:
                    noise += held[at:place]
                    at = place
                    self._full(events, self._offset + at)
                    continue
            taken, made = cut(held, at, over)
            if taken == 0:
                if not over and size - at < LONGEST:
                    break
                taken, made = 1, None
            if made is not None:
                if noise:
                    self._flush(events, self._offset + at)
                events.append(Event(self._offset + at, taken, made.kind, made.ok, made.fields, made.why))
                at += taken
                continue
            if taken == 1 and reach and held[at : at + 2] == held[at : at + 1] * 2:
                run = _RUN.match(held, at, at + reach + LONGEST_NOISE)
                taken = max(1, run.end() - at - reach) if run is not None else 1
            noise += held[at : at + taken]
            at += taken
            self._full(events, self._offset + at)
        self._held, self._offset = held[at:], self._offset + at
        return events

    def _full(self, events: list[Event], end: int) -> None:
        if len(self._noise) >= LONGEST_NOISE:
            self._flush(events, end)

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
