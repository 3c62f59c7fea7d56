"""DF1, full duplex: frames between DLE STX and DLE ETX with a BCC or a CRC, single answers, and a first word that only asks.

Source: the protocol's published reference manual, chapters on full-duplex link layer and on the diagnostic status command
(command 06, function 03); from memory. The CRC is CRC-16/ARC of the data and the ETX.
"""

import re
from typing import Literal

from humble_courier.protocols.crc import ARC
from humble_courier.protocols.framer import Made, find
from humble_courier.protocols.spec import Check, ProtocolSpec, of_cut

DLE, STX, ETX, ENQ, ACK, NAK = 0x10, 0x02, 0x03, 0x05, 0x06, 0x15  # ANSI X3.4, as the manual names them
ANSWERS = {ENQ: "enquiry", ACK: "taken", NAK: "refused"}
LONGEST_DATA = 250  # the manual gives 244 bytes of data; a little more is read
_BODY = re.compile(rb"(?:[^\x10]|\x10\x10){0,%d}" % (LONGEST_DATA + 1))
_AGAIN = re.compile(rb"\x10+(?=\x10)")  # only the last of several begins something
FrameCheck = Literal["bcc", "crc"]


def frame(data: bytes, check: FrameCheck = "crc") -> bytes:
    """Data as a frame, every 10 doubled."""
    stuffed = data.replace(b"\x10", b"\x10\x10")
    return b"\x10\x02" + stuffed + b"\x10\x03" + _check(data, check)


def _check(data: bytes, check: FrameCheck) -> bytes:
    if check == "bcc":
        return bytes((-sum(data) & 0xFF,))
    return ARC.calc(data + b"\x03").to_bytes(2, "little")


def status_request(destination: int, source: int, transaction: int, check: FrameCheck = "crc") -> bytes:
    """Asks a station for its status; changes nothing."""
    head = bytes((destination, source, 0x06, 0x00)) + transaction.to_bytes(2, "little")
    return frame(head + b"\x03", check)


def cut(buffer: bytes, at: int, over: bool) -> tuple[int, Made | None]:
    """A frame or a single answer."""
    if buffer[at] != DLE:
        return find(buffer, at, b"\x10") - at, None
    if len(buffer) - at < 2:
        return (1, None) if over else (0, None)
    if buffer[at + 1] in ANSWERS:
        return 2, Made("answer", True, {"what": ANSWERS[buffer[at + 1]]})
    if again := _AGAIN.match(buffer, at):
        return again.end() - at, None
    if buffer[at + 1] != STX:
        return 1, None
    return _frame(buffer, at, over)


def _frame(buffer: bytes, at: int, over: bool) -> tuple[int, Made | None]:
    body = _BODY.match(buffer, at + 2)
    end = body.end() if body is not None else at + 2
    data = buffer[at + 2 : end].replace(b"\x10\x10", b"\x10")
    if len(data) > LONGEST_DATA:
        return 2, None
    if end + 1 >= len(buffer):
        return (2 if over else 0), None
    if buffer[end + 1] == ETX:
        return _checked(buffer, at, end + 2, data, over)
    # a new frame or an answer in the middle of this one
    return end - at, Made("cut-off", False, {"hex": data.hex(" ").upper()}, "the frame breaks off")


def _checked(buffer: bytes, at: int, end: int, data: bytes, over: bool) -> tuple[int, Made | None]:
    """A CRC where it fits, else a BCC where that fits; one byte alone must not be taken too early."""
    tail = buffer[end : end + 2]
    if tail == _check(data, "crc"):
        return end + 2 - at, _told(data, "CRC")
    if len(tail) < 2 and not over and tail != _check(data, "bcc"):
        return 0, None
    if tail[:1] == _check(data, "bcc"):
        if len(tail) < 2 and not over and tail == _check(data, "crc")[:1]:
            return 0, None
        return end + 1 - at, _told(data, "BCC")
    return end - at, Made(
        "frame", False, {"hex": data.hex(" ").upper()}, "neither CRC nor BCC fits: a byte was lost or changed"
    )


def _told(data: bytes, check: str) -> Made:
    fields: dict[str, object] = {"check": check, "hex": data.hex(" ").upper()}
    if len(data) >= 6:
        kind = "answer" if data[2] & 0x40 else "command"
        fields |= {
            "to": data[0],
            "from": data[1],
            "command": data[2],
            "status": data[3],
            "transaction": data[4] | data[5] << 8,
        }
        why = "" if data[3] == 0 else f"the station refuses with status {data[3]:02X}"
        return Made(kind, True, fields, why)
    return Made("frame", True, fields)


SPEC = ProtocolSpec(
    id="df1",
    name="DF1 full duplex",
    check=Check.SURE,
    decoder=of_cut(cut),
    proves="a station has taken or answered a frame: rate, frame, check and both conductors are right",
    guess=40,
    framed=frame,
)
