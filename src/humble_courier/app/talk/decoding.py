"""A file of received bytes read as a protocol: raw bytes, marked bytes, or a log of this program."""

from collections import Counter
from dataclasses import dataclass, replace
from pathlib import Path

from humble_courier.app.settings.inferring import read_file
from humble_courier.app.talk.traffic import Traffic, looks_like
from humble_courier.catalog.load import Catalog, nearest
from humble_courier.errors import BadInput
from humble_courier.line.marked import Unstuffer
from humble_courier.port.log import Piece, is_log, log_settings, read_log
from humble_courier.protocols.framer import Event
from humble_courier.protocols.registry import looks_spoken, spec_named
from humble_courier.protocols.spec import ProtocolSpec
from humble_courier.protocols.text import SPEC as TEXT
from humble_courier.protocols.unknown import shape

UNKNOWN, AUTO = "unknown", "auto"
FEED = 65_536  # bytes at a time: what is complete is handed on, so that a long file needs little memory for half messages


@dataclass(frozen=True)
class Decoded:
    """What a file says: as which protocol it was read, its messages, and what stands out about all of them together."""

    protocol: str | None  # none: frames that nobody knows
    events: tuple[Event, ...]
    notes: tuple[str, ...]


def decode_file(path: Path, protocol: str, catalog: Catalog) -> Decoded:
    """Read a file as a protocol, or as what it looks like (`auto`); a log also as frames nobody knows (`unknown`).

    Raises BadInput where it is empty.
    """
    data, _ = read_file(path)
    if not data:
        raise BadInput("the file is empty: nothing was received", file=path)
    if is_log(data):
        return _decode_log(data, str(path), protocol, catalog)
    if protocol == UNKNOWN:
        raise BadInput("frames that nobody knows are cut by their pauses: that needs a log with times", file=path)
    if path.suffix == ".marked":
        data = bytes(one.byte for one in Unstuffer().feed(data))
    return decode(data, None if protocol == AUTO else spec_named(protocol), catalog)


def _decode_log(data: bytes, name: str, protocol: str, catalog: Catalog) -> Decoded:
    """What they said in a log; with its times, so that silence counts."""
    logged = read_log(data)
    found = _decode_pieces(data, [piece for piece in logged.pieces if piece.who == "they"], name, protocol, catalog)
    return replace(found, notes=(*found.notes, logged.problem)) if logged.problem else found


def _decode_pieces(data: bytes, theirs: list[Piece], name: str, protocol: str, catalog: Catalog) -> Decoded:
    whole = b"".join(piece.data for piece in theirs)
    if not whole:
        raise BadInput("nothing was received in this log", file=name)
    spec = None if protocol in (AUTO, UNKNOWN) else spec_named(protocol)
    if spec is None and protocol == AUTO:
        spec = looks_spoken(whole[:FEED], catalog)
    if spec is not None and spec.timed is not None:
        reader = spec.timed(catalog)
        events = [event for piece in theirs for event in reader.feed(piece.data, piece.t)] + reader.end()
        return Decoded(spec.id, tuple(events), tuple(_quality(events)))
    if spec is not None or _plain(whole):
        return decode(whole, spec or TEXT, catalog)
    return _by_pauses(whole, theirs, log_settings(data).character_s, catalog)


def _plain(data: bytes) -> bool:
    return looks_like(data, 0) is Traffic.TEXT


def _by_pauses(whole: bytes, theirs: list[Piece], character_s: float, catalog: Catalog) -> Decoded:
    """Frames cut by their pauses, and what they have in common."""
    times = [piece.t - (len(piece.data) - 1 - i) * character_s for piece in theirs for i in range(len(piece.data))]
    found = shape(whole, times, character_s)
    if found is None:
        return decode(whole, TEXT, catalog)
    events, at = [], 0
    for frame in found.frames:
        events.append(Event(at, len(frame), "frame", True, {"hex": frame[:64].hex(" ").upper()}))
        at += len(frame)
    notes = [f"{len(found.frames)} frames, cut where nothing comes for {found.pause_s * 1000:.1f} ms"]
    notes.append(f"each ends with a check: {found.check}" if found.check else "no check of the catalogue fits them all")
    if found.begins:
        notes.append(f"all begin with {found.begins.hex(' ').upper()}")
    if found.length_at is not None:
        notes.append(f"byte {found.length_at} goes with the length")
    return Decoded(None, tuple(events), tuple(notes))


def decode(data: bytes, spec: ProtocolSpec | None, catalog: Catalog) -> Decoded:
    """Read bytes as a protocol, or as what they look like."""
    spec = spec or looks_spoken(data[:FEED], catalog) or TEXT
    decoder = spec.decoder(catalog)
    events = [event for at in range(0, len(data), FEED) for event in decoder.feed(data[at : at + FEED])]
    events += decoder.end()
    return Decoded(spec.id, tuple(events), (*_quality(events), *spec.summed_up(decoder, events, catalog)))


def _quality(events: list[Event]) -> list[str]:
    bad = [event for event in events if not event.ok]
    if not bad:
        return []
    noise = sum(event.size for event in bad if event.kind == "noise")
    kinds = Counter(event.why for event in bad if event.kind != "noise")
    told = [f"{count} × {why}" for why, count in kinds.most_common(3)]
    return told + ([f"{noise} bytes belong to no message"] if noise else [])


def alternates(what: str, catalog: Catalog) -> list[str]:
    """Sentences from which a listener can take a thing (`position`); raises BadInput where none carries it."""
    found = [id_ for id_, entry in catalog.sentences.items() if what in entry.carries]
    if not found:
        known = sorted({one for entry in catalog.sentences.values() for one in entry.carries})
        raise BadInput(f"no sentence carries “{what}”{nearest(what, known)}")
    return found
