"""NMEA 0183 (IEC 61162-1) sentences: framing and checksum here, the fields by pynmea2.

Source: NMEA 0183 version 4, 5.3 (at most 82 characters from $ or ! to CR LF; the checksum is the exclusive
or of what stands between); from memory.
"""

import re
from collections.abc import Sequence
from functools import reduce
from operator import xor

import pynmea2

from humble_courier.protocols.framer import Event, Made, find
from humble_courier.protocols.spec import Check, Facts, ProtocolSpec, of_cut, plainly

LONGEST = 82  # characters with $ and CR LF, NMEA 0183, 5.3
BEGINS = b"$!"
_BEGIN, _AGAIN = re.compile(rb"[$!]"), re.compile(rb"[$!]+(?=[$!])")  # with nothing in between, only the last begins one


def checksum(body: str) -> str:
    """Two hexadecimal digits for what stands between `$` and `*`."""
    return f"{reduce(xor, body.encode('latin-1'), 0):02X}"


def sentence(body: str) -> bytes:
    """A whole sentence: `$` body `*` checksum CR LF."""
    return f"${body}*{checksum(body)}\r\n".encode("latin-1")


def cut(buffer: bytes, at: int, over: bool) -> tuple[int, Made | None]:
    """One sentence."""
    if buffer[at] not in BEGINS:
        return find(buffer, at, BEGINS) - at, None
    if again := _AGAIN.match(buffer, at):
        return again.end() - at, None
    end = buffer.find(b"\n", at, at + 2 * LONGEST)
    begin = _BEGIN.search(buffer, at + 1, end if end >= 0 else at + 2 * LONGEST)
    if begin is not None:
        return begin.start() - at, Made(
            "cut-off", False, {"text": _shown(buffer[at : begin.start()])}, "a new sentence begins before the end of this"
        )
    if end < 0:
        return (0, None) if not over and len(buffer) - at < 2 * LONGEST else (min(len(buffer) - at, LONGEST), None)
    return end + 1 - at, read(buffer[at : end + 1])


def read(raw: bytes) -> Made:
    """One sentence with its line end, taken apart."""
    text = raw.decode("latin-1").rstrip("\r\n")
    body, star, told = text[1:].partition("*")
    fields = {"sentence": body.partition(",")[0], "text": _shown(raw)}
    if star and told.upper() != checksum(body):
        return Made(
            "sentence",
            False,
            fields,
            f"checksum is {checksum(body)}, the sentence says {told}: a character was lost or changed",
        )
    if not star and (lost := _lost_star(text)):
        why = f"the * before the checksum came as “{lost}”: a character was changed"
        return Made("sentence", False, fields, why)
    if len(raw) > LONGEST:
        return Made("sentence", False, fields, f"{len(raw)} characters, more than {LONGEST}: some listeners drop it")
    fields |= _parsed(text)
    return Made("sentence", True, fields, "" if star else "no checksum")


def _lost_star(text: str) -> str:
    """What stands where the star should be, when all else is right; empty where there is no checksum."""
    body, sign, told = text[1:-3], text[-3:-2], text[-2:]
    return sign if len(text) > 4 and told.upper() == checksum(body) else ""


def _parsed(text: str) -> dict[str, str]:
    """Named fields as pynmea2 knows them; just the numbered values for sentences that it does not."""
    try:
        parsed = pynmea2.parse(text)
    except pynmea2.ParseError:
        return {str(i): value for i, value in enumerate(text.partition("*")[0].split(",")[1:], start=1) if value}
    names = [entry[1] for entry in getattr(parsed, "fields", ())]
    named = dict(zip(names, parsed.data, strict=False))
    rest = {str(i + 1): value for i, value in enumerate(parsed.data) if i >= len(names)}
    found = {"talker": str(getattr(parsed, "talker", "")), "formatter": str(getattr(parsed, "sentence_type", ""))}
    return found | {key: str(value) for key, value in (named | rest).items() if value not in ("", None)}


def _shown(raw: bytes) -> str:
    return raw.decode("latin-1").rstrip("\r\n")


def in_words(event: Event) -> str:
    """A sentence with its named fields."""
    f = event.fields
    if event.kind != "sentence":
        return plainly(event)
    known = ("sentence", "text", "talker", "formatter")
    rest = [f"{name.replace('_', ' ')} {value}" for name, value in f.items() if name not in known]
    return f"{f['sentence']}: {', '.join(rest)}" if rest else str(f["sentence"])


def alternates(_decoder: object, events: Sequence[Event], facts: Facts) -> list[str]:
    """What a listener can take from the sentences that came, and by which of them."""
    came = {str(event.fields.get("formatter", "")) for event in events if event.kind == "sentence" and event.ok}
    carries, carried = facts.carries(), dict[str, list[str]]()
    for formatter in sorted(came & set(carries)):
        for what in carries[formatter]:
            carried.setdefault(what, []).append(formatter)
    return [f"{what}: {' or '.join(formatters)}" for what, formatters in carried.items()]


SPEC = ProtocolSpec(
    id="nmea-0183",
    name="NMEA 0183",
    text=True,
    check=Check.SURE,
    decoder=of_cut(cut),
    proves="sentences come with the right checksum: rate, frame and the conductor from the talker are right",
    guess=10,
    speaker=lambda event: str(event.fields.get("sentence", "")),
    sentence=in_words,
    summed_up=alternates,
    framed=lambda data: sentence(data.decode("ascii")),
)
