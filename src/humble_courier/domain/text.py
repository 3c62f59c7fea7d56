"""Text on a line: how lines end, which bytes are text, and bytes as people read them."""

from enum import StrEnum

from humble_courier.errors import BadInput

PRINTABLE = bytes(range(0x20, 0x7F))  # graphic characters of ASCII and the space (ISO/IEC 646)
TEXT = b"\t\n\r" + PRINTABLE  # what lines of text are made of
XON, XOFF = 0x11, 0x13  # DC1 and DC3 of ASCII, as a software handshake uses them
_SHOWN = {byte: chr(byte) if byte in PRINTABLE else "·" if byte in TEXT else f"<{byte:02X}>" for byte in range(256)}


class Terminator(StrEnum):
    """How a line ends."""

    CR = "cr"
    LF = "lf"
    CRLF = "crlf"
    LFCR = "lfcr"
    NONE = "none"

    @property
    def octets(self) -> bytes:
        """The bytes that end a line."""
        return _OCTETS[self]

    @property
    def spoken(self) -> str:
        """For people: `CR LF`."""
        return _SPOKEN[self]

    @classmethod
    def of(cls, line: bytes) -> "Terminator":
        """The terminator with which a line ends, the longest that fits."""
        two = line[-2:]
        return _BY_END.get(two) or _BY_END.get(two[-1:], cls.NONE)


_OCTETS = {
    Terminator.CR: b"\r",
    Terminator.LF: b"\n",
    Terminator.CRLF: b"\r\n",
    Terminator.LFCR: b"\n\r",
    Terminator.NONE: b"",
}
_BY_END = {octets: terminator for terminator, octets in _OCTETS.items() if octets}
_SPOKEN = {
    one: " ".join({13: "CR", 10: "LF"}[byte] for byte in octets) or "no terminator" for one, octets in _OCTETS.items()
}


def share_of_text(data: bytes) -> float:
    """Which share of the bytes belongs to lines of text; 0 for none at all."""
    return 1 - len(data.translate(None, TEXT)) / len(data) if data else 0.0


def is_plain(data: bytes) -> bool:
    """Whether all bytes are printable, or tabs within a line."""
    return not data.translate(None, PRINTABLE + b"\t")


def printable(data: bytes) -> str:
    """Text for people: printable ASCII as it is, line ends left out at the end, the rest as `·` or `<hex>`."""
    return "".join(map(_SHOWN.__getitem__, data.rstrip(b"\r\n")))


def escaped(data: bytes, kept: bytes = PRINTABLE) -> str:
    r"""Text that can be read back: `kept` bytes as they are, the rest as `\x1b`."""
    return "".join(chr(byte) if byte in kept else f"\\x{byte:02x}" for byte in data)


def octets(text: str) -> bytes:
    """Text as bytes to send; raises BadInput where it is not ISO 8859-1."""
    try:
        return text.encode("latin-1")
    except UnicodeEncodeError as error:
        raise BadInput(f"“{text[error.start]}” cannot be sent as one byte; write it as --hex") from None


# Characters that move the cursor, change colours or turn the direction of writing: C0 and C1 of ISO/IEC 6429, line and
# paragraph separators, and the bidirectional controls of Unicode Standard Annex 9.
_SIGNS = {code: f"<{code:02X}>" for code in (*range(0x20), *range(0x7F, 0xA0)) if code not in (0x09, 0x0A)} | {
    code: f"<U+{code:04X}>" for code in (0x061C, *range(0x200E, 0x2010), *range(0x2028, 0x202F), *range(0x2066, 0x206A))
}


def signs(text: str) -> str:
    """Text of others (a file, a device, a process) for a terminal or a window: controls are shown, never obeyed."""
    return text.translate(_SIGNS)
