"""Keys as a console of a device takes them: what goes over the line for each, at once and without a line of one's own.

Source: ECMA-48, 8.3 (CUU, CUD, CUF, CUB and the control characters); ANSI X3.4; from memory. Consoles take DEL or BS for
the key that deletes: BS is sent, as most boards and network devices take it (common practice).
"""

ESC = b"\x1b"
NAMED = {
    "Enter": b"\r",
    "Tab": b"\t",
    "Escape": ESC,
    "Backspace": b"\x08",
    "Delete": b"\x7f",
    "Up": b"\x1b[A",
    "Down": b"\x1b[B",
    "Right": b"\x1b[C",
    "Left": b"\x1b[D",
    "Home": b"\x1b[H",
    "End": b"\x1b[F",
    "Page Up": b"\x1b[5~",
    "Page Down": b"\x1b[6~",
}
_WITH_CONTROL = "@ABCDEFGHIJKLMNOPQRSTUVWXYZ[\\]^_"


def octets_of(name: str, text: str, control: bool) -> bytes:
    """What a key sends: by its name where it has one, with Ctrl the control character, else its text.

    Empty for what no console takes: a character beyond one byte, or a key alone that only changes others.
    """
    if name in NAMED and not control:
        return NAMED[name]
    if control and len(name) == 1 and name.upper() in _WITH_CONTROL:
        return bytes((_WITH_CONTROL.index(name.upper()),))
    if control or not text or any(ord(one) > 0xFF for one in text):
        return b""
    return text.encode("latin-1")
