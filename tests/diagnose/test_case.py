"""A case from the first fact to its end."""

import pytest

from humble_courier.catalog.load import Catalog
from humble_courier.diagnose.case import Case
from humble_courier.diagnose.model import model_of

CATALOG = Catalog()
MODEL = model_of(CATALOG.causes, CATALOG.checks, {"usb", "serial", "rs232", "text"}, {"meter", "crossing"})


def test_an_answer_is_taken_back_and_another_takes_its_place() -> None:
    dark = Case(MODEL).seen("power-lamp", "dark")
    lit = dark.seen("power-lamp", "lit")
    assert dark.belief.probabilities["no-supply"] > 0.5 > lit.belief.probabilities["no-supply"]
    assert len(lit.facts) == 1 and dark.taken_back("power-lamp") == Case(MODEL)
    with pytest.raises(KeyError):
        dark.seen("power-lamp", "blue")
    with pytest.raises(KeyError):
        dark.seen("fuse-whole", "whole")  # no vehicle


def test_all_is_looked_at_anew_when_a_mend_that_was_believed_in_brings_no_answer() -> None:
    case = Case(MODEL).seen("volts", "senders-meet").seen("ask", "nothing").seen("cross", "same")
    sure = Case(MODEL).seen("power-lamp", "dark")
    assert sure.in_vain("no-supply").facts == ()
    assert case.in_vain("terminator").facts == case.facts
    assert sure.in_vain("no-supply").belief.probabilities["no-supply"] < 0.02
