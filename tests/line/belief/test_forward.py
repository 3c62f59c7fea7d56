"""The sender's states, and the forward pass over them: sums to one, closed forms, and what the simulated receiver hears."""

import copy

import numpy as np
import pytest

from humble_courier.domain.settings import Frame, Settings
from humble_courier.line.belief import cells
from humble_courier.line.belief.belief import in_order
from humble_courier.line.belief.forward import Forward, Hypotheses
from humble_courier.line.belief.sender import ROWS, SPACES, START, next_edge, one_bit, sender
from humble_courier.line.belief.tables import FRAMES
from humble_courier.line.belief.traffic import FAMILIES
from humble_courier.line.uart import Resync, receive
from humble_courier.line.wave import character_bits

KINDS = tuple(FAMILIES)


def tried(ratio: float, frame: str, family: str = "any bytes", at_once: float = 0.9, centre: float = 8.0) -> Hypotheses:
    """One hypothesis."""
    one = np.ones(1, np.float32)
    return Hypotheses(
        np.array([ratio]), np.array([centre]), (frame,), (family,), np.float32(at_once) * one, np.float32(0.1) * one
    )


def reached(step: np.ndarray) -> np.ndarray:
    """Rows that a sender can be in."""
    found = np.arange(ROWS) == START
    for _ in range(13):
        found |= step[found].sum(axis=0) > 0
    return found


@pytest.mark.parametrize("frame", FRAMES)
@pytest.mark.parametrize("family", KINDS)
def test_after_each_row_something_comes(frame: str, family: str) -> None:
    step = one_bit(sender(Frame.parse(frame), family))
    rows = reached(step)
    assert step[rows].sum(axis=1) == pytest.approx(1, abs=1e-5)
    assert next_edge(Frame.parse(frame), family)[rows].sum(axis=1) == pytest.approx(1, abs=1e-4)


@pytest.mark.parametrize("frame", FRAMES)
def test_a_character_is_as_long_as_its_frame_says_and_has_its_parity(frame: str) -> None:
    """The bits of each of 128 characters, walked through the rows, have the chance of their data bits and lead back."""
    parsed = Frame.parse(frame)
    step = one_bit(sender(parsed, "any bytes"))
    marks = np.arange(ROWS) >= SPACES
    for value in range(0, 256, 2):
        bits = [*character_bits(bytes([value]), Settings(9600, parsed))[0, 1:], *[1] * int(parsed.stop_bits)]
        at = np.zeros(ROWS)
        at[START] = 1
        for bit in bits:
            at = (at @ step) * (marks == bit)
        assert (at @ step)[START] == pytest.approx(0.5**parsed.data_bits, rel=0.3)


@pytest.mark.parametrize(
    ("ratio", "frame", "family", "heard", "low_is_start"),
    [
        (0.11, "8N1", "log text", [], False),
        (1 / 3, "7E1", "sentences", [0x10, 0x1C0], True),
        (0.62, "8O2", "any bytes", [0x41, 0x155], True),
        (1.0, "8N2", "binary messages", [0x30, 0x31], False),
        (1.05, "7O1", "mostly one byte", [0x1AA], True),
    ],
)
def test_the_chances_of_all_next_characters_add_up_to_one(
    ratio: float, frame: str, family: str, heard: list[int], low_is_start: bool
) -> None:
    before = Forward(tried(ratio, frame, family), low_is_start)
    before.feed(np.array(heard, np.int64))
    total = 0.0
    for symbol in range(512):
        after = copy.deepcopy(before)
        after.feed(np.array([symbol]))
        total += float(np.exp(after.logs[0] - before.logs[0]))
    assert total == pytest.approx(1, abs=0.01)


@pytest.mark.parametrize("ratio", [0.5, 1.0])
@pytest.mark.parametrize("resync", Resync)
def test_the_simulated_receivers_characters_are_likelier_in_their_order_than_one_by_one(
    ratio: float, resync: Resync
) -> None:
    """Any bytes without a pause, by the right frame, by another, and by how often each symbol came in a longer run."""
    random = np.random.default_rng(3)
    data = random.integers(0, 256, 12_000, np.uint8).tobytes()
    wave = cells.wave_of(data, Frame.parse("8E1"), np.zeros(len(data), np.int64), False, 9600 * ratio)
    got = receive(wave, Settings(9600), resync)
    symbols = in_order(got.values, got.framing)
    shares = (np.bincount(symbols[300:], minlength=512) + 0.5) / (len(symbols) - 300 + 256)
    right, wrong = (Forward(tried(ratio, frame, at_once=0.99), resync is Resync.LOW_IS_START) for frame in ("8E1", "8O1"))
    right.feed(symbols[:300])
    wrong.feed(symbols[:300])
    assert right.logs[0] > np.log(shares[symbols[:300]]).sum()
    assert right.logs[0] > wrong.logs[0] + 15
