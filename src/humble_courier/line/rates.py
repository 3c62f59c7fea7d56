"""Usual rates and frames, and how likely each is before anything is heard."""

import numpy as np

from humble_courier.domain.settings import Frame

USUAL_RATES = (
    50, 75, 110, 134, 150, 200, 300, 600, 1200, 1800, 2400, 4800, 9600, 10400, 14400, 19200, 28800, 31250, 38400, 56000,
    57600, 76800, 115200, 128000, 230400, 250000, 256000, 460800, 500000, 576000, 921600, 1000000,
)  # fmt: skip
NEAR = 0.03  # a measured rate this near to a usual one may be that one
# How often a rate is met, in parts (common practice); every other usual rate counts one, or next to nothing here.
RATE_PARTS = {9600: 25, 115200: 18, 19200: 10, 38400: 8, 4800: 8, 57600: 6, 2400: 5, 1200: 5, 300: 3, 230400: 2, 14400: 2,
              460800: 2, 600: 2, 921600: 2, 28800: 2}  # fmt: skip
SELDOM = 0.2  # parts for a usual rate that is not among those
UNNAMED = 0.1  # density of rates that nobody has a name for: one device in a hundred, anywhere from 50 to 1 000 000
# How far clocks are off their rate: share of the devices, and the standard deviation of each kind (common practice): a
# crystal, with the error of measuring it; a ceramic resonator or a divisor that does not go up; an RC oscillator.
CLOCKS = ((0.75, 0.002), (0.17, 0.006), (0.08, 0.014))

# How often frames are met (common practice): what the data cannot tell is left to these.
FRAME_PRIORS = {
    "8N1": 0.70, "7E1": 0.08, "8E1": 0.07, "7O1": 0.03, "8O1": 0.03, "8N2": 0.03, "7N2": 0.01, "7E2": 0.008, "8E2": 0.005,
    "7O2": 0.008, "8O2": 0.004, "7N1": 0.005, "5N1.5": 0.004, "5N2": 0.003, "5N1": 0.003, "8M1": 0.002, "8S1": 0.002,
    "7M1": 0.002, "7S1": 0.002, "6N1": 0.001, "6N2": 0.0005, "6E1": 0.0005, "6O1": 0.0005, "7M2": 0.0005, "7S2": 0.0005,
}  # fmt: skip
FRAMES = {Frame.parse(text): prior for text, prior in FRAME_PRIORS.items()}


def named(measured: float) -> dict[int, float]:
    """Which rates a measured one (bit/s) may be, with their probabilities: how often each is met, and how far clocks go.

    Only usual rates within 3 %; where there is none, the measured one, rounded, is all there is.
    """
    parts = _parts(measured)
    whole = sum(parts.values())
    return {rate: part / whole for rate, part in parts.items()} if parts else {round(measured): 1.0}


def usual(measured: float) -> float:
    """How much a measured rate speaks for itself: density in parts for each relative change of it."""
    return sum(_parts(measured).values()) + UNNAMED


def _parts(measured: float) -> dict[int, float]:
    off = {rate: float(np.log(measured / rate)) for rate in USUAL_RATES}
    return {rate: RATE_PARTS.get(rate, SELDOM) * _clock(far) for rate, far in off.items() if abs(far) <= NEAR}


def _clock(far: float) -> float:
    """Density of a clock that is so far off, as a part of its rate."""
    return sum(share * float(np.exp(-0.5 * (far / width) ** 2)) / width for share, width in CLOCKS)
