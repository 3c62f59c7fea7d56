"""What a line does: slow edges against the RC law, drift against the frame's budget, votes against spikes, two who speak."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.signal import lfilter

from humble_courier.domain.settings import Settings
from humble_courier.line.disturbed import GRID, Disturbance, disturb, together
from humble_courier.line.uart import hear, receive
from humble_courier.line.wave import Wave, encode

S = Settings.parse("9600,8N1")
TEXT = b"LV +01.284 M\r\n"


@given(st.binary(min_size=1, max_size=12), st.sampled_from(["8N1", "7E2", "5N1.5", "8M1", "7S1"]))
def test_nothing_on_the_way_changes_nothing(data: bytes, frame: str) -> None:
    end = Settings.parse(f"1200,{frame}")
    plain, same = hear(end, end, data), hear(end, end, data, way=Disturbance(), majority=True)
    assert plain.values.tobytes() == same.values.tobytes() and not (same.framing | same.parity).any()


@pytest.mark.parametrize("rise", [0.1, 0.4, 0.8, 1.3, 2.0])
def test_slow_edges_against_a_filter(rise: float) -> None:
    """Outside reference: SciPy's first-order filter on the sampled wave, cut at half."""
    wave = encode(TEXT, S)
    got = disturb(wave, 9600, Disturbance(rise=rise))
    fine = np.repeat(wave.levels.astype(float), GRID // 2)
    keep = np.exp(-1 / GRID / rise)
    filtered = lfilter([1 - keep], [1, -keep], fine, zi=[keep])[0] > 0.5
    both = min(len(filtered), len(got.levels))
    assert np.mean(filtered[:both] != got.levels[:both].astype(bool)) < 0.01


def test_too_slow_edges_swallow_short_pulses() -> None:
    assert hear(S, S, TEXT, way=Disturbance(rise=0.9)).values.tobytes() == TEXT
    assert hear(S, S, TEXT, way=Disturbance(rise=1.6)).values.tobytes() != TEXT  # 1 - exp(-1 / 1.6) is below a half


@pytest.mark.parametrize(("drift", "clean"), [(0.03, True), (-0.03, True), (0.16, False), (-0.16, False)])
def test_drift_ends_where_the_budget_of_the_frame_does(drift: float, clean: bool) -> None:
    got = hear(S, S, TEXT * 10, way=Disturbance(drift=drift))
    assert (got.values.tobytes() == TEXT * 10 and not got.framing.any()) is clean


def test_jitter_is_the_same_for_the_same_seed_and_harms_when_it_is_large() -> None:
    small, large = Disturbance(jitter=0.05, seed=3), Disturbance(jitter=0.4, seed=3)
    assert hear(S, S, TEXT, way=small).values.tobytes() == TEXT
    assert hear(S, S, TEXT, way=large).values.tobytes() == hear(S, S, TEXT, way=large).values.tobytes() != TEXT


def test_three_votes_outweigh_a_spike() -> None:
    wave = encode(b"\x00\x00", S)
    levels = np.repeat(wave.levels, 16)  # two ticks are four slots of 32 a bit
    centre = 32 + 4 * 32 + 16  # middle of the fourth bit of the first character
    levels[centre - 1 : centre + 1] = 1
    spoiled = Wave(levels, wave.slot_rate * 16)
    assert receive(spoiled, S).values.tobytes() != b"\x00\x00"
    assert receive(spoiled, S, majority=True).values.tobytes() == b"\x00\x00"


def test_ones_own_words_come_back_on_a_two_wire_bus() -> None:
    question, answer = encode(b"?", S), encode(b"OK", S)
    heard = receive(together([(0.0, question), (question.seconds + 0.002, answer)]), S)
    assert heard.values.tobytes() == b"?OK"


@pytest.mark.parametrize("begin", [0.0, 0.0004, 0.00101])
def test_two_who_answer_at_once_are_garbled(begin: float) -> None:
    heard = receive(together([(0.0, encode(b"LEVEL 3", S)), (begin, encode(b"LEVEL 5", S))]), S)
    assert heard.values.tobytes() != b"LEVEL 3"
    alike = receive(together([(0.0, encode(b"LEVEL 3", S)), (0.0, encode(b"LEVEL 3", S))]), S)
    assert alike.values.tobytes() == b"LEVEL 3"  # two of the same address that say the same are not noticed
