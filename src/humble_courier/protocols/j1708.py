"""J1708 messages with J1587 parameters, cut by their own structure and checksum, or by silence where times are known.

Sources: SAE J1708 (at most 21 characters, the sum of all is 0; ten bit times of silence end a message); SAE J1587, 3
(parameters below 128 carry one byte, below 192 two, from 192 on a count); from memory.
"""

from collections.abc import Mapping

import numpy as np

from humble_courier.protocols.framer import Event, Framer, Made
from humble_courier.protocols.places import Places, Sums
from humble_courier.protocols.spec import Check, Facts, ProtocolSpec, plainly

LONGEST = 21  # characters, SAE J1708
SHORTEST = 4  # sender, a parameter of one byte, the sum
FIRST_SENDER = 128  # senders are numbered from here on (from memory); below lies J1922
GAP_BITS = 10  # bit times of silence that end a message, SAE J1708
RATE = 9600  # bit/s, SAE J1708
_PAGE_TWO, _SPECIAL = 255, 254  # SAE J1587, 3: parameters of the second page, and data of its own kind


def message(mid: int, data: bytes) -> bytes:
    """A whole message with its checksum."""
    body = bytes((mid,)) + data
    return body + bytes((-sum(body) & 0xFF,))


def parameters(data: bytes) -> list[tuple[int, bytes]] | None:
    """Parameter numbers with their bytes; None where the bytes cannot be such a list."""
    found: list[tuple[int, bytes]] = []
    at, page = 0, 0
    while at < len(data):
        pid = data[at]
        at += 1
        if pid == _PAGE_TWO:
            page = 256
            continue
        if pid == _SPECIAL:
            return [*found, (pid + page, data[at:])]
        if pid % 256 >= 192:
            if at >= len(data):
                return None
            size, at = data[at], at + 1
        else:
            size = 1 if pid < 128 else 2
        if at + size > len(data):
            return None
        found.append((pid + page, data[at : at + size]))
        at, page = at + size, 0
    return None if page else found


def _shortest(buffer: bytes, at: int, limit: int) -> tuple[int, list[tuple[int, bytes]]]:
    """Length of the shortest message that begins at a place and ends before `limit`, with its parameters; 0 for none.

    A message ends where a parameter does, so the sum is looked at there only.
    """
    listed: list[tuple[int, bytes]] = []
    place, page, total = at + 1, 0, buffer[at]
    while place < limit:
        pid = buffer[place]
        if listed and not page and not (total + pid) & 0xFF:
            return place + 1 - at, listed
        if pid == _SPECIAL:
            return _special(buffer, at, place, limit, [*listed], page)
        total += pid
        place += 1
        if pid == _PAGE_TWO:
            page = 256
            continue
        if pid >= 192:
            if place >= limit:
                break
            size = buffer[place]
            total += size
            place += 1
        else:
            size = 1 if pid < 128 else 2
        end = place + size
        if end >= limit:
            break
        data = buffer[place:end]
        listed.append((pid + page, data))
        total += sum(data)
        place, page = end, 0
    return 0, []


def _special(
    buffer: bytes, at: int, place: int, limit: int, listed: list[tuple[int, bytes]], page: int
) -> tuple[int, list[tuple[int, bytes]]]:
    """Data of its own kind goes on to the end of its message, wherever the sum says that is."""
    total = sum(buffer[at : place + 1])
    for end in range(place + 1, limit):
        if not (total + buffer[end]) & 0xFF and end + 1 - at >= SHORTEST:
            return end + 1 - at, [*listed, (_SPECIAL + page, buffer[place + 1 : end])]
        total += buffer[end]
    return 0, []


def places(buffer: bytes) -> Places:
    """Where a message may begin: some stretch from there on adds up to 0, or has not come whole."""
    sums = Sums(buffer)
    fits = np.arange(len(buffer)) + LONGEST > len(buffer)
    for length in range(SHORTEST, LONGEST + 1):
        fits |= sums.nothing(length)
    return np.flatnonzero((np.frombuffer(buffer, np.uint8) >= FIRST_SENDER) & fits)


class J1708:
    """Messages out of a stream. Names: what senders and parameters are called."""

    def __init__(self, senders: Mapping[int, str], names: Mapping[int, str], rate: int = RATE) -> None:
        self._senders, self._names, self._gap = senders, names, GAP_BITS / rate

    def cut(self, buffer: bytes, at: int, over: bool) -> tuple[int, Made | None]:
        """The shortest piece whose sum is 0 and which is a list of parameters."""
        if buffer[at] < FIRST_SENDER:
            return 1, None
        there = len(buffer) - at
        size, listed = _shortest(buffer, at, at + min(there, LONGEST))
        if size:
            return size, self._named(buffer[at : at + size], listed)
        return (0, None) if there < LONGEST and not over else (1, None)

    def told(self, raw: bytes) -> Made:
        """A message between two silences, taken apart."""
        fields = self._fields(raw)
        if len(raw) > LONGEST:
            return Made("message", False, fields, f"{len(raw)} characters without silence, more than {LONGEST}")
        if sum(raw) & 0xFF:
            return Made("message", False, fields, "the sum is not 0: a collision, or another rate")
        listed = parameters(raw[1:-1])
        if listed is None:
            return Made("message", True, fields, "parameters of its own kind")
        return self._named(raw, listed)

    def _fields(self, raw: bytes) -> dict[str, object]:
        sender = self._senders.get(raw[0]) or f"sender {raw[0]}"
        return {"from": raw[0], "sender": sender, "hex": raw.hex(" ").upper()}

    def _named(self, raw: bytes, listed: list[tuple[int, bytes]]) -> Made:
        names, fields = self._names, self._fields(raw)
        fields["parameters"] = [
            {"pid": pid, "name": names.get(pid) or f"parameter {pid}", "hex": data.hex(" ").upper()} for pid, data in listed
        ]
        return Made("message", True, fields)


class BySilence:
    """Messages of J1708 cut as the standard says: by ten bit times of silence. Feed bytes with the time of each piece."""

    def __init__(self, reader: J1708, rate: int = RATE) -> None:
        self._reader, self._gap, self._character = reader, GAP_BITS / rate, 10 / rate
        self._held, self._last, self._offset = bytearray(), float("-inf"), 0

    def feed(self, data: bytes, t: float = 0.0) -> list[Event]:
        """Bytes, the first complete at `t` seconds; a message ends when what comes next is late enough."""
        events = self._ended() if self._held and t - self._character - self._last >= self._gap else []
        self._held += data
        self._last = t + (len(data) - 1) * self._character
        return events

    def end(self) -> list[Event]:
        """The last message."""
        return self._ended() if self._held else []

    def _ended(self) -> list[Event]:
        raw = bytes(self._held)
        made = self._reader.told(raw)
        self._held.clear()
        self._offset += len(raw)
        return [Event(self._offset - len(raw), len(raw), made.kind, made.ok, made.fields, made.why)]


def in_words(event: Event) -> str:
    """A message in a few words."""
    f = event.fields
    if event.kind == "message" and "parameters" in f:
        return f"{f['sender']}: {', '.join(one['name'] for one in f['parameters'])}"
    return plainly(event)


def _reader(facts: Facts) -> J1708:
    return J1708(facts.names("j1708-senders"), facts.names("j1587-parameters"))


SPEC = ProtocolSpec(
    id="j1708",
    name="J1708 and J1587",
    check=Check.WEAK,
    decoder=lambda facts: Framer(_reader(facts).cut, LONGEST, places),
    proves="messages come with the right checksum: rate, polarity and the pair are right, and units are awake",
    guess=90,
    speaker=lambda event: str(event.fields.get("sender", "")),
    sentence=in_words,
    timed=lambda facts: BySilence(_reader(facts)),
    framed=lambda data: message(data[0], data[1:]),
)
