"""BACnet MS/TP frames, listened to: who passes the token, who is asked for, who speaks out of turn.

Source: ANSI/ASHRAE 135-2016, clause 9.3 (frame format), annex G (CRCs; its worked examples are in the tests); from memory.
Frames with COBS coded data (types 32 to 127) are cut, and their data is not looked into.
"""

from collections.abc import Sequence

from humble_courier.protocols.crc import MSTP_HEADER, X25
from humble_courier.protocols.framer import Event, Framer, Made
from humble_courier.protocols.spec import Check, Facts, ProtocolSpec, plainly

PREAMBLE = b"\x55\xff"
TOKEN, POLL, REPLY = 0, 1, 2  # ASHRAE 135, 9.3.1 to 9.3.3
TYPES = {0: "token", 1: "poll for master", 2: "reply to poll", 3: "test request", 4: "test answer", 5: "data, answer wanted",
         6: "data", 7: "answer comes later"}  # fmt: skip
LONGEST_DATA = 501  # octets, ASHRAE 135, 9.3
BROADCAST = 255  # ASHRAE 135, 9.3


def frame(kind: int, destination: int, source: int, data: bytes = b"") -> bytes:
    """A whole frame."""
    head = bytes((kind, destination, source)) + len(data).to_bytes(2, "big")
    made = PREAMBLE + head + bytes((MSTP_HEADER.calc(head),))
    return made + data + X25.calc(data).to_bytes(2, "little") if data else made


def cut(buffer: bytes, at: int, over: bool) -> tuple[int, Made | None]:
    """One frame; its header's check must be right before its length is believed."""
    if not buffer.startswith(PREAMBLE[: len(buffer) - at], at):
        begin = buffer.find(PREAMBLE, at + 1)
        return (begin if begin >= 0 else max(at + 1, len(buffer) - 1)) - at, None  # the last byte may be half a preamble
    if len(buffer) - at < 8:
        return (1, None) if over else (0, None)
    head = buffer[at + 2 : at + 7]
    length = int.from_bytes(head[3:5], "big")
    if MSTP_HEADER.calc(head) != buffer[at + 7] or (head[0] < 32 and length > LONGEST_DATA):
        return 1, None
    size = 8 + (length + 2 if length else 0)
    if len(buffer) - at < size:
        return (1, None) if over else (0, None)
    data = buffer[at + 8 : at + 8 + length]
    fields = {"what": TYPES.get(head[0], f"type {head[0]}"), "type": head[0], "to": head[1], "from": head[2]}
    if length:
        fields["hex"] = data[:64].hex(" ").upper()
        if head[0] < 32 and X25.calc(data).to_bytes(2, "little") != buffer[at + 8 + length : at + size]:
            return size, Made(
                "frame", False, fields, "the data's check is wrong: a collision, another rate, or a bad end of the line"
            )
    return size, Made("frame", True, fields)


class TokenWatch:
    """Follows the token through sound frames and tells what is wrong with the bus. Feed bytes."""

    def __init__(self) -> None:
        self._framer = Framer(cut)
        self._holder: int | None = None
        self._polled: int | None = None
        self._replied = False
        self.passes: dict[tuple[int, int], int] = {}
        self.spoke: dict[int, int] = {}
        self.asked: dict[int, int] = {}
        self.suspects: dict[int, str] = {}

    def feed(self, data: bytes, t: float = 0.0) -> list[Event]:
        """Frames, as `cut` gives them; the picture of the bus is brought up to date."""
        return self._seen(self._framer.feed(data, t))

    def end(self) -> list[Event]:
        """What is left over when the stream is at its end."""
        return self._seen(self._framer.end())

    def _seen(self, events: list[Event]) -> list[Event]:
        for event in events:
            if event.kind == "frame" and event.ok:
                self._take(event.fields["type"], event.fields["to"], event.fields["from"])
        return events

    def _take(self, kind: int, to: int, source: int) -> None:
        self.spoke[source] = self.spoke.get(source, 0) + 1
        if kind == REPLY:
            self._reply(source)
            return
        answer = kind in (4, 6, 7) and source == self._polled
        if self._holder is not None and source != self._holder and not answer and kind in (TOKEN, POLL):
            self.suspects[source] = "it speaks while another holds the token: two devices with this address, or a lost token"
        self._polled, self._replied = (to if kind in (POLL, 5, 3) else None), False
        if kind == TOKEN:
            self.passes[(source, to)] = self.passes.get((source, to), 0) + 1
            self._holder = to
            if to == source:
                self.suspects[to] = "it passes the token to itself"
        elif kind == POLL:
            self.asked[to] = self.asked.get(to, 0) + 1
            self._holder = source
        elif not answer:
            self._holder = source

    def _reply(self, source: int) -> None:
        if source != self._polled:
            self.suspects[source] = "it answers a poll that was for another"
        elif self._replied:
            self.suspects[source] = "two answers to one poll: two devices have this address"
        self._replied = True

    @property
    def ring(self) -> list[int]:
        """Who passes the token to whom, in order, from the lowest address on; empty where it was never passed."""
        following: dict[int, int] = {}
        for (a, b), _ in sorted(self.passes.items(), key=lambda item: item[1]):
            following[a] = b
        ring: list[int] = []
        one = min(following, default=None)
        while one is not None and one not in ring:
            ring.append(one)
            one = following.get(one)
        return ring


def in_words(event: Event) -> str:
    """A frame in a few words."""
    f = event.fields
    return f"{f['from']} to {f['to']}: {f['what']}" if event.kind == "frame" else plainly(event)


def of_the_bus(watch: TokenWatch, _events: Sequence[Event], _facts: Facts) -> list[str]:
    """What the token tells of a bus."""
    notes = []
    if watch.ring:
        notes.append("the token goes: " + " to ".join(map(str, [*watch.ring, watch.ring[0]])))
    silent = sorted(set(watch.asked) - set(watch.spoke))
    if silent:
        notes.append(f"asked for and silent: {', '.join(map(str, silent))}; a highest master set lower saves that time")
    return notes + [f"address {address}: {why}" for address, why in sorted(watch.suspects.items())]


SPEC = ProtocolSpec(
    id="mstp",
    name="BACnet MS/TP",
    check=Check.SURE,
    decoder=lambda _: TokenWatch(),
    proves="frames come with the right check: rate, polarity and the pair are right, and masters are awake",
    guess=30,
    speaker=lambda event: f"address {event.fields['from']}" if "from" in event.fields else "",
    sentence=in_words,
    summed_up=of_the_bus,
)
