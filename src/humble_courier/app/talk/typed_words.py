"""Words as a person types them into the window: how they are written, what ends them, how often, what is waited for."""

from dataclasses import dataclass
from enum import StrEnum

from humble_courier.app.typed import number
from humble_courier.domain.text import Terminator, octets
from humble_courier.errors import BadInput
from humble_courier.protocols.checks import CHECKS, with_check
from humble_courier.protocols.spelled import numbers, spelled

CHECK_NAMES = tuple(CHECKS)
SHORTEST_REPEAT_S, LONGEST_REPEAT_S = 0.05, 3600.0  # faster than that no device answers; slower is no repeating


class Written(StrEnum):
    """How what is typed is meant."""

    PLAIN = "text"
    ESCAPES = "escapes"
    HEX = "hex"


@dataclass(frozen=True)
class Typed:
    """What was typed. `every`: seconds between two times, empty for once; `expect`: a pattern that is waited for.

    `check`: the name of one that goes behind the words (before their end), empty for none.
    """

    words: str
    written: Written = Written.PLAIN
    end: Terminator = Terminator.CR
    every: str = ""
    expect: str = ""
    check: str = ""

    @property
    def octets(self) -> bytes:
        """The bytes to send; bytes in hexadecimal are sent without a terminator. Raises BadInput."""
        if self.written is Written.HEX:
            return with_check(numbers(self.words), self.check)
        plain = spelled(self.words) if self.written is Written.ESCAPES else octets(self.words)
        return with_check(plain, self.check) + self.end.octets

    @property
    def spoken(self) -> str:
        """What is sent, and how it ends, in words."""
        check = f" with {self.check}" if self.check else ""
        if self.written is Written.HEX:
            return f"{self.words}{check}, in hex"
        return f"“{self.words}”{check} and {self.end.spoken}"

    @property
    def every_s(self) -> float | None:
        """Seconds between two times; None for once. Raises BadInput."""
        if not self.every:
            return None
        seconds = number(self.every)
        if seconds is None or not SHORTEST_REPEAT_S <= seconds <= LONGEST_REPEAT_S:
            raise BadInput(f"“{self.every}”: expected {SHORTEST_REPEAT_S:g} to {LONGEST_REPEAT_S:g} seconds")
        return seconds
