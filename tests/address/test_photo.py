"""Photographed banks read back: invented pictures with light from one side, noise and levers in any position."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from humble_courier.address.photo import read_levers
from humble_courier.errors import BadInput


def picture(levers: list[int], light: bool, tilt: float, noise: float, size: int) -> NDArray[np.float64]:
    """Slots of `size` points with a lever in the upper (1) or lower (0) half; light falls off by `tilt` downwards."""
    body, slot, lever = (90.0, 40.0, 220.0) if light else (200.0, 170.0, 30.0)
    shown = np.full((2 * size, size * len(levers)), body)
    for i, up in enumerate(levers):
        columns = slice(i * size + size // 4, i * size + 3 * size // 4)
        shown[size // 10 : -size // 10, columns] = slot
        half = slice(size // 8, size) if up else slice(size, 2 * size - size // 8)
        shown[half, columns] = lever
    shown *= np.linspace(1, 1 - tilt, len(shown))[:, None]
    return shown + np.random.default_rng(len(levers)).normal(0, noise, shown.shape)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.integers(0, 1), min_size=1, max_size=12), st.booleans(), st.floats(0, 0.5), st.integers(12, 50))
def test_levers_are_read_in_any_light(levers: list[int], light: bool, tilt: float, size: int) -> None:
    found = read_levers(picture(levers, light, tilt, 10, size), len(levers), light)
    assert [lever.up for lever in found] == levers
    assert all(lever.sure for lever in found)


def test_a_lever_that_the_picture_does_not_show_is_not_guessed() -> None:
    shown = picture([1, 0, 1, 0], True, 0.2, 3, 30)
    shown[:, 30:60] = 90.0
    assert [lever.sure for lever in read_levers(shown, 4)] == [True, False, True, True]


@pytest.mark.parametrize(("shape", "said"), [((4, 400), "too little"), ((60, 20), "too little"), ((60, 400), "no levers")])
def test_what_shows_no_levers_is_refused(shape: tuple[int, int], said: str) -> None:
    with pytest.raises(BadInput, match=said):
        read_levers(np.full(shape, 128.0), 8)
