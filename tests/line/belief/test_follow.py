"""Following a sender bit by bit: the right rate and frame from one listen, whatever kind of receiver it was."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from humble_courier.domain.settings import Frame, Settings
from humble_courier.line.belief import cells
from humble_courier.line.belief.belief import Belief, in_order
from humble_courier.line.belief.follow import FASTEST, SLOWEST, explains, follow
from humble_courier.line.belief.tables import FRAMES, RATES
from humble_courier.line.uart import Resync, receive
from tests.line.belief.other_traffic import OTHER


def heard(seed: int, kind: str, sent: Settings, rate: int, resync: Resync, centre: tuple[int, bool]) -> np.ndarray:
    """64 characters of other traffic at a receiver of that kind, the clocks a hundredth apart."""
    random = np.random.default_rng(seed)
    pauses = cells.gaps(random, 150)
    wave = cells.wave_of(OTHER[kind](random, 150), sent.frame, pauses, False, sent.rate * 1.01)
    got = receive(wave, Settings(rate), resync, centre=centre[0], majority=centre[1])
    return in_order(got.values, got.framing | got.parity)[:64]


@pytest.mark.parametrize("resync", Resync)
@pytest.mark.parametrize("centre", cells.CENTRES)
@pytest.mark.parametrize(
    ("sent", "at"), [("9600,8O1", 28800), ("9600,7E1", 19200), ("19200,8E1", 28800), ("9600,7O1", 9600)]
)
def test_one_listen_names_the_whole_setting_for_each_kind_of_receiver(
    sent: str, at: int, centre: tuple[int, bool], resync: Resync
) -> None:
    end = Settings.parse(sent)
    belief = Belief(even=True)
    belief.listen_in_order(Settings(at), heard(6, "licence_text", end, at, resync, centre))
    best = belief.told()[0]
    assert (best.rate, str(best.frame), best.inverted) == (end.rate, str(end.frame), False)
    assert sum(one.probability for one in belief.told()) == pytest.approx(1, abs=0.02)


def test_only_rates_that_can_be_followed_are_told_and_the_rest_is_left_as_it_was() -> None:
    symbols = heard(5, "numbers", Settings(9600, Frame()), 9600, Resync.WAIT_FOR_MARK, (8, False))
    told = follow(symbols, 9600, RATES, ("8N1", "7E1"))
    assert {rate for rate, _ in told} == {rate for rate in RATES if SLOWEST <= rate / 9600 <= FASTEST}
    assert max(told, key=lambda key: told[key])[0] == 9600
    assert follow(symbols, 9600, [115200], FRAMES) == {} == follow(symbols[:0], 9600, RATES, FRAMES)


def test_more_of_a_frame_that_fits_speaks_against_the_others() -> None:
    symbols = heard(6, "hex_records", Settings(4800, Frame.parse("7O1")), 9600, Resync.LOW_IS_START, (9, False))
    few, many = (follow(symbols[:count], 9600, [4800], ("7O1", "8N1", "7E1")) for count in (24, 64))
    lead = [told[4800, "7O1"] - max(told[4800, "8N1"], told[4800, "7E1"]) for told in (few, many)]
    assert 0 < lead[0] < lead[1]


@pytest.mark.parametrize(
    ("rate", "frame", "nats", "can_be"),
    [(9600, "8N1", 5.5, True), (9600, "8N1", 5.8, False), (9600, "7N1", 5.2, False), (4800, "8N1", 3.9, True),
     (4800, "8N1", 4.2, False)],
)  # fmt: skip
def test_more_surprise_than_any_data_can_hold_is_no_explanation(rate: int, frame: str, nats: float, can_be: bool) -> None:
    """Eight data bits are at most 8 ln 2 = 5.55 nats a character (Shannon, 1948)."""
    assert explains({(rate, frame): -64 * nats, (1200, "7E1"): -64 * nats - 20}, 9600, 64) is can_be


@settings(max_examples=15, deadline=None)
@given(st.lists(st.integers(0, 511), min_size=1, max_size=40), st.sampled_from([300, 9600, 115200]))
def test_any_characters_are_weighed_without_a_fault_in_the_arithmetic(heard: list[int], receiver: int) -> None:
    with np.errstate(divide="raise", over="raise", invalid="raise"):
        told = follow(np.array(heard, np.int64), receiver, RATES, ("8N1", "7E1", "8O2"))
    assert all(np.isfinite(log) and log < 1 for log in told.values())
