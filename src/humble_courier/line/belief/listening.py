"""Listening again and again until rate and frame are certain: which settings to open with next, and when it is enough.

Fed with what was received; opens nothing. First listens with 8N1 at the rates that tell most; when the rate is certain, with
8N1 at that rate, which tells most about the frame; then with the likeliest frame until one is read without errors. A last
listen, four times as fast, guards against short bursts that look like slow characters, if none was so fast before.

A stream without pauses that is opened within a character is out of step at first: what came before the last error of the
first half is left aside, and settings that lead are opened a second time before errors take them down.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from humble_courier.domain.settings import Frame, Parity, Settings
from humble_courier.line.belief.belief import CERTAIN, Belief, in_order
from humble_courier.line.wave import parity_bit

FIRST = 38400  # of all first rates the one that leaves the least to ask (benchmarks/test_settings.py)
FEWEST = 14  # bytes, and so many different values of them, from which one parity of all is no accident
FEWEST_VALUES = 6  # of different bytes that must share a parity before it is believed: (1/2)^6 by accident
MOST_ERRORS = 0.01  # of the bytes of a frame that is right: noise
ENOUGH = 3.9  # times as fast as the sender an earlier listen was the guard already: four, less the clocks' error
STRAY = 32  # bytes of which one may be damaged and have the other parity
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
        self._again: set[Settings] = set()

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
        if opened.frame.data_bits == 8 and opened.frame.parity is Parity.NONE:
            self.belief.listen_in_order(opened, in_order(values, errors))
            self._opened.add(opened.rate)
        rates = self.belief.rates()
        found = self._accepted
        if found is not None and opened == Settings(_guard_of(found.settings.rate)):
            self.answer = found if rates[found.settings.rate] >= CERTAIN else None
            self._accepted = None
        elif rates.get(opened.rate, 0.0) >= CERTAIN and len(values) >= FEWEST:
            self._judge(opened, *in_step(values, errors))

    def _judge(self, opened: Settings, values: NDArray[np.uint8], errors: NDArray[np.bool_]) -> None:
        if errors.mean() <= MOST_ERRORS:
            self._accepted = _accepted(opened, values)
            if any(rate >= ENOUGH * opened.rate for rate in self._opened):  # an earlier listen was the guard already
                self.answer = self._accepted
        elif opened in self._again or not self._leads(opened):
            self.belief.refute(opened.rate, opened.frame)
        else:  # a stream without pauses that was opened within a character may be out of step throughout: open it again
            self._again.add(opened)

    def _leads(self, opened: Settings) -> bool:
        """Whether what was heard speaks for these settings, errors and all."""
        told = self.belief.told()[0]
        return (told.rate, _opened_with(told.frame)) == (opened.rate, _opened_with(opened.frame))


def in_step(values: NDArray[np.uint8], errors: NDArray[np.bool_]) -> tuple[NDArray[np.uint8], NDArray[np.bool_]]:
    """What came after the receiver was in step: opened within a character, it errs until a fall is a start bit.

    Where errors come in the second half too, all that came.
    """
    wrong = np.flatnonzero(errors)
    if not len(wrong) or wrong[-1] >= len(errors) // 2 or len(errors) - wrong[-1] - 1 < FEWEST:
        return values, errors
    return values[wrong[-1] + 1 :], errors[wrong[-1] + 1 :]


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
        odd = parity_bit(values, Parity.EVEN)
        few = min(int(odd.sum()), int((1 - odd).sum()))
        if frame.parity is Parity.NONE and (values > 127).all():
            return Certain(opened.with_frame(Frame(7, Parity.NONE, 2)), ("8N1", "8N2"))
        if few <= len(values) // STRAY and (values > 127).any():
            parity = Parity.ODD if 2 * odd.sum() > len(odd) else Parity.EVEN
            return Certain(opened.with_frame(Frame(7, parity)), (f"7{parity}2", "8N1", "8N2"))
    two = str(Frame(frame.data_bits, frame.parity, 2))
    return Certain(opened, (two, "8N1", "8N2") if frame.data_bits == 7 else (two,))  # seven bits and one are eight
