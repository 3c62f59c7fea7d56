"""Checks by division, lowest bit first, a byte at a time by a table of 256; the tests hold them against crccheck.

Source: Williams, A Painless Guide to CRC Error Detection Algorithms, 1993; from memory. A stream that may hold a frame at
every byte asks for its check at every byte: a library that counts bit by bit takes forty times as long.
"""

from dataclasses import dataclass


def _row(value: int, polynomial: int) -> int:
    for _ in range(8):
        value = value >> 1 ^ (polynomial if value & 1 else 0)
    return value


@dataclass(frozen=True)
class Crc:
    """`polynomial` and `start` in the order of the line, lowest bit first; `end` is added (exclusive or) at the end."""

    table: tuple[int, ...]
    start: int
    end: int = 0

    @classmethod
    def of(cls, polynomial: int, start: int, end: int = 0) -> "Crc":
        """A check by its polynomial."""
        return cls(tuple(_row(value, polynomial) for value in range(256)), start, end)

    def calc(self, data: bytes) -> int:
        """The check of some bytes."""
        value, table = self.start, self.table
        for byte in data:
            value = value >> 8 ^ table[(value ^ byte) & 0xFF]
        return value ^ self.end


MODBUS = Crc.of(0xA001, 0xFFFF)  # Modbus over Serial Line V1.02, 6.2.2
ARC = Crc.of(0xA001, 0)
X25 = Crc.of(0x8408, 0xFFFF, 0xFFFF)  # ITU-T X.25, 2.2.7.4
MSTP_HEADER = Crc.of(0x81, 0xFF, 0xFF)  # X^8 + X^7 + 1, complemented (ANSI/ASHRAE 135, annex G.1)
