"""Received bytes, and whether each of them can be believed."""

from dataclasses import dataclass
from enum import StrEnum


class Doubt(StrEnum):
    """Whether a received byte can be believed."""

    NONE = "none"
    ERROR = "error"  # framing or parity: the tty layer does not say which
    BREAK = "break"


@dataclass(frozen=True)
class Heard:
    """One received byte with its doubt."""

    byte: int
    doubt: Doubt = Doubt.NONE


@dataclass(frozen=True)
class Chunk:
    """Received bytes with the places of those in doubt: what `Heard` says of each, for many at once."""

    data: bytes
    doubts: dict[int, Doubt]

    @property
    def heard(self) -> list[Heard]:
        """Byte by byte."""
        return [Heard(byte, self.doubts.get(i, Doubt.NONE)) for i, byte in enumerate(self.data)]
