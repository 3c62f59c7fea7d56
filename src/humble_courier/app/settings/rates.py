"""The rate that a clock really makes, for a UART of its own and for the bridges that Linux drives."""

from dataclasses import dataclass
from fractions import Fraction

from humble_courier.domain.settings import Frame
from humble_courier.errors import BadInput
from humble_courier.line.bridges import BRIDGES, Bridge, How, kinds_of
from humble_courier.line.clocks import Rate, divide, tolerance

TOLD = {
    How.EXACT: "as asked", How.NEAREST: "the nearest that its divider makes",
    How.SNAPPED: "snapped to a rate of its list", How.CLAMPED: "clamped to its limit",
    How.DEFAULT: "too high for it: it sets 9600 and tells nobody",
}  # fmt: skip


@dataclass(frozen=True)
class BridgeRate:
    """What one kind of bridge makes of a wanted rate, in bit/s; None where nothing says what it does. `ok`: read right."""

    driver: str
    kind: str
    chip: str
    wanted: float
    actual: float | None
    how: How | None
    ok: bool

    @property
    def error_percent(self) -> float | None:
        """How far off it is; None where it is not known."""
        return None if self.actual is None else (self.actual / self.wanted - 1) * 100

    @property
    def told(self) -> str:
        """In words."""
        if self.actual is None or self.how is None or self.error_percent is None:
            return "nothing says what it makes of this rate"
        return f"{self.actual:.0f} bit/s ({self.error_percent:+.2f} %), {TOLD[self.how]}"


def divided(clock: float, rate: float, oversample: int, step: str, frame: str, other_percent: float) -> Rate:
    """What a clock (Hz) makes of a rate (bit/s), divisors in steps of `step` (`1`, `0.125` or `1/8`). Raises BadInput."""
    try:
        steps = Fraction(step)
    except (ValueError, ZeroDivisionError):
        raise BadInput(f"--step {step}: expected a number or a fraction, as in 1/8") from None
    return divide(clock, rate, oversample, steps, Frame.parse(frame), other_percent)


def by_bridges(rate: float, frame: str = "8N1") -> list[BridgeRate]:
    """What each bridge makes of a rate; nothing for rates below 1 bit/s."""
    return [_made(bridge, rate, frame) for bridge in BRIDGES] if rate >= 1 else []


def by_bridge(named: str, rate: float, frame: str) -> list[BridgeRate]:
    """What one driver makes of a rate, or one kind of it (`cp210x/table`). Raises BadInput."""
    driver, _, kind = named.partition("/")
    kinds = [bridge for bridge in kinds_of(driver) if not kind or bridge.kind == kind]
    if not kinds:
        known = ", ".join(f"{bridge.driver}/{bridge.kind}" for bridge in BRIDGES)
        raise BadInput(f"--bridge {named}: known are {known}")
    if rate < 1:
        raise BadInput(f"--rate {rate}: no bridge goes below 1 bit/s")
    return [_made(bridge, rate, frame) for bridge in kinds]


def budget_percent(frame: str) -> float:
    """How far both ends together may be off. Raises BadInput for a frame that is none."""
    return tolerance(Frame.parse(frame)) * 100


def _made(bridge: Bridge, rate: float, frame: str) -> BridgeRate:
    made = bridge.make(round(rate))
    budget = tolerance(Frame.parse(frame)) / 2  # half of what both ends may be off together
    ok = made.actual is not None and abs(made.actual / rate - 1) <= budget
    return BridgeRate(bridge.driver, bridge.kind, bridge.chip, rate, made.actual, made.how, ok)
