"""Words as people type them: text with escapes, or numbers in hexadecimal."""

import re

from humble_courier.domain.text import octets
from humble_courier.errors import BadInput

_ESCAPES = {"r": b"\r", "n": b"\n", "t": b"\t", "e": b"\x1b", "0": b"\x00", "\\": b"\\"}
_PIECE = re.compile(r"\\x([0-9A-Fa-f]{2})|\\(.)|([^\\]+)|(\\)$", re.DOTALL)


def spelled(text: str) -> bytes:
    r"""Text with `\r \n \t \e \0 \\ \x1B`; raises BadInput for an escape that there is not."""
    made = bytearray()
    for number, letter, plain, lone in _PIECE.findall(text):
        if number:
            made.append(int(number, 16))
        elif plain:
            made += octets(plain)
        elif letter in _ESCAPES:
            made += _ESCAPES[letter]
        else:
            raise BadInput(f"“\\{letter or lone}”: known are \\r \\n \\t \\e \\0 \\\\ and \\x with two digits, as in \\x1B")
    return bytes(made)


def numbers(text: str) -> bytes:
    """Bytes in hexadecimal, with or without spaces; raises BadInput."""
    try:
        return bytes.fromhex(text.replace(",", " ").replace("0x", ""))
    except ValueError:
        raise BadInput(f"“{text}”: expected pairs of hexadecimal digits, as in 01 03 00 00") from None
