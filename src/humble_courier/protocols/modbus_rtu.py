"""Modbus RTU: requests that only read, frames cut by silence, answers.

Sources: MODBUS Application Protocol Specification V1.1b3 (functions 3 and 4, exception answers); MODBUS over Serial
Line V1.02, 2.5.1.1 (frame ends after 3.5 characters of silence, fixed at 1.75 ms above 19 200 bit/s) and 6.2.2 (CRC).
"""

from dataclasses import dataclass

from crccheck.crc import CrcModbus

from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput, PeerError

READ_HOLDING, READ_INPUT = 3, 4
LONGEST_FRAME = 256  # bytes, address and CRC included (Serial Line V1.02, 2.5.1)
EXCEPTIONS = {1: "illegal function", 2: "illegal data address", 3: "illegal data value", 4: "server device failure"}


def with_crc(frame: bytes) -> bytes:
    """The frame with its CRC, low byte first."""
    return frame + int(CrcModbus.calc(frame)).to_bytes(2, "little")


def sound(frame: bytes) -> bool:
    """Whether a frame is long enough and its CRC is right."""
    return 4 <= len(frame) <= LONGEST_FRAME and with_crc(frame[:-2]) == frame


def gap_s(settings: Settings) -> float:
    """Silence in seconds that ends a frame."""
    return 0.00175 if settings.rate > 19_200 else 3.5 * 11 / settings.rate


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
        self._gap, self._held, self.deadline = gap_s(settings), bytearray(), float("inf")

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
