"""The rate that a clock really makes, for a UART of its own and for the bridges that Linux drives."""

from dataclasses import dataclass
from fractions import Fraction

from humble_courier.domain.settings import Frame
from humble_courier.errors import BadInput
from humble_courier.line.bridges import BRIDGES
from humble_courier.line.clocks import Rate, divide


@dataclass(frozen=True)
class BridgeRate:
    """What one kind of bridge makes of a wanted rate, in bit/s; None where it refuses."""

    driver: str
    chip: str
    actual: float | None

    def error_percent(self, wanted: float) -> float:
        """How far off it is; raises TypeError where it is refused."""
        assert self.actual is not None
        return (self.actual / wanted - 1) * 100


def divided(clock: float, rate: float, oversample: int, step: str, frame: str, other_percent: float) -> Rate:
    """What a clock (Hz) makes of a rate (bit/s), divisors in steps of `step` (`1`, `0.125` or `1/8`). Raises BadInput."""
    try:
        steps = Fraction(step)
    except (ValueError, ZeroDivisionError):
        raise BadInput(f"--step {step}: expected a number or a fraction, as in 1/8") from None
    return divide(clock, rate, oversample, steps, Frame.parse(frame), other_percent)


def by_bridges(rate: float) -> list[BridgeRate]:
    """What each bridge makes of a rate; nothing for rates below 1 bit/s."""
    return [BridgeRate(b.driver, b.chip, b.make(round(rate))) for b in BRIDGES] if rate >= 1 else []
