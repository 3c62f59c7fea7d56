"""Checks by name, as they stand at the end of binary words: of bits by crccheck, sums and exclusive or by themselves.

Names and parameters are those of the CRC catalogue; which end comes first on the line is common practice of the protocols
that use each, and can be turned about by hand in hexadecimal.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import reduce
from importlib import import_module
from operator import xor
from typing import Literal

from humble_courier.errors import BadInput


@dataclass(frozen=True)
class NamedCheck:
    """`width` in bytes, and which of them goes first. `crc`: the class of crccheck, or empty for `count`."""

    name: str
    width: int
    order: Literal["little", "big"] = "big"
    crc: str = ""
    count: Callable[[bytes], int] = lambda _: 0

    def of(self, data: bytes) -> bytes:
        """The check of some bytes, as it goes over the line."""
        if not self.crc:
            return self.count(data).to_bytes(self.width, self.order)
        kind = getattr(import_module("crccheck.crc"), self.crc)  # it takes a tenth of a second to load
        return int(kind.calc(data)).to_bytes(self.width, self.order)


CHECKS = {
    check.name: check
    for check in (
        NamedCheck("crc16-modbus", 2, "little", "CrcModbus"),
        NamedCheck("crc16-arc", 2, "little", "CrcArc"),
        NamedCheck("crc16-x25", 2, "little", "CrcX25"),
        NamedCheck("crc16-kermit", 2, "little", "CrcKermit"),
        NamedCheck("crc16-xmodem", 2, "big", "CrcXmodem"),
        NamedCheck("crc16-ccitt-false", 2, "big", "Crc16CcittFalse"),
        NamedCheck("crc8-smbus", 1, "big", "Crc8Smbus"),
        NamedCheck("crc8-maxim", 1, "big", "Crc8MaximDow"),
        NamedCheck("crc32", 4, "little", "Crc32"),
        NamedCheck("sum8", 1, count=lambda data: sum(data) & 0xFF),
        NamedCheck("lrc8", 1, count=lambda data: -sum(data) & 0xFF),
        NamedCheck("xor8", 1, count=lambda data: reduce(xor, data, 0)),
        NamedCheck("sum16", 2, count=lambda data: sum(data) & 0xFFFF),
    )
}


def with_check(data: bytes, name: str) -> bytes:
    """Bytes with their check behind them; as they are for an empty name. Raises BadInput for an unknown one."""
    if not name:
        return data
    if name not in CHECKS:
        raise BadInput(f"unknown check “{name}”: known are {', '.join(CHECKS)}")
    return data + CHECKS[name].of(data)
