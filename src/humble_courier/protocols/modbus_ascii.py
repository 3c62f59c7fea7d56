"""Modbus ASCII: lines from a colon to CR LF, with a longitudinal check.

Source: MODBUS over Serial Line V1.02, 2.5.2 (ASCII) and 6.2.1 (LRC); from memory.
"""

import re

from humble_courier.protocols.framer import Made, find
from humble_courier.protocols.modbus import LONGEST_FRAME, sentence, told
from humble_courier.protocols.modbus_rtu import READ_HOLDING
from humble_courier.protocols.spec import Check, Line, Probe, ProtocolSpec, of_cut

_AGAIN = re.compile(rb":+(?=:)")  # with nothing in between, only the last colon begins a frame


def lrc(body: bytes) -> int:
    """Two's complement of the sum."""
    return -sum(body) & 0xFF


def ascii_frame(body: bytes) -> bytes:
    """Unit, function and data as a line of Modbus ASCII."""
    return b":" + (body + bytes((lrc(body),))).hex().upper().encode() + b"\r\n"


def ascii_line(buffer: bytes, at: int, over: bool) -> tuple[int, Made | None]:
    """A line from colon to CR LF."""
    if buffer[at] != 0x3A:
        return find(buffer, at, b":") - at, None
    if again := _AGAIN.match(buffer, at):
        return again.end() - at, None
    end = buffer.find(b"\n", at, at + 2 * LONGEST_FRAME + 4)
    begin = buffer.find(b":", at + 1, end if end >= 0 else at + 2 * LONGEST_FRAME + 4)
    if begin >= 0:
        return begin - at, Made("cut-off", False, {}, "a new frame begins before the end of this")
    if end < 0:
        return (0, None) if not over and len(buffer) - at <= 2 * LONGEST_FRAME + 4 else (1, None)
    size, text = end + 1 - at, buffer[at + 1 : end].rstrip(b"\r")
    try:
        raw = bytes.fromhex(text.decode("ascii"))
    except ValueError:
        return size, Made(
            "frame", False, {"text": text.decode("latin-1")}, "not hexadecimal: other settings, or another protocol"
        )
    if len(raw) < 3 or lrc(raw[:-1]) != raw[-1]:
        return size, Made(
            "frame", False, {"hex": raw.hex(" ").upper()}, "the check (LRC) is wrong: a character was lost or changed"
        )
    return size, told(raw[:-1], len(raw) + 1)


UNITS = 10  # addresses that a search asks in this way: each is a trial of its own


def first_words(low: int, high: int) -> tuple[Line, ...]:
    """A request to read one register of each of the first units."""
    units = range(low, min(high, low + UNITS - 1) + 1)
    requests = (ascii_frame(bytes((unit, READ_HOLDING, 0, 0, 0, 1))) for unit in units)
    return tuple(Line(request.removesuffix(b"\r\n"), b"\r\n") for request in requests)


SPEC = ProtocolSpec(
    id="modbus-ascii",
    name="Modbus ASCII",
    text=True,
    check=Check.WEAK,
    decoder=of_cut(ascii_line),
    proves="a unit has answered a request with a longitudinal check: rate, frame, wiring and address are right",
    guess=20,
    speaker=lambda event: f"unit {event.fields['unit']}" if "unit" in event.fields else "",
    sentence=sentence,
    framed=ascii_frame,
    probe=Probe(lines=first_words),
)
