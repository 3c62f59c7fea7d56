"""KISS frames between a computer and a packet radio, and the AX.25 frames in them.

Sources: the KISS TNC specification of 1987 (FEND, FESC, commands); AX.25 Link Access Protocol version 2.2, 3 (address field,
control field, PID); from memory.
"""

import re
from dataclasses import dataclass

from humble_courier.domain.text import PRINTABLE
from humble_courier.protocols.framer import Event, Made, find
from humble_courier.protocols.spec import Check, ProtocolSpec, of_cut, plainly

FEND = 0xC0  # the KISS specification; within a frame it is DB DC, and DB is DB DD
COMMANDS = {
    0: "data",
    1: "key-up delay",
    2: "persistence",
    3: "slot time",
    4: "tail",
    5: "full duplex",
    6: "hardware",
    15: "leave",
}
LONGEST = 4096  # bytes of a frame that are held while it is incomplete
LONGEST_FILL = 64  # FENDs in a row that are held as the beginning of a frame; a line that idles in FENDs has no end of them
_WRONG_ESCAPE = re.compile(rb"\xdb(?![\xdc\xdd])")
_FILL = re.compile(rb"\xc0+")
LONGEST_ADDRESSES = 70  # octets: two stations and eight repeaters of seven each (AX.25 version 2.2, 3.12)
UI = 0x03  # unnumbered information, AX.25 version 2.2, 4.3.3.6
_UNNUMBERED = {
    0x6F: "SABME",
    0x2F: "SABM",
    0x43: "DISC",
    0x0F: "DM",
    0x63: "UA",
    0x87: "FRMR",
    0x03: "UI",
    0xAF: "XID",
    0xE3: "TEST",
}


@dataclass(frozen=True)
class Ax25:
    """An AX.25 frame: call signs with their numbers, the kind of frame, and the information."""

    to: str
    source: str
    via: tuple[str, ...]
    what: str
    pid: int | None
    info: bytes


def frame(data: bytes, port: int = 0, command: int = 0) -> bytes:
    """A KISS frame. Data frames are transmitted by the radio: armed use only."""
    body = bytes((port << 4 | command,)) + data
    stuffed = body.replace(b"\xdb", b"\xdb\xdd").replace(b"\xc0", b"\xdb\xdc")
    return b"\xc0" + stuffed + b"\xc0"


def call(text: str, last: bool, top: bool = False) -> bytes:
    """A call sign such as `SKW-7` as the seven octets of an address field."""
    name, _, number = text.partition("-")
    return bytes(ord(c) << 1 for c in name.ljust(6)) + bytes((0x60 | int(number or 0) << 1 | last | top << 7,))


def ui_frame(to: str, source: str, info: bytes, pid: int = 0xF0) -> bytes:
    """An unnumbered information frame without its check sequence, as KISS carries it."""
    return call(to, False, True) + call(source, True) + bytes((UI, pid)) + info


def cut(buffer: bytes, at: int, over: bool) -> tuple[int, Made | None]:
    """A frame from FEND to FEND; several FENDs in a row are one."""
    if buffer[at] != FEND:
        return find(buffer, at, b"\xc0") - at, None
    fill = _FILL.match(buffer, at)
    begin = fill.end() if fill is not None else at + 1
    if begin - at > LONGEST_FILL:
        return begin - at - 1, Made("idle", True)  # the last of them may open a frame
    end = buffer.find(b"\xc0", begin)
    if begin == len(buffer) or end < 0:
        if not over and len(buffer) - begin < LONGEST:
            return 0, None
        return (len(buffer) - at, Made("idle", True)) if begin == len(buffer) else (1, None)
    return end - at, _told(buffer[begin:end])  # the closing FEND may open the next frame


def _told(stuffed: bytes) -> Made:
    body = _unstuffed(stuffed)  # the first byte too: port 12 with data would be a FEND
    if not body:
        why = "an escape is followed by what may not follow it: a byte was lost or changed"
        return Made("frame", False, {"hex": stuffed[:64].hex(" ").upper()}, why)
    command, plain = body[0] & 0x0F, body[1:]
    fields: dict[str, object] = {"port": body[0] >> 4, "command": COMMANDS.get(command, f"command {command}")}
    if command:
        return Made("set-up", True, {**fields, "value": plain.hex(" ").upper()})
    packet = ax25(plain)
    if packet is None:
        return Made("data", False, {**fields, "hex": plain[:64].hex(" ").upper()}, "no AX.25 addresses in it")
    said = "".join(chr(b) if b in PRINTABLE else "·" for b in packet.info)
    told = {"to": packet.to, "from": packet.source, "via": list(packet.via), "what": packet.what, "pid": packet.pid}
    return Made("packet", True, {**fields, **told, "text": said})


def _unstuffed(body: bytes) -> bytes | None:
    if _WRONG_ESCAPE.search(body):
        return None
    return body.replace(b"\xdb\xdc", b"\xc0").replace(b"\xdb\xdd", b"\xdb")


def ax25(data: bytes) -> Ax25 | None:
    """Take a frame apart (without check sequence); None where its address field cannot be one."""
    ends = [i for i in range(6, min(len(data), LONGEST_ADDRESSES), 7) if data[i] & 1]  # the lowest bit ends the field
    if not ends or ends[0] < 13 or len(data) < ends[0] + 2:
        return None
    stop = ends[0] + 1
    calls = [_call_sign(data[i : i + 7]) for i in range(0, stop, 7)]
    known = [one for one in calls if one is not None]
    if len(known) < len(calls):
        return None
    what = _what(data[stop])
    carries = what in ("UI", "I") and len(data) > stop + 1
    pid, info = (data[stop + 1], data[stop + 2 :]) if carries else (None, b"")
    return Ax25(known[0], known[1], tuple(known[2:]), what, pid, info)


def _call_sign(octets: bytes) -> str | None:
    """Seven octets of an address field, each shifted by one; None where they cannot be a call sign."""
    name = bytes(b >> 1 for b in octets[:6]).decode("latin-1").rstrip()
    if any(b & 1 for b in octets[:6]) or not (name.isalnum() and name.isascii()):
        return None
    number = octets[6] >> 1 & 15
    return f"{name}-{number}" if number else name


def _what(control: int) -> str:
    """The kind of frame by its control field."""
    if control & 3 == 3:
        return _UNNUMBERED.get(control & 0xEF, "U")
    return "S" if control & 1 else "I"


def in_words(event: Event) -> str:
    """A packet in a few words."""
    f = event.fields
    return f"{f['from']} to {f['to']}: {f['text']}" if event.kind == "packet" else plainly(event)


SPEC = ProtocolSpec(
    id="kiss",
    name="KISS packet radio",
    check=Check.WEAK,
    decoder=of_cut(cut),
    proves="packets from the air come whole: rate, frame and the conductor from the radio are right",
    guess=80,
    speaker=lambda event: str(event.fields.get("from", "")),
    sentence=in_words,
    framed=frame,
)
