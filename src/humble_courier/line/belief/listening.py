"""Listening again and again until rate and frame are certain: which settings to open with next, and when it is enough.

Fed with what was received; opens nothing. First listens with 8N1 at the rates that tell most; when the rate is certain, with
8N1 at that rate, which tells most about the frame; then with the likeliest frame until one is read without errors. A last
listen, four times as fast, guards against short bursts that look like slow characters, if none was so fast before.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from humble_courier.domain.settings import Frame, Parity, Settings
from humble_courier.line.belief.belief import Belief, counted
from humble_courier.line.wave import parity_bit

CERTAIN = 0.99  # of the rate, before it is opened with
FIRST = 38400  # of all first rates the one that leaves the least to ask (benchmarks/test_settings.py)
FEWEST = 14  # bytes, and so many different values of them, from which one parity of all is no accident
FEWEST_VALUES = 6  # of different bytes that must share a parity before it is believed: (1/2)^6 by accident
MOST_ERRORS = 0.01  # of the bytes of a frame that is right: noise
ENOUGH = 3.9  # nats of evidence for a parity over none: odds of 50 to 1
GUARD, GUARDS = 4, (1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200, 230400, 460800, 921600)
MOST_LISTENS = 40  # far beyond what any traffic of the tables takes (benchmarks/test_settings.py)


@dataclass(frozen=True)
class Certain:
    """The answer: settings, and other frames that no receiver could tell from it."""

    settings: Settings
    equivalent: tuple[str, ...] = ()


class Listening:
    """Ask `next`, open so, listen, tell `heard`; until `answer` is there or `given_up`."""

    def __init__(self) -> None:
        self.belief = Belief()
        self.answer: Certain | None = None
        self.listens = 0
        self._opened: set[int] = set()
        self._accepted: Certain | None = None

    @property
    def given_up(self) -> bool:
        """Whether so many listens led nowhere."""
        return self.listens >= MOST_LISTENS

    def next(self) -> Settings:
        """With which settings to open now."""
        if self.listens == 0:
            return Settings(FIRST)
        rates = self.belief.rates()
        rate = max(rates, key=lambda r: rates[r])
        if rates[rate] < CERTAIN:
            return Settings(self.belief.next_receiver())
        if self._accepted is not None and self._accepted.settings.rate == rate:
            return Settings(_guard_of(rate))
        if rate not in self._opened:
            return Settings(rate)
        best = next((b for b in self.belief.told() if b.rate == rate), None)
        return Settings(rate, _opened_with(best.frame) if best is not None else Frame())

    def heard(self, opened: Settings, values: NDArray[np.uint8], errors: NDArray[np.bool_]) -> None:
        """What was received with those settings."""
        self.listens += 1
        eight = opened.frame.data_bits == 8 and opened.frame.parity is Parity.NONE
        if eight:
            self.belief.listen(opened, counted(values, errors))
        if eight:
            self._opened.add(opened.rate)
        rates = self.belief.rates()
        found = self._accepted
        if found is not None and opened == Settings(_guard_of(found.settings.rate)):
            self.answer = found if rates[found.settings.rate] >= CERTAIN else None
            self._accepted = None
        elif rates.get(opened.rate, 0.0) >= CERTAIN and len(values) >= FEWEST:
            if errors.mean() > MOST_ERRORS:
                self.belief.refute(opened.rate, opened.frame)
            else:
                self._accepted = _accepted(opened, values)
                if any(rate >= ENOUGH * opened.rate for rate in self._opened):  # an earlier listen was the guard already
                    self.answer = self._accepted


def _opened_with(frame: Frame) -> Frame:
    """Two stop bits are received as one is."""
    return Frame(frame.data_bits, frame.parity)


def _guard_of(rate: int) -> int:
    """The rate of the last listen."""
    return min(GUARDS, key=lambda g: abs(g - GUARD * rate))


def _accepted(opened: Settings, values: NDArray[np.uint8]) -> Certain:
    """The frame that fits what was read without errors. Eight bits that all have one parity are seven and that parity."""
    frame = opened.frame
    told = len(values) >= FEWEST and len(np.unique(values)) >= FEWEST_VALUES
    if frame.data_bits == 8 and told:
        odd = np.unique(parity_bit(values, Parity.EVEN))
        if frame.parity is Parity.NONE and (values > 127).all():
            return Certain(opened.with_frame(Frame(7, Parity.NONE, 2)), ("8N1", "8N2"))
        if len(odd) == 1 and (values > 127).any():
            parity = Parity.ODD if odd[0] else Parity.EVEN
            return Certain(opened.with_frame(Frame(7, parity)), (f"7{parity}2", "8N1", "8N2"))
    two = str(Frame(frame.data_bits, frame.parity, 2))
    return Certain(opened, (two, "8N1", "8N2") if frame.data_bits == 7 else (two,))  # seven bits and one are eight
