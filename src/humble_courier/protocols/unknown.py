"""Binary traffic that nobody has a manual for: cut into frames by its pauses, then asked for its check and its fixed bytes.

The pause that divides frames is where the logarithms of all pauses fall into two groups best (Otsu 1979, from memory). Their
check is looked for among those of the CRC catalogue, by crccheck, and among sums: one that fits all is no accident.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from crccheck import crc
from numpy.typing import NDArray

FEWEST_FRAMES = 4  # fewer have a check in common by accident
CLEAR = 3.0  # the shortest pause between frames against the longest within one
_SMALLEST = 1e-5  # seconds: below, what the clock of a computer tells is noise
_CRCS: tuple[type, ...] = (
    crc.CrcModbus, crc.CrcArc, crc.CrcX25, crc.Crc16CcittFalse, crc.CrcXmodem, crc.CrcKermit, crc.Crc16Usb, crc.Crc16Dnp,
    crc.Crc8Smbus, crc.Crc8MaximDow, crc.Crc8SaeJ1850, crc.Crc32, crc.Crc32Mpeg2, crc.Crc32c,
)  # fmt: skip


@dataclass(frozen=True)
class Shape:
    """What frames have in common. `check`: name, width in bytes and byte order of what fits at the end of each, or empty."""

    frames: tuple[bytes, ...]
    pause_s: float
    check: str
    begins: bytes
    lengths: tuple[int, ...]
    length_at: int | None


def pause(times: Sequence[float], character_s: float) -> float | None:
    """The pause in seconds that divides frames; None where pauses do not fall into two groups."""
    # Less than half a character is no pause, but how a computer and its adapter deliver.
    gaps = np.maximum(np.diff(np.asarray(times, float)) - character_s, max(_SMALLEST, character_s / 2))
    if len(gaps) < FEWEST_FRAMES:
        return None
    logs = np.sort(np.log(gaps))
    counts = np.arange(1, len(logs))
    sums = np.cumsum(logs)[:-1]
    low, high = sums / counts, (logs.sum() - sums) / (len(logs) - counts)
    between = counts * (len(logs) - counts) * (low - high) ** 2
    at = int(between.argmax())
    longest, shortest = float(np.exp(logs[at])), float(np.exp(logs[at + 1]))
    return float(np.sqrt(longest * shortest)) if shortest >= CLEAR * longest else None


def frames(data: bytes, times: Sequence[float], character_s: float) -> tuple[tuple[bytes, ...], float] | None:
    """Frames with the pause that divides them; None where none are seen. `times`: when each byte was complete."""
    divides = pause(times, character_s)
    if divides is None:
        return None
    ends = np.flatnonzero(np.diff(np.asarray(times, float)) - character_s > divides) + 1
    cuts = [0, *ends.tolist(), len(data)]
    return tuple(data[a:b] for a, b in pairwise(cuts)), divides


def shape(data: bytes, times: Sequence[float], character_s: float) -> Shape | None:
    """What can be told of unknown traffic; None where it shows no frames."""
    cut = frames(data, times, character_s)
    if cut is None:
        return None
    made, divides = cut
    whole = made[1:-1] if len(made) > FEWEST_FRAMES + 2 else made  # the first and the last may be cut off
    return Shape(made, divides, check_of(whole), _begins(whole), tuple(sorted({len(f) for f in whole})), _length_at(whole))


def _begins(made: Sequence[bytes]) -> bytes:
    same = 0
    while all(len(f) > same and f[same] == made[0][same] for f in made):
        same += 1
    return made[0][:same]


def _length_at(made: Sequence[bytes]) -> int | None:
    """Where a byte stands that goes with the length of its frame; needs frames of several lengths."""
    if len({len(f) for f in made}) < 2:
        return None
    for place in range(min(8, min(map(len, made)))):
        if len({len(f) - f[place] for f in made}) == 1:
            return place
    return None


def check_of(made: Sequence[bytes]) -> str:
    """The check at the end of each frame, or an empty word. Frames must be several and not all the same."""
    if len(set(made)) < FEWEST_FRAMES or min(map(len, made)) < 3:
        return ""
    for name, width, check in _checks():
        for order in ("little", "big") if width > 1 else ("little",):
            if all(len(f) > width and check(f[:-width]).to_bytes(width, order) == f[-width:] for f in made):
                end = {"little": ", low byte first", "big": ", high byte first"}[order] if width > 1 else ""
                return f"{name}{end}"
    return ""


def _checks() -> list[tuple[str, int, Callable[[bytes], int]]]:
    plain: list[tuple[str, int, Callable[[bytes], int]]] = [
        ("sum", 1, lambda body: sum(body) & 0xFF),
        ("sum, complemented to 0", 1, lambda body: -sum(body) & 0xFF),
        ("exclusive or", 1, lambda body: int(np.bitwise_xor.reduce(_array(body)))),
        ("sum of 16 bits", 2, lambda body: sum(body) & 0xFFFF),
    ]
    return plain + [(kind.__name__, int(kind._width) // 8, kind.calc) for kind in _CRCS]  # type: ignore[attr-defined]


def _array(body: bytes) -> NDArray[np.uint8]:
    return np.frombuffer(body, np.uint8)
