"""Received bytes with marked errors, in the byte stuffing of the Linux tty layer (termios(3), PARMRK).

`FF 00 x`: x came with a framing or parity error; `FF 00 00`: a break; `FF FF`: the byte FF.
"""

from humble_courier.domain.received import Chunk, Doubt, Heard


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
        return self.chunk(data).heard

    def chunk(self, data: bytes) -> Chunk:
        """The same for many at once: what lies between two marks is taken in one piece."""
        data = self._held + data
        plain, doubts, at = bytearray(), {}, 0
        while (mark := data.find(0xFF, at)) >= 0:
            plain += data[at:mark]
            at = mark
            following = data[mark + 1 : mark + 3]
            if following[:1] == b"\xff":
                plain.append(0xFF)
                at += 2
            elif following and following[0] != 0x00:  # not what the tty layer writes: take it as it is
                plain.append(0xFF)
                at += 1
            elif len(following) == 2:
                doubts[len(plain)] = Doubt.ERROR if following[1] else Doubt.BREAK
                plain.append(following[1])
                at += 3
            else:
                break
        else:
            plain += data[at:]
            at = len(data)
        self._held = data[at:]
        return Chunk(bytes(plain), doubts)
