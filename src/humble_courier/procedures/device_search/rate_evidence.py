"""What was heard during a search as evidence of the rate, where the tables know such a receiver."""

import numpy as np
from numpy.typing import NDArray

from humble_courier.domain.received import Doubt
from humble_courier.domain.settings import Frame, Parity, Settings
from humble_courier.line.belief.belief import CERTAIN, Belief, counted
from humble_courier.line.belief.listening import FEWEST_VALUES
from humble_courier.procedures.steps import Outcome

FEW = 6  # characters below which nothing is said against a rate


class RateEvidence:
    """Of one port, over all that was heard there."""

    def __init__(self) -> None:
        self._belief = Belief()
        self._weighed = 0

    def weigh(self, opened: Settings, outcome: Outcome) -> None:
        """Take in what was heard."""
        if not _tabled(opened):
            return
        values, errors = symbols(outcome)
        self._weighed += len(values)
        receiver = Settings(opened.rate, Frame(opened.frame.data_bits, opened.frame.parity))
        self._belief.listen(receiver, counted(values, errors))

    def doubts(self, opened: Settings) -> bool:
        """Whether what was heard so far speaks against a rate."""
        return _tabled(opened) and self._weighed >= FEW and self._belief.rates().get(opened.rate, 0.0) < 0.5

    def sure(self, settings: Settings, heard: bytes) -> bool:
        """Whether a clean answer is no accident of another rate."""
        if not _tabled(settings):
            return len(set(heard)) >= FEWEST_VALUES
        return self._belief.rates().get(settings.rate, 0.0) >= CERTAIN

    @property
    def rates(self) -> dict[int, float]:
        """Probability of each rate."""
        return self._belief.rates()


def symbols(outcome: Outcome) -> tuple[NDArray[np.uint8], NDArray[np.bool_]]:
    """Values and errors of what was heard."""
    values = np.array([one.byte for _, one in outcome.heard], np.uint8)
    errors = np.array([one.doubt is not Doubt.NONE for _, one in outcome.heard], bool)
    return values, errors


def _tabled(opened: Settings) -> bool:
    """Whether the tables know what such a receiver makes of others: its characters have ten bits in all."""
    return opened.frame.data_bits + (opened.frame.parity is not Parity.NONE) == 8
