"""Clocks: the rate that a UART really makes, the error, and what the frame and the oversampling allow.

`actual = clock / (oversample · divisor)` is the rule of the 16550 family (data sheet, baud generator; from memory).
"""

from dataclasses import dataclass
from fractions import Fraction

from humble_courier.domain.settings import Frame, Parity
from humble_courier.errors import BadInput

OTHER_END = 1.5  # percent that the far end may be off too: an RC oscillator or a coarse divider (common practice)
LEAST_SAMPLES, USUAL_SAMPLES = 3, 16  # a majority needs three; sixteen is the rule of the 16550 family
MOST_DIVISOR = 0xFFFF  # sixteen bits of divisor latch


@dataclass(frozen=True)
class Rate:
    """What a clock makes of a wanted rate. `divisor` may have steps below one; rates in bit/s, errors in percent.

    `budget_percent` is what both ends may be off together; `ok` where this end leaves `OTHER_END` of it to the other.
    """

    wanted: float
    divisor: float
    actual: float
    budget_percent: float
    other_percent: float = OTHER_END

    @property
    def error_percent(self) -> float:
        """By how much the rate is off, positive where it is too fast."""
        return (self.actual / self.wanted - 1) * 100

    @property
    def ok(self) -> bool:
        """Whether the frame is still read right with the other end off the other way."""
        return abs(self.error_percent) + self.other_percent <= self.budget_percent


def divide(
    clock: float, rate: float, oversample: int = 16, step: Fraction = Fraction(1), frame: Frame | None = None,
    other: float = OTHER_END,
) -> Rate:  # fmt: skip
    """The nearest rate that a divider makes. `step`: the smallest change of the divisor (1/8, 1/16, … where fractional).

    Raises BadInput for values without sense, and where even the smallest divisor is too slow or the largest too fast.
    """
    if clock <= 0 or rate <= 0 or step <= 0 or not 1 <= oversample <= 64:
        raise BadInput("expected a clock, a rate and a step above 0, and 1 to 64 samples a bit")
    exact = Fraction(clock) / (oversample * Fraction(rate))
    if exact > MOST_DIVISOR:
        raise BadInput(
            f"{rate:g} bit/s cannot be met: it needs a divisor of {float(exact):.0f}, the latch has {MOST_DIVISOR}"
        )
    # Nearest in rate, not in divisor: the two differ where the divisor is small.
    below = max(step, exact // step * step)
    divisor = min((below, below + step), key=lambda d: abs(clock / (oversample * d) - rate))
    # With fewer samples a bit nothing can be received: the clock is given divided already, the receiver takes sixteen.
    budget = tolerance(frame or Frame(), oversample if oversample >= LEAST_SAMPLES else USUAL_SAMPLES)
    return Rate(rate, float(divisor), float(Fraction(clock) / (oversample * divisor)), budget * 100, other)


def tolerance(frame: Frame, oversample: int = 16) -> float:
    """How far both ends together may be off, as a fraction: the smaller of `too_fast` and `too_slow`."""
    return min(too_fast(frame, oversample), too_slow(frame))


def too_fast(frame: Frame, oversample: int = 16) -> float:
    """How much faster the sender may be before the stop bit's sample falls into what comes after it.

    The start is seen up to one tick late; the first stop bit is sampled 0.5 bits into it, and must not have ended.
    """
    bits = 1 + frame.data_bits + (frame.parity is not Parity.NONE)
    return (bits + 1) / (bits + 0.5 + 1 / oversample) - 1


def too_slow(frame: Frame) -> float:
    """How much slower the sender may be before the last bit before the stop bit is sampled in the stop bit's place."""
    bits = 1 + frame.data_bits + (frame.parity is not Parity.NONE)
    return 1 - bits / (bits + 0.5)
