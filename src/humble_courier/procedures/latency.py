"""The round trip: how long an answer takes, many times, against what protocols wait for."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np

from humble_courier.domain.settings import Settings
from humble_courier.errors import CourierError
from humble_courier.procedures.steps import Outcome, Step

TIMES = 60  # enough for a 95th percentile of three values
QUIET_S = 0.03  # after which an answer is over: more than an adapter gathers for (common practice)
WAIT_S = 1.0  # no adapter holds a byte back for longer (common practice)
SPARE = 1.5  # what a good round trip leaves: the slowest must fit that often into what the protocol waits


class WaitFit(StrEnum):
    """Whether a protocol bears such round trips."""

    GOOD = "good"
    MARGINAL = "marginal"
    FAILS = "will-fail"


@dataclass(frozen=True)
class GoodFor:
    """A protocol, what it waits for in ms, and how the measured times stand to that."""

    protocol: str
    waits_ms: float
    verdict: WaitFit
    why: str


@dataclass
class Latency:
    """A procedure: says something short again and again, and notes when the first byte of the answer came."""

    address: str
    settings: Settings
    say: bytes = b"U"
    times: int = TIMES
    ms: list[float] = field(default_factory=list)
    missed: int = 0
    echoed: int = 0  # how often our own words came back first
    plug: bool = False  # nothing but our own words came back, however long we listened
    refused: CourierError | None = None

    def next(self) -> Step | None:
        """Once more."""
        if self.refused or len(self.ms) + self.missed >= self.times or (self.missed >= 5 and not self.ms):
            return None
        quiet = QUIET_S + 4 * self.settings.character_s  # the rest of an answer must not be taken for the next one
        enough = len(self.say) if self.plug else 1 << 20  # our own words are over once they are back whole
        return Step(self.address, self.settings, self.say, WAIT_S, enough, quiet, action="ask and time")

    def done(self, step: Step, outcome: Outcome) -> None:  # noqa: ARG002
        """Note the time of the first byte, counted from the write."""
        if outcome.refusal is not None:
            self.refused = outcome.refusal
        elif outcome.heard:
            self.ms.append(outcome.heard[0][0] * 1000)
            self.plug = self.plug or outcome.data == self.say
            self.echoed += outcome.data.startswith(self.say)
        else:
            self.missed += 1

    @property
    def line_ms(self) -> float:
        """What the line itself takes of that: the words there, and one character back.

        A plug, or a device that echoes, hands the first character back while the next is being sent: that takes one.
        """
        characters = 1 if self.ms and self.echoed == len(self.ms) else len(self.say) + 1
        return characters * self.settings.character_s * 1000

    def figures(self) -> dict[str, float] | None:
        """Median, 95th percentile and the slowest in ms; None where nothing came."""
        if not self.ms:
            return None
        p50, p95 = np.percentile(self.ms, [50, 95])
        return {"p50": float(p50), "p95": float(p95), "max": max(self.ms)}

    def good_for(self, waits: Sequence[tuple[str, float]]) -> list[GoodFor]:
        """How protocols stand to it; `waits`: names with the time in ms that each waits at most."""
        told = self.figures()
        return [judged(name, allowed, told) for name, allowed in waits] if told else []


def judged(name: str, allowed_ms: float, told: dict[str, float]) -> GoodFor:
    """Good where even the slowest leaves room, marginal where some will be late, else it fails."""
    slowest, usual = told["max"], told["p95"]
    if slowest * SPARE <= allowed_ms:
        return GoodFor(
            name, allowed_ms, WaitFit.GOOD, f"the slowest of {slowest:.1f} ms leaves room below {allowed_ms:g} ms"
        )
    if usual <= allowed_ms:
        return GoodFor(
            name,
            allowed_ms,
            WaitFit.MARGINAL,
            f"19 of 20 take up to {usual:.1f} ms of {allowed_ms:g}; the slowest {slowest:.1f}",
        )
    return GoodFor(
        name, allowed_ms, WaitFit.FAILS, f"1 of 20 takes more than {usual:.1f} ms, and it waits {allowed_ms:g} ms"
    )
