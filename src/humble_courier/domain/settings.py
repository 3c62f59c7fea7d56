"""Settings of one end of an asynchronous line: `RATE,FRAME[,HANDSHAKE]`, as in `1200,7E1,xon-xoff`."""

import re
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Self

from humble_courier.errors import BadInput

LOWEST_RATE, HIGHEST_RATE = 45, 12_000_000  # 45.45 bit/s telex up to the fastest USB bridges; beyond is a typing slip


class Parity(StrEnum):
    """The parity bit of a character, by the letter used in settings."""

    NONE = "N"
    EVEN = "E"
    ODD = "O"
    MARK = "M"
    SPACE = "S"


class Handshake(StrEnum):
    """How one end holds the other back."""

    NONE = "none"
    RTS_CTS = "rts-cts"
    DTR_DSR = "dtr-dsr"
    XON_XOFF = "xon-xoff"


_FRAME = re.compile(r"([5-8])([NEOMS])(1|1\.5|2)", re.IGNORECASE)


@dataclass(frozen=True)
class Frame:
    """One character on the line: a start bit, `data_bits` from the lowest up, perhaps parity, `stop_bits`."""

    data_bits: int = 8
    parity: Parity = Parity.NONE
    stop_bits: float = 1

    @classmethod
    def parse(cls, text: str) -> Self:
        """Read `8N1`, `7E1`, `5N1.5`; raises BadInput with what was expected."""
        match = _FRAME.fullmatch(text.strip())
        if not match:
            raise BadInput(
                f"frame “{text}” is not known: expected data bits 5 to 8, parity N, E, O, M or S, "
                "stop bits 1, 1.5 or 2, as in 8N1 or 7E1"
            )
        stop = float(match[3])
        return cls(int(match[1]), Parity(match[2].upper()), int(stop) if stop.is_integer() else stop)

    @property
    def bits(self) -> float:
        """Length of the whole character in bit times, start and stop bits included."""
        return 1 + self.data_bits + (self.parity is not Parity.NONE) + self.stop_bits

    def __str__(self) -> str:
        return f"{self.data_bits}{self.parity}{self.stop_bits}"


@dataclass(frozen=True)
class Settings:
    """Rate in bit/s, frame and handshake of one end."""

    rate: int
    frame: Frame = Frame()
    handshake: Handshake = Handshake.NONE

    @classmethod
    def parse(cls, text: str) -> Self:
        """Read `RATE,FRAME[,HANDSHAKE]`, as it is spoken too (spaces); raises BadInput naming the part that is wrong."""
        parts = text.replace(",", " ").split()
        if len(parts) not in (2, 3):
            raise BadInput(f"settings “{text}”: expected RATE,FRAME or RATE,FRAME,HANDSHAKE, as in 9600,8N1")
        if not parts[0].isdecimal() or not LOWEST_RATE <= int(parts[0]) <= HIGHEST_RATE:
            raise BadInput(
                f"settings “{text}”: rate “{parts[0]}” is not a whole number from {LOWEST_RATE} to {HIGHEST_RATE}"
            )
        handshake = Handshake.NONE
        if len(parts) == 3:
            try:
                handshake = Handshake(parts[2].lower())
            except ValueError:
                known = ", ".join(Handshake)
                raise BadInput(f"settings “{text}”: handshake “{parts[2]}” is not one of {known}") from None
        return cls(int(parts[0]), Frame.parse(parts[1]), handshake)

    @property
    def character_s(self) -> float:
        """Time of one character in seconds."""
        return self.frame.bits / self.rate

    def differences(self, other: "Settings") -> list[str]:
        """Names of the settings in which two ends differ, in the order in which one would mend them."""
        mine, theirs = self.frame, other.frame
        pairs = [
            ("rate", self.rate, other.rate),
            ("data bits", mine.data_bits, theirs.data_bits),
            ("parity", mine.parity, theirs.parity),
            ("stop bits", mine.stop_bits, theirs.stop_bits),
            ("handshake", self.handshake, other.handshake),
        ]
        return [name for name, a, b in pairs if a != b]

    def with_frame(self, frame: Frame) -> "Settings":
        """The same end with another frame."""
        return replace(self, frame=frame)

    def __str__(self) -> str:
        text = f"{self.rate},{self.frame}"
        return text if self.handshake is Handshake.NONE else f"{text},{self.handshake}"

    @property
    def spoken(self) -> str:
        """For people: `1200 7E1`, with the handshake if there is one."""
        return str(self).replace(",", " ")
