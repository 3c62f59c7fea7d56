"""A file of received bytes read as a protocol: raw bytes, marked bytes, or a log of this program."""

from collections import Counter
from dataclasses import dataclass
from pathlib import Path

from humble_courier.app.inferring import read_file
from humble_courier.app.line_log import is_log, read_log
from humble_courier.catalog.load import Catalog, nearest
from humble_courier.errors import BadInput
from humble_courier.line.marked import Unstuffer
from humble_courier.protocols.framer import Event
from humble_courier.protocols.kinds import Spoken, decoder, looks_spoken
from humble_courier.protocols.mstp import Watch

FEED = 65_536  # bytes at a time: what is complete is handed on, so that a long file needs little memory for half messages


@dataclass(frozen=True)
class Decoded:
    """What a file says: as which protocol it was read, its messages, and what stands out about all of them together."""

    protocol: Spoken
    events: tuple[Event, ...]
    notes: tuple[str, ...]


def spoken_of(word: str) -> Spoken:
    """A protocol by the name people write; raises BadInput with the nearest names."""
    known = [one.value for one in Spoken]
    if word not in known:
        raise BadInput(f"unknown protocol “{word}”{nearest(word, known)}")
    return Spoken(word)


def decode_file(path: Path, protocol: str, catalog: Catalog) -> Decoded:
    """Read a file as a protocol, or as what it looks like (`auto`). Raises BadInput where it is empty or looks like none."""
    data, _ = read_file(path)
    if not data:
        raise BadInput("the file is empty: nothing was received", file=path)
    if is_log(data):
        data = b"".join(one.data for one in read_log(data, str(path)) if one.who == "they")
    elif path.suffix == ".marked":
        data = bytes(one.byte for one in Unstuffer().feed(data))
    return decode(data, None if protocol == "auto" else spoken_of(protocol), catalog)


def decode(data: bytes, spoken: Spoken | None, catalog: Catalog) -> Decoded:
    """Read bytes as a protocol, or as what they look like."""
    spoken = spoken or looks_spoken(data[:FEED], catalog.names) or Spoken.TEXT
    machine = decoder(spoken, catalog.names)
    events = [event for at in range(0, len(data), FEED) for event in machine.feed(data[at : at + FEED])]
    events += machine.end()
    notes = [*_quality(events), *(_bus(machine) if isinstance(machine, Watch) else _listeners(events, catalog))]
    return Decoded(spoken, tuple(events), tuple(notes))


def _quality(events: list[Event]) -> list[str]:
    bad = [event for event in events if not event.ok]
    if not bad:
        return []
    noise = sum(event.size for event in bad if event.kind == "noise")
    kinds = Counter(event.why for event in bad if event.kind != "noise")
    told = [f"{count} times: {why}" for why, count in kinds.most_common(3)]
    return told + ([f"{noise} bytes belong to no message"] if noise else [])


def _bus(watch: Watch) -> list[str]:
    """What the token tells of a bus."""
    notes = []
    if watch.ring:
        notes.append("the token goes " + " to ".join(map(str, [*watch.ring, watch.ring[0]])))
    silent = sorted(set(watch.asked) - set(watch.spoke))
    if silent:
        notes.append(f"asked for and silent: {', '.join(map(str, silent))}; a highest master set lower saves that time")
    return notes + [f"address {address}: {why}" for address, why in sorted(watch.suspects.items())]


def _listeners(events: list[Event], catalog: Catalog) -> list[str]:
    """What a listener can take from the sentences that came, and by which alternates."""
    came = {str(event.fields.get("formatter", "")) for event in events if event.kind == "sentence" and event.ok}
    carried: dict[str, list[str]] = {}
    for formatter in sorted(came & set(catalog.sentences)):
        for what in catalog.sentences[formatter].carries:
            carried.setdefault(what, []).append(formatter)
    return [f"{what}: {' or '.join(formatters)}" for what, formatters in carried.items()]


def alternates(what: str, catalog: Catalog) -> list[str]:
    """Sentences from which a listener can take a thing (`position`); raises BadInput where none carries it."""
    found = [id_ for id_, entry in catalog.sentences.items() if what in entry.carries]
    if not found:
        known = sorted({one for entry in catalog.sentences.values() for one in entry.carries})
        raise BadInput(f"no sentence carries “{what}”{nearest(what, known)}")
    return found
