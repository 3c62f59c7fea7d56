"""What a procedure wants done at a port, and what came of it: between machines that decide and the driver that acts."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Protocol

from humble_courier.domain.lines import Lines
from humble_courier.domain.received import Doubt, Heard
from humble_courier.domain.settings import Settings
from humble_courier.errors import CourierError


@dataclass(frozen=True)
class Step:
    """Open (or set anew) a port, say something or nothing, and listen.

    Listening ends after `seconds`, or once `enough` bytes came, or when nothing came for `quiet_s` after the first byte.
    `lines`: RTS and DTR to set before. `action`: what this step is, in a word for the log. `rest_s`: silence before it.
    `then`: what else is said, each `between_s` after the last was handed over (the first of them `first_s` after, where
    that is another time), as long as nothing has answered; `seconds` count from the last.
    """

    address: str
    settings: Settings
    say: bytes = b""
    seconds: float = 1.0
    enough: int = 1 << 20
    quiet_s: float = 0.15
    lines: tuple[bool, bool] | None = None
    action: str = "listen"
    rest_s: float = 0.0
    then: tuple[bytes, ...] = ()
    between_s: float = 0.0
    first_s: float = 0.0


@dataclass(frozen=True)
class Outcome:
    """What came: characters with their times (seconds since the begin of the first words), how long it all took.

    `said_at`: when each of the words was handed over, in the same seconds; shorter than what was to be said where an answer
    came between.
    """

    heard: Sequence[tuple[float, Heard]] = ()
    seconds: float = 0.0
    refusal: CourierError | None = None
    lines: Lines = field(default_factory=Lines)
    marked: bool = True  # whether damaged characters are told
    said_at: tuple[float, ...] = ()

    @property
    def data(self) -> bytes:
        """The bytes, doubtful ones included."""
        return bytes(one.byte for _, one in self.heard)

    @property
    def doubtful(self) -> int:
        """How many came with an error."""
        return sum(one.doubt is not Doubt.NONE for _, one in self.heard)


class Procedure(Protocol):
    """A machine that is asked what to do next and told what came of it."""

    def next(self) -> Step | None:
        """The next step; None when it is over."""

    def done(self, step: Step, outcome: Outcome) -> None:
        """What came of a step."""
