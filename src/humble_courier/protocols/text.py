"""Plain lines of text, with any of the usual ends."""

import re

from humble_courier.domain.text import Terminator, is_plain, printable
from humble_courier.protocols.framer import Made
from humble_courier.protocols.spec import Check, Line, Probe, ProtocolSpec, of_cut

_EMPTY = re.compile(rb"(?:\r\n|\n|\r(?=.))+", re.DOTALL)  # a CR at the very end waits for its LF
LONGEST_LINE = 4096  # bytes; a longer one is told in pieces


def line(buffer: bytes, at: int, over: bool) -> tuple[int, Made | None]:
    """A line with any of the usual ends; empty lines one after another are told as one."""
    if empty := _EMPTY.match(buffer, at):
        return empty.end() - at, Made("empty", True, {"text": ""})
    end = _line_end(buffer, at)
    if end == 0:
        if not over and len(buffer) - at < LONGEST_LINE:
            return 0, None
        end = min(len(buffer) - at, LONGEST_LINE)
    raw = buffer[at : at + end]
    body = raw.rstrip(b"\r\n")
    if not body:
        return end, Made("empty", True, {"text": ""})
    clean, terminator = is_plain(body), Terminator.of(raw)
    ended = terminator.spoken if terminator is not Terminator.NONE else ""
    why = "" if clean else "not plain text: other settings, or a binary protocol"
    return end, Made("line", clean, {"text": printable(body), "end": ended}, why)


def _line_end(buffer: bytes, at: int) -> int:
    """Length of the line with its end; 0 where it is incomplete. A CR at the very end waits for its LF."""
    lf, cr = buffer.find(b"\n", at), buffer.find(b"\r", at)
    if cr >= 0 and (lf < 0 or cr < lf - 1):
        return cr + 1 - at if cr + 1 < len(buffer) else 0
    return lf + 1 - at if lf >= 0 else 0


WHO_ARE_YOU = b"*IDN?"  # IEEE 488.2: asks who it is; a device that does not know it says so, and that is an answer too

SPEC = ProtocolSpec(
    id="text",
    name="lines of text",
    text=True,
    check=Check.NONE,
    decoder=of_cut(line),
    proves="clean text came as an answer: rate, frame and both conductors are right",
    probe=Probe(lines=lambda *_: (Line(WHO_ARE_YOU),)),
)
