"""Received bytes with marked errors, in the byte stuffing of the Linux tty layer (termios(3), PARMRK).

`FF 00 x`: x came with a framing or parity error; `FF 00 00`: a break; `FF FF`: the byte FF.
"""

from dataclasses import dataclass
from enum import StrEnum


class Doubt(StrEnum):
    """Whether a received byte can be believed."""

    NONE = "none"
    ERROR = "error"  # framing or parity: the tty layer does not say which
    BREAK = "break"


@dataclass(frozen=True)
class Heard:
    """One received byte with its doubt."""

    byte: int
    doubt: Doubt = Doubt.NONE


def stuff(heard: list[Heard]) -> bytes:
    """Bytes with their doubts as a marked stream."""
    out = bytearray()
    for one in heard:
        if one.doubt is Doubt.BREAK:
            out += b"\xff\x00\x00"
        elif one.doubt is Doubt.ERROR:
            out += bytes((0xFF, 0x00, one.byte))
        else:
            out += b"\xff\xff" if one.byte == 0xFF else bytes((one.byte,))
    return bytes(out)


class Unstuffer:
    """Takes a marked stream apart, however it is cut into pieces."""

    def __init__(self) -> None:
        self._held = b""

    def feed(self, data: bytes) -> list[Heard]:
        """Bytes that are complete so far; at most two bytes are held back until more arrives."""
        data = self._held + data
        heard, i = [], 0
        while i < len(data):
            if data[i] != 0xFF:
                heard.append(Heard(data[i]))
                i += 1
            elif data[i + 1 : i + 2] == b"\xff":
                heard.append(Heard(0xFF))
                i += 2
            elif i + 1 < len(data) and data[i + 1] != 0x00:  # not what the tty layer writes: take it as it is
                heard.append(Heard(0xFF))
                i += 1
            elif i + 2 < len(data):
                heard.append(Heard(data[i + 2], Doubt.ERROR if data[i + 2] else Doubt.BREAK))
                i += 3
            else:
                break
        self._held = data[i:]
        return heard
