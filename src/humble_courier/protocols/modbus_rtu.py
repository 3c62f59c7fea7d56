"""Modbus RTU: requests that only read, frames cut by silence, answers.

Sources: MODBUS Application Protocol Specification V1.1b3 (functions 3 and 4, exception answers); MODBUS over Serial
Line V1.02, 2.5.1.1 (frame ends after 3.5 characters of silence, fixed at 1.75 ms above 19 200 bit/s) and 6.2.2 (CRC).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from itertools import product

import numpy as np

from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput, PeerError
from humble_courier.line.timing import modbus_gaps
from humble_courier.protocols.crc import MODBUS
from humble_courier.protocols.framer import Made
from humble_courier.protocols.modbus import EXCEPTIONS, FUNCTIONS, GATEWAYS, LONGEST_FRAME, sentence, told
from humble_courier.protocols.places import Places, Stretches, at_each, octets
from humble_courier.protocols.spec import Addressed, Check, Probe, ProtocolSpec, of_cut

READ_HOLDING, READ_INPUT = 3, 4  # functions that only read
READ_WRITE, ENCAPSULATED = 23, 43
CANOPEN, IDENTIFICATION = 13, 14  # what is carried with function 43, Application Protocol V1.1b3, 6.19


_STRETCHES = Stretches(MODBUS, LONGEST_FRAME)


def with_crc(frame: bytes) -> bytes:
    """The frame with its CRC, low byte first."""
    return frame + MODBUS.calc(frame).to_bytes(2, "little")


def sound(frame: bytes) -> bool:
    """Whether a frame is long enough and its CRC is right."""
    return 4 <= len(frame) <= LONGEST_FRAME and MODBUS.calc(frame) == 0


def read_request(unit: int, address: int, count: int = 1, function: int = READ_HOLDING) -> bytes:
    """Ask for `count` registers (1 to 125) from `address`; changes nothing in the device. Raises BadInput."""
    if not (1 <= unit <= 247 and 0 <= address <= 0xFFFF and 1 <= count <= 125 and function in (3, 4)):
        raise BadInput("Modbus read: unit 1 to 247, register 0 to 65535, count 1 to 125, function 3 or 4")
    return with_crc(bytes((unit, function)) + address.to_bytes(2, "big") + count.to_bytes(2, "big"))


@dataclass(frozen=True)
class Registers:
    """The registers that a unit answered with."""

    unit: int
    values: tuple[int, ...]


def read_answer(frame: bytes) -> Registers:
    """Registers out of an answer to `read_request`; raises PeerError with what is wrong with it."""
    if not sound(frame):
        raise PeerError(f"Modbus answer of {len(frame)} bytes with a wrong CRC: check rate, parity and termination")
    if frame[1] & 0x80:
        why = EXCEPTIONS.get(frame[2], f"code {frame[2]}")
        raise PeerError(f"Modbus unit {frame[0]} is there but refuses: {why}")
    if len(frame) != 5 + frame[2] or frame[2] % 2:
        raise PeerError("Modbus answer whose length does not match its count")
    data = frame[3:-2]
    return Registers(frame[0], tuple(int.from_bytes(data[i : i + 2], "big") for i in range(0, len(data), 2)))


class Frames:
    """Cuts what arrives into frames by silence. Feed bytes with their time; ask `take` at or after `deadline`."""

    def __init__(self, settings: Settings) -> None:
        self._gap, self._held, self.deadline = modbus_gaps(settings)[1], bytearray(), float("inf")

    def feed(self, t: float, byte: int) -> None:
        """One byte, complete at `t` seconds."""
        if len(self._held) < LONGEST_FRAME + 1:  # one more than fits: such a frame is then not sound
            self._held.append(byte)
        self.deadline = t + self._gap

    def take(self, t: float) -> bytes | None:
        """The frame, if the silence after it has been long enough at `t`."""
        if t < self.deadline:
            return None
        frame, self._held, self.deadline = bytes(self._held), bytearray(), float("inf")
        return frame


_FIXED = {
    1: (8,),
    2: (8,),
    3: (8,),
    4: (8,),
    5: (8,),
    6: (8,),
    7: (4, 5),
    8: (8,),
    11: (4, 8),
    15: (8,),
    16: (8,),
    17: (4,),
    22: (10,),
}


_COUNTED = {1: 2, 2: 2, 3: 2, 4: 2, 17: 2, 23: 2, 15: 6, 16: 6}  # where the count of the bytes that follow stands


def rtu(buffer: bytes, at: int, over: bool) -> tuple[int, Made | None]:
    """A frame whose length follows from its function code, and whose CRC is right."""
    there = len(buffer) - at
    if there < 4:
        return (1, None) if over else (0, None)
    lengths = _lengths(buffer, at)
    length = _first_sound(buffer, at, lengths)
    if length:
        return length, told(buffer[at : at + length - 2], length)
    return (0, None) if not over and any(length > there for length in lengths) else (1, None)


def _first_sound(buffer: bytes, at: int, lengths: list[int]) -> int:
    """The first of some lengths (shortest first) at which the CRC is right, in one pass; 0 where there is none."""
    value, end, table = MODBUS.start, at, MODBUS.table
    for length in lengths:
        if at + length > len(buffer):
            return 0
        for byte in buffer[end : at + length]:
            value = value >> 8 ^ table[(value ^ byte) & 0xFF]
        end = at + length
        if value == 0:
            return length
    return 0


def _lengths(buffer: bytes, at: int) -> list[int]:
    """Lengths that a frame with this function may have, the shortest first."""
    function = buffer[at + 1]
    if function & 0x80:
        return [5]
    if function not in FUNCTIONS:
        return []
    if function == ENCAPSULATED:
        return [length for length in _encapsulated(buffer, at) if length <= LONGEST_FRAME]
    lengths = [*_FIXED.get(function, ())]
    place = _COUNTED.get(function)
    if place is not None and at + place < len(buffer):
        lengths.append(place + 1 + buffer[at + place] + 2)
    if function == READ_WRITE and at + 10 < len(buffer):
        lengths.append(11 + buffer[at + 10] + 2)
    lengths.sort()
    return lengths if lengths and lengths[-1] <= LONGEST_FRAME else [one for one in lengths if one <= LONGEST_FRAME]


def _encapsulated(buffer: bytes, at: int) -> Sequence[int]:
    """Lengths with function 43: of a request, and of an answer as far as its objects tell it."""
    if buffer[at + 2] == CANOPEN:
        return range(7, min(LONGEST_FRAME, len(buffer) - at) + 1)  # as long as it likes
    if buffer[at + 2] != IDENTIFICATION:
        return ()
    length = 8  # up to the number of objects, Application Protocol V1.1b3, 6.21
    for _ in range(buffer[at + 7] if at + 7 < len(buffer) else 0):
        length += 2 + (buffer[at + length + 1] if at + length + 1 < len(buffer) else 0)
    return sorted((7, length + 2))


def places(buffer: bytes) -> Places:
    """Where a frame may begin: a length that goes with its function has the right CRC, or has not come whole."""
    octet, size = octets(buffer), len(buffer)
    begins = np.arange(size)
    function = at_each(octet, begins + 1)
    pairs = [(begins[function & 0x80 != 0], 5)]
    pairs += [(begins[function == code], length) for code, fixed in _FIXED.items() for length in fixed]
    asked = [(np.full(len(where), length), where) for where, length in pairs]
    for code, place in [*_COUNTED.items(), (READ_WRITE, 10)]:
        where = begins[(function == code) & (begins + place < size)]
        asked.append((octet[where + place] + place + 3, where))
    length, where = (np.concatenate([pair[i] for pair in asked]) for i in (0, 1))
    whole = (where + length <= size) & (length <= LONGEST_FRAME)
    sound_ones = _STRETCHES.of(_STRETCHES.registers(buffer), where[whole], length[whole]) == 0
    unknown = function == ENCAPSULATED
    unknown &= (at_each(octet, begins + 2) == IDENTIFICATION) | (at_each(octet, begins + 2) == CANOPEN)
    unfinished = where[(where + length > size) & (length <= LONGEST_FRAME)]
    return np.unique(np.concatenate((where[whole][sound_ones], unfinished, begins[unknown], begins[-3:])))


def answered(data: bytes) -> int | None:
    """The unit that a whole answer (or a refusal) comes from; None where it is none."""
    return data[0] if sound(data) else None


READ_COILS, MANY = 1, 0x01  # a count of 256 and more: its high byte has one bit


@cache
def alike(unit: int) -> bytes:
    """A request whose eight bytes all have an odd count of ones, or all an even one, as the unit's address has.

    Its parity bit is then one throughout, which is what a second stop bit is: opened with two stop bits it is read by
    units without parity and by those with one parity (even for odd counts). Coils (function 1) for odd addresses, holding
    registers (function 3) for even ones: both only read. Such a request exists for each of the 247 units.
    """
    odd = unit.bit_count() % 2
    same = [value for value in range(256) if value.bit_count() % 2 == odd]
    counts = [value for value in same if odd or 1 <= value <= 125]
    for high, low, count in product(same, same, counts):
        frame = with_crc(bytes((unit, READ_COILS if odd else READ_HOLDING, high, low, MANY if odd else 0, count)))
        if all(value.bit_count() % 2 == odd for value in frame[-2:]):
            return frame
    raise AssertionError(f"no such request for unit {unit}")


def of_gateway(data: bytes) -> bool:
    """Whether an answer is an exception that a gateway gives in place of the unit."""
    return sound(data) and len(data) == 5 and bool(data[1] & 0x80) and data[2] in GATEWAYS


# The standard's default is even parity; most devices in the field are set to none (common practice).
FRAMES = {"8E1": 0.5, "8N1": 0.4, "8O1": 0.1}
# "Modbus over Serial Line" 1.02, 2.2, makes 9600 and 19 200 a duty and the rest an option (from memory); how often each is
# met: common practice. Every other rate counts one.
RATE_PARTS = {9600: 300.0, 19200: 140.0, 38400: 45.0, 115200: 45.0, 57600: 16.0, 4800: 18.0, 2400: 14.0, 1200: 8.0}
WAIT_S = 0.12  # units answer within a tenth of a second (common practice)

SPEC = ProtocolSpec(
    id="modbus-rtu",
    name="Modbus RTU",
    check=Check.SURE,
    decoder=of_cut(rtu, LONGEST_FRAME, places),
    proves="a unit has answered a request with a check of sixteen bits: rate, frame, wiring and address are right",
    guess=60,
    speaker=lambda event: f"unit {event.fields['unit']}" if "unit" in event.fields else "",
    sentence=sentence,
    framed=with_crc,
    probe=Probe(
        addressed=Addressed(
            says="read requests (functions 1 and 3)",
            request=lambda unit: read_request(unit, 0),
            answered=answered,
            frames=FRAMES,
            wait_s=WAIT_S,
            alike=alike,
            behind=of_gateway,
            rates=RATE_PARTS,
        )
    ),
)
