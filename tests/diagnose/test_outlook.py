"""How many minutes it will take: against ways gone on links whose truth is known, and within its bounds."""

import numpy as np
import pytest

from humble_courier.catalog.load import Catalog
from humble_courier.diagnose.case import Case
from humble_courier.diagnose.model import ELSE_MINUTES, NEEDS, model_of
from humble_courier.diagnose.outlook import outlook
from tests.diagnose.small import small_model
from tests.diagnose.test_choice import walked

CATALOG = Catalog()
MODEL = model_of(CATALOG.causes, CATALOG.checks, {"usb", "serial", "rs232", "text"}, set(NEEDS))


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_the_mean_of_ways_is_that_of_going_over_every_cause_and_outcome(seed: int) -> None:
    model = small_model(np.random.default_rng(seed), causes=5, checks=3)
    exact = walked(model)  # one fault; as many as the belief has two faults the mean is higher by
    assert 0.9 * exact < outlook(Case(model), (), ways=400) < 2 * exact + ELSE_MINUTES * 0.02


def test_who_nearly_knows_has_little_left_and_it_does_not_flicker() -> None:
    start, near = Case(MODEL).seen("open", "opens"), Case(MODEL).seen("open", "opens").seen("power-lamp", "dark")
    near = near.seen("volts", "dead").seen("power-cycle", "nothing")
    assert outlook(near, set(NEEDS)) < outlook(start, set(NEEDS))
    assert outlook(start, set(NEEDS)) == outlook(start, set(NEEDS))
