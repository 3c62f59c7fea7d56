"""The receiver against one in hardware description that nobody here wrote, run clock by clock.

`RS232PHYRX` of LiteX 2024.12 (litex/soc/cores/uart.py, BSD-2): eight bits, one stop bit, characters without a stop bit are
dropped, the next begins at a fall from mark. Run in Migen's own simulator at 16 clocks a bit, the tick of our receiver.
It reads each bit one clock later than ours does, so the two must agree within the budget of the frame, and at rates that
are whole parts of each other; elsewhere that clock decides.
"""

import warnings
from collections.abc import Iterator

import numpy as np
import pytest

from humble_courier.domain.settings import Frame, Settings
from humble_courier.line.belief.cells import gaps, wave_of
from humble_courier.line.uart import TICKS, receive
from humble_courier.line.wave import Wave

RATE = 9600


def in_hardware(wave: Wave) -> list[int]:
    """The values that the described hardware hands over."""
    with warnings.catch_warnings():  # it is older than the language it runs in
        warnings.simplefilter("ignore")
        from litex.soc.cores.uart import RS232PHYRX, UARTPads
        from migen import run_simulation
    pads, found = UARTPads(), []
    receiver = RS232PHYRX(pads, int(2**32 / TICKS))
    clocks = np.arange(int(wave.seconds * RATE * TICKS) + 12 * TICKS)
    at = np.minimum((clocks * wave.slot_rate / (RATE * TICKS)).astype(np.int64), len(wave.levels) - 1)
    levels = np.concatenate((np.ones(4 * TICKS, np.uint8), wave.levels[at]))

    def line() -> Iterator[object]:
        for level in levels.tolist():
            yield pads.rx.eq(level)
            yield
            if (yield receiver.source.valid):
                found.append((yield receiver.source.data))

    run_simulation(receiver, line())
    return found


def sent(random: np.random.Generator, frame: str, ratio: float) -> Wave:
    many = 24 if ratio > 0.4 else 8  # a slow sender makes several characters of each
    data = random.integers(0, 256, many, np.uint8).tobytes()
    return wave_of(data, Frame.parse(frame), gaps(random, many), False, RATE * ratio)


@pytest.mark.parametrize("frame, ratio", [("8N1", 0.965), ("8N1", 1.025), ("7E1", 1.0), ("8E1", 0.5), ("7O1", 0.25)])
def test_the_same_characters_as_the_hardware(frame: str, ratio: float) -> None:
    wave = sent(np.random.default_rng(round(ratio * 1000)), frame, ratio)
    got = receive(wave, Settings(RATE))
    found = in_hardware(wave)
    assert len(found) >= 10
    assert got.values[~got.framing].tolist() == found
