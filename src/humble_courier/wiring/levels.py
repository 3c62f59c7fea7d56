"""Whether one electrical family hears another, and whether it survives it; limits come from the catalog."""

from collections.abc import Mapping
from enum import StrEnum

from humble_courier.catalog.entries import LevelEntry, Volts
from humble_courier.domain.signals import Level, Signal

Levels = Mapping[Level, LevelEntry]


class LevelFit(StrEnum):
    """What happens when a driver of one family meets a receiver of another."""

    GOOD = "good"
    MISMATCH = "mismatch"
    DAMAGE = "damage"


def _inside(inner: Volts | None, outer: Volts | None) -> bool:
    return inner is not None and outer is not None and outer.low <= inner.low and inner.high <= outer.high


def survives(levels: Levels, contact: Level, driven_by: Level) -> bool:
    """Whether a contact of family `contact` stands the volts that `driven_by` puts out, by its limits."""
    limit, source = levels[contact].survives, levels[driven_by]
    if source.supply_v is not None:
        return limit.low <= source.supply_v and max(source.supply_v, source.peak_v or 0) <= limit.high
    ranges = [volts for volts in (source.sends_mark, source.sends_space) if volts is not None]
    return all(_inside(volts, limit) for volts in ranges)


def fit(levels: Levels, driver: Level, receiver: Level) -> LevelFit:
    """How a receiver of one family takes a driver of another."""
    if driver is receiver:
        return LevelFit.GOOD
    if not survives(levels, receiver, driver):
        return LevelFit.DAMAGE
    out, into = levels[driver], levels[receiver]
    if out.signalling != into.signalling:
        return LevelFit.MISMATCH
    if out.signalling == "differential":
        return LevelFit.GOOD
    heard = _inside(out.sends_mark, into.takes_mark) and _inside(out.sends_space, into.takes_space)
    return LevelFit.GOOD if heard else LevelFit.MISMATCH


def leg(levels: Levels, signal: Signal) -> str | None:
    """Which wire of a pair a signal is: `A` or `B`; None for lines that are not pairs.

    TIA-485-A letters, plus and minus marks, and high and low of CAN and J1708 are all met in the field.
    """
    if levels[signal.level].signalling not in ("differential", "dominant", "current"):
        return None
    name = signal.name.upper()
    if name.endswith(("A", "-", "L", "N")):
        return "A"
    return "B" if name.endswith(("B", "+", "H", "P")) else None
