"""A signal on a contact, as `"TXD out rs232"`: name, direction seen from that port, level."""

from dataclasses import dataclass
from enum import StrEnum
from typing import Self

from humble_courier.errors import BadInput


class Direction(StrEnum):
    """Seen from the port that has the contact."""

    OUT = "out"
    IN = "in"
    BOTH = "both"
    PASSIVE = "passive"


class Level(StrEnum):
    """The electrical family of a contact; limits stand in the catalog (`levels.yaml`)."""

    RS232 = "rs232"
    RS422 = "rs422"
    RS485 = "rs485"
    TTL_5V = "ttl-5v"
    CMOS_3V3 = "cmos-3v3"
    CMOS_1V8 = "cmos-1v8"
    LOOP_20MA = "loop-20ma"
    CAN = "can"
    J1708 = "j1708"
    K_LINE = "k-line"
    J1850 = "j1850"
    GPIB = "gpib"
    USB = "usb"
    POWER_5V = "power-5v"
    POWER_3V3 = "power-3v3"
    POWER_12V = "power-12v"
    POWER_24V = "power-24v"
    GROUND = "ground"
    SHIELD = "shield"


class Role(StrEnum):
    """What a signal is for; decides which findings matter."""

    DATA = "data"
    HANDSHAKE = "handshake"
    GROUND = "ground"
    SHIELD = "shield"
    POWER = "power"


RTS_CTS, DTR_DSR = frozenset({"RTS", "CTS"}), frozenset({"DTR", "DSR", "DCD"})
_HANDSHAKE = RTS_CTS | DTR_DSR | {"RI"}


@dataclass(frozen=True)
class Signal:
    """Name, direction and level of one contact of a port."""

    name: str
    direction: Direction
    level: Level

    @classmethod
    def parse(cls, text: str) -> Self:
        """Read `"TXD out rs232"`; `"GND"` is short for `"GND passive ground"`. Raises BadInput."""
        words = text.split()
        if words == ["GND"]:
            words = ["GND", "passive", "ground"]
        if len(words) != 3:
            raise BadInput(f"signal “{text}”: expected NAME DIRECTION LEVEL, as in TXD out rs232, or GND")
        try:
            direction = Direction(words[1])
        except ValueError:
            raise BadInput(f"signal “{text}”: direction “{words[1]}” is not one of {', '.join(Direction)}") from None
        try:
            return cls(words[0], direction, Level(words[2]))
        except ValueError:
            raise BadInput(f"signal “{text}”: level “{words[2]}” is not one of {', '.join(Level)}") from None

    @property
    def role(self) -> Role:
        """Supply, ground and screen follow from the level; handshake lines from their standard names."""
        if self.level is Level.GROUND:
            return Role.GROUND
        if self.level is Level.SHIELD:
            return Role.SHIELD
        if self.level.startswith("power"):
            return Role.POWER
        if self.level is Level.K_LINE and self.name.upper() == "L":
            return Role.HANDSHAKE  # it helps to wake a unit by five baud, and many vehicles have none (ISO 9141-2, 5.2)
        return Role.HANDSHAKE if self.name.upper() in _HANDSHAKE else Role.DATA

    @property
    def drives(self) -> bool:
        """Puts a level on its conductor."""
        return self.direction in (Direction.OUT, Direction.BOTH)

    @property
    def hears(self) -> bool:
        """Needs a level on its conductor."""
        return self.direction in (Direction.IN, Direction.BOTH)

    def __str__(self) -> str:
        return f"{self.name} {self.direction} {self.level}"
