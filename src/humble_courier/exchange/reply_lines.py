"""What came, cut into lines with their times, without the signs that move a cursor."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from humble_courier.exchange.verdict import Came

# Control sequences of a terminal (ECMA-48, 5.4), and the choice of a character set (ISO/IEC 2022).
CONTROL = re.compile(rb"\x1b(?:\[[0-?]*[ -/]*[@-~]|[()][0-9A-B])")
FRAMING = b"\x00\x02\x03\x04\x05"  # what stands around a line of text: STX, ETX, EOT, ENQ, and NUL of a line that wakes up


@dataclass(frozen=True)
class ReplyLine:
    """`start` to `end`: its place in all that came, its end included; `text` without it; `ended`: by CR or LF."""

    start: int
    end: int
    text: str
    ms: float
    ended: bool


def lines_of(came: Sequence[Came]) -> list[ReplyLine]:
    """Lines that hold something; one that was cut by a pause goes on, unless half a second lies between."""
    data = plain(b"".join(one.data for one in came))
    times = [(sum(len(one.data) for one in came[:i]), one.ms) for i, one in enumerate(came)]
    found: list[ReplyLine] = []
    at = 0
    while at < len(data):
        end = min((i for i in (data.find(b"\r", at), data.find(b"\n", at)) if i >= 0), default=-1)
        ended = end >= 0
        stop = end if ended else len(data)
        while ended and end + 1 < len(data) and data[end + 1] in b"\r\n":
            end += 1
        cut = _cut(times, at, stop)
        if cut is not None:
            ended, stop, end = False, cut, cut - 1
        text = told(data[at:stop])
        next_at = end + 1 if ended or cut is not None else len(data)
        if text:
            found.append(ReplyLine(at, next_at, text, _time(times, at), ended))
        at = next_at
    return found


def plain(data: bytes) -> bytes:
    """The same length without control sequences: those that place the cursor end a line, others are left blank."""
    return CONTROL.sub(lambda found: (b"\n" if found[0][-1:] in b"HfJ" else b"\x00") * len(found[0]), data)


def told(data: bytes) -> str:
    """A line as text, without what stands around it."""
    return data.replace(b"\x00", b"").strip(FRAMING + b"\r\n").decode("latin-1").strip()


APART_MS = 450.0  # a device that goes on after that has begun something else (common practice)


def _cut(times: list[tuple[int, float]], start: int, stop: int) -> int | None:
    """Where a line without an end was followed by a long pause."""
    for (at, ms), (_, before) in zip(times[1:], times, strict=False):
        if start < at < stop and (ms - before > APART_MS or before < 0 <= ms):
            return at
    return None


def _time(times: list[tuple[int, float]], at: int) -> float:
    return max((ms for start, ms in times if start <= at), key=lambda ms: ms, default=0.0) if times else 0.0
