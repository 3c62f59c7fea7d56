"""J1939 on top of CAN frames: priority, parameter group, who speaks to whom; long messages put together; awake controllers.

Sources: SAE J1939-21 (identifier, 5.2; transport protocol, 5.10), J1939-73 (DM1, 5.7.1), J1939-81 (NAME, 4.1.1); the worked
identifiers are in the tests; from memory.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from humble_courier.protocols import slcan
from humble_courier.protocols.framer import Event, Framer
from humble_courier.protocols.slcan import CanFrame
from humble_courier.protocols.spec import NO_NEWS, Check, Facts, ProtocolSpec, plainly

GLOBAL = 0xFF  # J1939-21, 5.2: to everybody
# Parameter groups of J1939-21 and -73.
REQUEST, TRANSPORT_DATA, TRANSPORT, ADDRESS_CLAIMED, DM1 = 0xEA00, 0xEB00, 0xEC00, 0xEE00, 0xFECA
BROADCAST_ANNOUNCE, REQUEST_TO_SEND, ABORT = 32, 16, 255  # control bytes of the transport protocol, J1939-21, 5.10.3
LONGEST = 1785  # bytes that 255 packets of 7 carry
MOST_OPEN = 64  # messages being put together at a time: one for each sender and receiver, and no bus has more


@dataclass(frozen=True)
class Identifier:
    """The 29 bits of an identifier; `destination` is 255 for everybody."""

    priority: int
    pgn: int
    source: int
    destination: int = GLOBAL

    @classmethod
    def of(cls, id_: int) -> "Identifier":
        """Take an identifier apart."""
        priority, pgn, low, source = id_ >> 26 & 7, id_ >> 8 & 0x3FF00, id_ >> 8 & 0xFF, id_ & 0xFF
        if pgn >> 8 & 0xFF < 240:
            return cls(priority, pgn, source, low)
        return cls(priority, pgn | low, source)

    @property
    def id(self) -> int:
        """The 29 bits."""
        low = self.destination if self.pgn >> 8 & 0xFF < 240 else self.pgn & 0xFF
        return self.priority << 26 | (self.pgn & 0x3FF00) << 8 | low << 8 | self.source


def request(pgn: int, source: int, destination: int = GLOBAL) -> CanFrame:
    """Asks for a parameter group; changes nothing in those who are asked, though it is sent on the bus."""
    return CanFrame(Identifier(6, REQUEST, source, destination).id, True, pgn.to_bytes(3, "little"))


def trouble_codes(data: bytes) -> tuple[list[dict[str, int]], int]:
    """Stored troubles out of DM1: suspect parameter, failure mode, how often; and the lamps' byte."""
    codes = []
    for at in range(2, len(data) - 3, 4):
        a, b, c, d = data[at : at + 4]
        spn = a | b << 8 | c >> 5 << 16
        if spn and spn != 0x7FFFF:
            codes.append({"spn": spn, "fmi": c & 0x1F, "count": d & 0x7F})
    return codes, data[0] if data else 0


@dataclass
class _Long:
    """A message that comes in packets."""

    pgn: int
    size: int
    packets: int
    parts: dict[int, bytes] = field(default_factory=dict)


class J1939:
    """Feed an adapter's bytes (or a log's); get parameter groups. `groups` and `controllers`: names by number."""

    def __init__(self, groups: Mapping[int, str], controllers: Mapping[int, str]) -> None:
        self._framer, self._groups, self._controllers = Framer(slcan.cut), groups, controllers
        self._open: dict[tuple[int, int], _Long] = {}
        self.awake: dict[int, int] = {}
        self.troubles: dict[int, list[dict[str, int]]] = {}  # the newest DM1 of each controller

    def feed(self, data: bytes, t: float = 0.0) -> list[Event]:
        """Parameter groups that are complete."""
        return [told for event in self._framer.feed(data, t) for told in self._told(event)]

    def end(self) -> list[Event]:
        """What is left over when the stream is at its end."""
        left = [told for event in self._framer.end() for told in self._told(event)]
        for (source, _), one in self._open.items():
            why = f"{len(one.parts)} of {one.packets} packets came"
            left.append(Event(0, 0, "incomplete", False, {"from": source, "pgn": one.pgn}, why))
        return left

    def _told(self, event: Event) -> list[Event]:
        if event.kind != "frame":
            return [event]
        if not event.fields["extended"] or event.fields["remote"]:
            return [Event(event.offset, event.size, "can", True, event.fields, "11 bits, or a request: not J1939")]
        made = self._group(int(event.fields["id"], 16), bytes.fromhex(event.fields["hex"]))
        return [Event(event.offset, event.size, *made)]

    def _group(self, id_: int, data: bytes) -> tuple[str, bool, dict[str, object], str]:
        who = Identifier.of(id_)
        self.awake[who.source] = self.awake.get(who.source, 0) + 1
        fields = self._fields(who.pgn, who, data)
        if who.pgn == TRANSPORT:
            return "transport", *self._announced(who, data, fields)
        if who.pgn == TRANSPORT_DATA:
            return self._packet(who, data, fields)
        return "group", True, fields, ""

    def _fields(self, pgn: int, who: Identifier, data: bytes) -> dict[str, object]:
        own = pgn == 0xEF00 or 0xFF00 <= pgn <= 0xFFFF
        fields: dict[str, object] = {
            "pgn": pgn,
            "group": self._groups.get(pgn, "of its own kind" if own else f"group {pgn}"),
            "from": who.source,
            "to": who.destination,
            "priority": who.priority,
            "controller": self._controllers.get(who.source, f"address {who.source}"),
            "hex": data.hex(" ").upper(),
        }
        if pgn == DM1:
            fields["troubles"], fields["lamps"] = trouble_codes(data)
            self.troubles[who.source] = trouble_codes(data)[0]
        elif pgn == REQUEST and len(data) >= 3:
            fields["asks_for"] = int.from_bytes(data[:3], "little")
        elif pgn == ADDRESS_CLAIMED and len(data) == 8:
            name_bits = int.from_bytes(data, "little")
            fields |= {
                "identity": name_bits & 0x1FFFFF,
                "maker_code": name_bits >> 21 & 0x7FF,
                "function": name_bits >> 40 & 0xFF,
            }
        return fields

    def _announced(self, who: Identifier, data: bytes, fields: dict[str, object]) -> tuple[bool, dict[str, object], str]:
        if len(data) != 8:
            return False, fields, "a transport message has eight bytes"
        key = (who.source, who.destination)
        if data[0] in (BROADCAST_ANNOUNCE, REQUEST_TO_SEND):
            size, packets = data[1] | data[2] << 8, data[3]
            if not 9 <= size <= LONGEST or packets != -(-size // 7):
                return False, fields, "size and number of packets do not fit"
            while len(self._open) >= MOST_OPEN:
                self._open.pop(next(iter(self._open)))
            self._open[key] = _Long(int.from_bytes(data[5:8], "little"), size, packets)
            return True, fields, f"{size} bytes follow in {packets} packets"
        if data[0] == ABORT:
            self._open.pop((who.destination, who.source), None)
            return True, fields, "the long message is given up"
        return True, fields, "the receiver steers a long message"

    def _packet(self, who: Identifier, data: bytes, fields: dict[str, object]) -> tuple[str, bool, dict[str, object], str]:
        key = (who.source, who.destination)
        long = self._open.get(key)
        if long is None or not data or not 1 <= data[0] <= long.packets:
            return "packet", True, fields, "a part of a long message whose begin was not heard"
        long.parts[data[0]] = data[1:]
        if len(long.parts) < long.packets:
            return "packet", True, fields, f"{len(long.parts)} of {long.packets}"
        del self._open[key]
        whole = b"".join(long.parts[i] for i in sorted(long.parts))[: long.size]
        return "group", True, self._fields(long.pgn, who, whole), f"put together from {long.packets} packets"


def in_words(event: Event) -> str:
    """A group in a few words."""
    f = event.fields
    return f"{f['controller']}: {f['group']}" if event.kind == "group" else plainly(event)


def awake(decoder: J1939, _events: Sequence[Event], facts: Facts) -> list[str]:
    """Which controllers speak, the most talkative first, and their active troubles (DM1)."""
    names = facts.names("j1939-controllers")
    most = sorted(decoder.awake.items(), key=lambda item: -item[1])
    told = [f"{names.get(address, 'address')} ({address}), {count} frames" for address, count in most]
    notes = [f"awake: {'; '.join(told)}"] if told else []
    for source, codes in sorted(decoder.troubles.items()):
        listed = ", ".join(f"SPN {one['spn']} FMI {one['fmi']}, {one['count']} times" for one in codes)
        notes.append(f"active troubles of {names.get(source, 'address')} ({source}): {listed or 'none'}")
    return notes


SPEC = ProtocolSpec(
    id="j1939",
    name="J1939 through an ASCII CAN adapter",
    text=True,
    check=Check.SURE,
    decoder=lambda facts: J1939(facts.names("j1939-groups"), facts.names("j1939-controllers")),
    proves="groups come from the vehicle's bus: the adapter's rate, the bus's rate and the pair are right",
    guess=50,
    aside=frozenset((*NO_NEWS, "answer", "refused", "can")),  # an adapter's own words, and frames that are not J1939
    speaker=lambda event: str(event.fields.get("controller", "")),
    sentence=in_words,
    summed_up=awake,
)
