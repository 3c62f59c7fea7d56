"""Modbus frames in a stream of bytes without times: RTU by structure and CRC, ASCII by its colon and LRC.

Sources: MODBUS Application Protocol Specification V1.1b3, 6 (functions); MODBUS over Serial Line V1.02, 2.5.1 (RTU), 2.5.2
(ASCII, LRC in 6.2.1); from memory. Where times are known, `modbus_rtu.Frames` cuts by silence as the standard does.
"""

from humble_courier.protocols.framer import Made, find
from humble_courier.protocols.modbus_rtu import EXCEPTIONS, LONGEST_FRAME, sound

FUNCTIONS = {
    1: "read coils", 2: "read discrete inputs", 3: "read holding registers", 4: "read input registers", 5: "write one coil",
    6: "write one register", 7: "read exception status", 8: "diagnostics", 11: "event counter", 15: "write coils",
    16: "write registers", 17: "report identity", 22: "mask register", 23: "read and write registers",
    43: "device identification",
}  # fmt: skip
WRITES = (5, 6, 15, 16, 22, 23)
_FIXED = {
    1: (8,),
    2: (8,),
    3: (8,),
    4: (8,),
    5: (8,),
    6: (8,),
    7: (4, 5),
    8: (8,),
    11: (4, 8),
    15: (8,),
    16: (8,),
    17: (4,),
    22: (10,),
}
_COUNTED = {1: 2, 2: 2, 3: 2, 4: 2, 17: 2, 23: 2, 15: 6, 16: 6}  # where the count of the bytes that follow stands


def rtu(buffer: bytes, at: int, over: bool) -> tuple[int, Made | None]:
    """A frame whose length follows from its function code, and whose CRC is right."""
    there = len(buffer) - at
    if there < 4:
        return (1, None) if over else (0, None)
    lengths = _lengths(buffer, at)
    for length in lengths:
        if length <= there and sound(buffer[at : at + length]):
            return length, told(buffer[at : at + length - 2], length)
    return (0, None) if not over and any(length > there for length in lengths) else (1, None)


def _lengths(buffer: bytes, at: int) -> list[int]:
    """Lengths that a frame with this function may have, the shortest first."""
    function = buffer[at + 1]
    if function & 0x80:
        return [5]
    if function not in FUNCTIONS:
        return []
    lengths = set(_FIXED.get(function, ()))
    place = _COUNTED.get(function)
    if place is not None and at + place < len(buffer):
        lengths.add(place + 1 + buffer[at + place] + 2)
    if function == 23 and at + 10 < len(buffer):
        lengths.add(11 + buffer[at + 10] + 2)
    if function == 43:
        return list(range(7, min(LONGEST_FRAME, len(buffer) - at) + 1))
    return sorted(length for length in lengths if length <= LONGEST_FRAME)


def told(body: bytes, size: int) -> Made:
    """What a sound frame says: `body` without CRC or LRC; `size`: of the RTU frame."""
    unit, function = body[0], body[1]
    fields = {"unit": unit, "function": function & 0x7F, "what": FUNCTIONS.get(function & 0x7F, "of its own kind")}
    if function & 0x80:
        why = EXCEPTIONS.get(body[2], f"code {body[2]}") if len(body) > 2 else "no code"
        return Made("exception", True, fields, f"unit {unit} is there but refuses: {why}")
    if function in (1, 2, 3, 4) and size == 8 and not (body[2] == 3 and function in (1, 2)):
        first, count = int.from_bytes(body[2:4], "big"), int.from_bytes(body[4:6], "big")
        return Made("request", True, {**fields, "first": first, "count": count})
    if function in (3, 4) and len(body) > 2 and len(body) == 3 + body[2] and body[2] % 2 == 0:
        values = [int.from_bytes(body[i : i + 2], "big") for i in range(3, len(body), 2)]
        return Made("answer", True, {**fields, "values": values})
    if function in WRITES:
        return Made("write", True, {**fields, "hex": body[2:].hex(" ").upper()}, "changes something in the device")
    return Made("frame", True, {**fields, "hex": body[2:].hex(" ").upper()})


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
    end = buffer.find(b"\n", at, at + 2 * LONGEST_FRAME + 4)
    again = buffer.find(b":", at + 1, end if end >= 0 else len(buffer))
    if again >= 0:
        return again - at, Made("cut-off", False, {}, "a new frame begins before the end of this")
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
