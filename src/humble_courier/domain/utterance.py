"""What one side says without a pause."""

from dataclasses import dataclass, field, replace
from enum import StrEnum

from humble_courier.domain.received import Chunk, Doubt, Heard
from humble_courier.domain.text import printable


class Who(StrEnum):
    """Who says something."""

    WE = "we"
    THEY = "they"


@dataclass
class Utterance:
    """What one side said without a pause: bytes, places of those in doubt; times in seconds since the epoch.

    `meaning`: what it says, for people; `looked_at`: whether that was asked already; `unsent`: how many of its
    last bytes did not leave; `cut`: why it was ended though more came; empty where it ended by itself.
    """

    who: Who
    start: float
    end: float
    said: bytearray = field(default_factory=bytearray)
    doubts: dict[int, Doubt] = field(default_factory=dict)
    meaning: str = ""
    closed: bool = False
    looked_at: bool = False
    unsent: int = 0
    cut: str = ""

    def __len__(self) -> int:
        return len(self.said)

    @property
    def data(self) -> bytes:
        """The bytes, doubtful ones included."""
        return bytes(self.said)

    @property
    def heard(self) -> list[Heard]:
        """Byte by byte."""
        return Chunk(self.data, self.doubts).heard

    @property
    def text(self) -> str:
        """The bytes as text for people."""
        return printable(self.data)

    @property
    def doubtful(self) -> int:
        """How many bytes came with an error."""
        return len(self.doubts)

    def copy(self) -> "Utterance":
        """The same, for another thread."""
        return replace(self, said=self.said[:], doubts=dict(self.doubts))
