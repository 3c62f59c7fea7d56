"""Instruments: answers, queries and blocks of IEEE 488.2 and of the standard commands (SCPI).

Sources: IEEE 488.2-1992, 10.14 (*IDN?), 8.7.9 and 8.7.10 (definite and indefinite block), 7.7; SCPI 1999.0 volume 2, 21.8
(error queue); from memory.
"""

import re

from humble_courier.errors import BadInput
from humble_courier.protocols.framer import Event, Made
from humble_courier.protocols.spec import Check, Line, Probe, ProtocolSpec, of_cut, plainly
from humble_courier.protocols.text import WHO_ARE_YOU, line

_NUMBER = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?")
_ERROR = re.compile(r"([+-]?\d+),\s*\"(.*)\"")
_QUERY = re.compile(r"(\*IDN\?|\*OPT\?|\*ESR\?|\*STB\?|\*TST\?|:?[A-Za-z][A-Za-z0-9:]*\?)")
CHANGES = ("*TST?", "*ESR?")  # a self-test moves relays, and reading the event register clears it


def scpi(buffer: bytes, at: int, over: bool) -> tuple[int, Made | None]:
    """An answer or a query of an instrument."""
    if buffer[at] == ord("#"):
        if at + 1 == len(buffer) and not over:
            return 0, None
        if buffer[at + 1 : at + 2].isdigit():
            return _block(buffer, at, over)
    size, made = line(buffer, at, over)
    if made is None or made.kind != "line" or not made.ok:
        return size, made
    return size, _meant(str(made.fields["text"]).strip())


def _meant(text: str) -> Made:
    if match := _ERROR.fullmatch(text):
        code = int(match[1])
        meaning = "no error" if code == 0 else f"the instrument reports error {code}: {match[2]}"
        return Made("error-queue", True, {"code": code, "text": match[2]}, meaning)
    fields = text.split(",")
    if len(fields) == 4 and fields[0] and not _NUMBER.fullmatch(fields[0]):
        names = ("maker", "model", "serial", "firmware")
        return Made("identity", True, dict(zip(names, fields, strict=True)), "answer to *IDN?")
    if all(_NUMBER.fullmatch(one.strip()) for one in fields):
        return Made("numbers", True, {"values": [float(one) for one in fields]})
    if text.endswith("?") or text.startswith("*"):
        return Made("query" if text.endswith("?") else "command", True, {"text": text})
    return Made("text", True, {"text": text})


def _block(buffer: bytes, at: int, over: bool) -> tuple[int, Made | None]:
    """`#3` and three digits of length, then so many bytes; `#0` up to a line end that ends the message."""
    digits = buffer[at + 1] - 48
    if digits == 0:
        end = buffer.find(b"\n", at)
        return (end + 1 - at, Made("block", True, {"bytes": end - at - 2})) if end >= 0 else (0, None)
    head = buffer[at + 2 : at + 2 + digits]
    if len(head) < digits:
        return (1, None) if over or (head and not head.isdigit()) else (0, None)
    if not head.isdigit():
        return 1, None
    size = 2 + digits + int(head)
    if len(buffer) - at < size:
        missing = size - (len(buffer) - at)
        return (
            (len(buffer) - at, Made("block", False, {"bytes": int(head)}, f"{missing} bytes are missing"))
            if over
            else (0, None)
        )
    return size, Made("block", True, {"bytes": int(head)})


def safe_query(text: str) -> bytes:
    """A query that changes nothing, with its terminator LF (IEEE 488.2, 7.5). Raises BadInput for anything else."""
    if not _QUERY.fullmatch(text) or text.upper() in CHANGES:
        raise BadInput(f"“{text}” is no query that changes nothing; *IDN? is one")
    return text.encode("ascii") + b"\n"


def sentence(event: Event) -> str:
    """An answer in a few words."""
    f = event.fields
    if event.kind == "numbers":
        return ", ".join(f"{value:g}" for value in f["values"])
    if event.kind == "identity":
        return f"it is {f['maker']} {f['model']}, serial {f['serial']}, firmware {f['firmware']}"
    return plainly(event)


SPEC = ProtocolSpec(
    id="scpi",
    name="SCPI instrument",
    text=True,
    check=Check.NONE,
    decoder=of_cut(scpi),
    proves="the instrument has told who it is: rate, frame, handshake and both conductors are right",
    sentence=sentence,
    probe=Probe(lines=lambda *_: (Line(WHO_ARE_YOU),)),
)
