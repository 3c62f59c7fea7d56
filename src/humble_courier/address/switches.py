"""Switch banks: from the wanted value to the picture of the switches, and from the switches seen back to the value."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from humble_courier.documents.device import SwitchBank
from humble_courier.errors import BadInput

MOST_SWITCHES = 32  # four banks of eight; a wider one is typed wrong
HEX_DIGITS = "0123456789ABCDEF"


@dataclass(frozen=True)
class Bank:
    """A bank of `width` switches that code a number in binary.

    Switch 1 has weight 1 unless `msb_first`; a switch that is on counts as one unless `on_is_zero` (jumpers: “pin
    covered” is on). The address is the number plus `offset`.
    """

    width: int
    msb_first: bool = False
    on_is_zero: bool = False
    offset: int = 0

    def __post_init__(self) -> None:
        if not 1 <= self.width <= MOST_SWITCHES:
            raise BadInput(f"a bank of {self.width} switches: expected 1 to {MOST_SWITCHES}")

    @property
    def range(self) -> tuple[int, int]:
        """Lowest and highest address."""
        return self.offset, self.offset + (1 << self.width) - 1

    @property
    def weights(self) -> tuple[int, ...]:
        """What each switch counts, in order of switch number."""
        rising = tuple(1 << i for i in range(self.width))
        return rising[::-1] if self.msb_first else rising

    def set_to(self, address: int) -> tuple[int, ...]:
        """Positions (1 on, 0 off) in order of switch number. Raises BadInput where the bank cannot say that address."""
        low, high = self.range
        if not low <= address <= high:
            raise BadInput(f"address {address}: a bank of {self.width} switches reaches from {low} to {high}")
        value = address - self.offset
        return tuple(int(bool(value & weight) != self.on_is_zero) for weight in self.weights)

    def read(self, switches: Sequence[int]) -> int:
        """The address of switches as seen. Raises BadInput where their count or a position is wrong."""
        if len(switches) != self.width:
            raise BadInput(f"{len(switches)} switches seen, the bank has {self.width}: count again, from switch 1")
        if any(position not in (0, 1) for position in switches):
            raise BadInput("a switch is on (1) or off (0)")
        pairs = zip(self.weights, switches, strict=True)
        return self.offset + sum(weight for weight, on in pairs if bool(on) != self.on_is_zero)


@dataclass(frozen=True)
class Table:
    """A bank whose positions stand for texts, such as rates. Keys are positions in order of switch number, as `010`."""

    rows: Mapping[str, str] = field(default_factory=dict)

    @property
    def width(self) -> int:
        """How many switches the table speaks of."""
        return len(next(iter(self.rows), ""))

    def set_to(self, wanted: str) -> tuple[int, ...]:
        """Positions for a text. Raises BadInput where the table has no such row."""
        found = next((key for key, text in self.rows.items() if text == wanted), None)
        if found is None:
            raise BadInput(f"“{wanted}” is not in the table: it has {', '.join(dict.fromkeys(self.rows.values()))}")
        return tuple(int(c) for c in found)

    def read(self, switches: Sequence[int]) -> str:
        """The text of switches as seen. Raises BadInput for a position that the table does not name."""
        if len(switches) != self.width:
            raise BadInput(f"{len(switches)} switches seen, the table has {self.width}: count again, from switch 1")
        key = "".join(str(s) for s in switches)
        if key not in self.rows:
            raise BadInput(f"positions {key} are not in the table: another firmware may have another table")
        return self.rows[key]


def coded(bank: SwitchBank) -> Bank | Table:
    """How a bank of a device sheet is read."""
    return Table(bank.table) if bank.table else Bank(bank.width, bank.msb_first or bank.rotary, bank.on_is_zero, bank.offset)


def parse_positions(text: str) -> tuple[int, ...]:
    """Positions as people write them: `1,0,1,1`, `1011`, `on off on`, `up down up`; `-` or `x` cannot be read.

    Raises BadInput for anything else, with what was expected.
    """
    words = text.replace(",", " ").split()
    if len(words) == 1 and set(words[0]) <= {"0", "1"}:
        words = list(words[0])
    known = {"1": 1, "on": 1, "up": 1, "covered": 1, "closed": 1, "0": 0, "off": 0, "down": 0, "open": 0}
    if not words or any(word.lower() not in known for word in words):
        raise BadInput(f"switches “{text}”: expected 1 and 0, or on and off, from switch 1 on, as in 1,0,1,1")
    return tuple(known[word.lower()] for word in words)


def hex_switches(value: int, count: int) -> str:
    """The arrows of rotary hexadecimal switches for a value, highest digit first. Raises BadInput beyond their reach."""
    if not 0 <= value < 16**count:
        raise BadInput(f"{value}: {count} rotary switches reach from 0 to {16**count - 1}")
    return "".join(HEX_DIGITS[value >> 4 * i & 15] for i in reversed(range(count)))


def seen_from(switches: Sequence[int], upside_down: bool) -> tuple[int, ...]:
    """Positions from left to right as one sees the bank: upside down, switch 1 is at the right and on looks off."""
    return tuple(1 - s for s in reversed(switches)) if upside_down else tuple(switches)
