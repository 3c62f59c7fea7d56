"""Amounts that a picture shows: how much of what is allowed is used, and what takes its turn on the line and how long."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Budget:
    """How much is used of what is allowed, in words and as numbers of one unit; `least`: so much is needed at least.

    Without `allowed` there is nothing to compare with, and only the words are shown.
    """

    what: str
    told: str
    used: float = 0.0
    allowed: float | None = None
    least: bool = False

    @property
    def good(self) -> bool:
        """Whether it is within what is allowed, or reaches what is needed."""
        if self.allowed is None:
            return True
        return self.used >= self.allowed if self.least else self.used <= self.allowed


@dataclass(frozen=True)
class Stint:
    """What takes its turn, from when and how long, in seconds. `waits`: nothing is on the line meanwhile."""

    what: str
    start_s: float
    seconds: float
    waits: bool = False


@dataclass(frozen=True)
class Turns:
    """What takes its turn one after the other under one name."""

    name: str
    spans: tuple[Stint, ...]

    @property
    def end_s(self) -> float:
        """When the last is over."""
        return max((span.start_s + span.seconds for span in self.spans), default=0.0)


def in_turn(name: str, steps: list[tuple[str, float, bool]]) -> Turns:
    """Steps (what, seconds, whether the line is idle) that follow each other; those that take no time are left out."""
    spans, at = [], 0.0
    for what, seconds, waits in steps:
        if seconds > 0:
            spans.append(Stint(what, at, seconds, waits))
        at += seconds
    return Turns(name, tuple(spans))
