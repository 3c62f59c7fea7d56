"""Usual rates and frames, and how likely each is before anything is heard."""

from humble_courier.domain.settings import Frame

USUAL_RATES = (
    50, 75, 110, 134, 150, 200, 300, 600, 1200, 1800, 2400, 4800, 9600, 10400, 14400, 19200, 28800, 31250, 38400, 56000,
    57600, 76800, 115200, 128000, 230400, 250000, 256000, 460800, 500000, 576000, 921600, 1000000,
)  # fmt: skip
NEAR = 0.03  # a measured rate this near to a usual one is taken for it

# How often frames are met (common practice): what the data cannot tell is left to these.
FRAME_PRIORS = {
    "8N1": 0.70, "7E1": 0.08, "8E1": 0.07, "7O1": 0.03, "8O1": 0.03, "8N2": 0.03, "7N2": 0.01, "7E2": 0.008, "8E2": 0.005,
    "7O2": 0.008, "8O2": 0.004, "7N1": 0.005, "5N1.5": 0.004, "5N2": 0.003, "5N1": 0.003, "8M1": 0.002, "8S1": 0.002,
    "7M1": 0.002, "7S1": 0.002, "6N1": 0.001, "6N2": 0.0005, "6E1": 0.0005, "6O1": 0.0005, "7M2": 0.0005, "7S2": 0.0005,
}  # fmt: skip
FRAMES = {Frame.parse(text): prior for text, prior in FRAME_PRIORS.items()}


def nominal(measured: float) -> int:
    """The usual rate nearest to a measured one within 3 %; else the measured one, rounded."""
    nearest = min(USUAL_RATES, key=lambda rate: abs(rate / measured - 1))
    return nearest if abs(nearest / measured - 1) <= NEAR else round(measured)
