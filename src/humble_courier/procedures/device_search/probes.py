"""First words in the dialects of several frames at once, and what an answer tells of the frame.

A port that is opened with eight bits and two stop bits can speak to devices of eight bits, and of seven with any parity:
the top bit of each character is what they take for their parity bit. So one trial asks four frames, and with the words
ended in each way that is in use it asks all terminators too: CR, then CR LF, then LF.
"""

from dataclasses import dataclass

import numpy as np

from humble_courier.domain.settings import Frame, Parity, Settings
from humble_courier.line.rates import FRAME_PRIORS
from humble_courier.line.wave import parity_bit

EIGHT, SEVEN_EVEN, SEVEN_ODD, SEVEN_MARK = "8N1", "7E1", "7O1", "7N2"
SHARED = (EIGHT, SEVEN_EVEN, SEVEN_ODD, SEVEN_MARK)  # frames that one opening asks, by belief
ALONE = ("8E1", "8O1")
PLAIN_SHARE = 0.9  # of an answer that must be text: noise gives a third (common practice)


@dataclass(frozen=True)
class Group:
    """Frames that one opening reaches, with how it is opened and how often they are met together."""

    frames: tuple[str, ...]
    opened: Frame
    prior: float


def groups() -> tuple[Group, ...]:
    """All of them. Frames with a second stop bit are heard like those with one, so they count with these."""
    same = {"8N1": ("8N2",), "8E1": ("8E2",), "8O1": ("8O2",), "7E1": ("7E2",), "7O1": ("7O2",), "7N2": ()}

    def prior(frames: tuple[str, ...]) -> float:
        return sum(FRAME_PRIORS[f] + sum(FRAME_PRIORS[g] for g in same[f]) for f in frames)

    shared = Group(SHARED, Frame(8, Parity.NONE, 2), prior(SHARED))
    return (shared, *(Group((f,), Frame.parse(f), prior((f,))) for f in ALONE))


def in_dialect(words: bytes, frame: str) -> bytes:
    """Words as an opening with eight bits must send them, so that a device of `frame` reads them."""
    if frame not in SHARED or frame == EIGHT:
        return words
    values = np.frombuffer(words, np.uint8) & np.uint8(0x7F)
    top = np.ones(len(values), np.uint8) if frame == SEVEN_MARK else parity_bit(values, Frame.parse(frame).parity)
    return bytes((values | top << 7).astype(np.uint8).tobytes())


def all_ends(words: bytes) -> bytes:
    """Words once for devices that want CR or CR LF, and once for those that want LF alone."""
    return b"\r" + words + b"\r\n" + words + b"\n"


def burst(words: bytes, group: Group, ends: bytes | None = None) -> bytes:
    """What one trial says to a group: in each dialect, with each terminator (or with the one that is known)."""
    line = all_ends(words) if ends is None else ends + words + ends
    return b"".join(in_dialect(line, frame) for frame in group.frames)


def without_echo(data: bytes, said: bytes, then: tuple[bytes, ...] = ()) -> bytes:
    """What came after our own words, which a two-wire bus or a device with echo hands back first."""
    for words in (said, *then):
        if words and data.startswith(words):
            data = data[len(words) :]
    return data


def part_of(heard: bytes, said: bytes) -> bool:
    """Whether what came is our own words with some missing: an echo that lost what it took for damaged."""
    letters = [b for b in heard if b not in b"\r\n"]
    ours = [b for b in said if b not in b"\r\n"]
    wanted = iter(ours)
    return 0.3 * len(ours) < len(letters) < len(ours) and all(b in wanted for b in letters)


def frames_of(data: bytes, asked: tuple[str, ...]) -> list[str]:
    """Frames of those asked in which an answer is plain text, those first that explain it best. Heard with eight bits."""
    if len(asked) == 1:
        return list(asked)
    values = np.frombuffer(data, np.uint8)
    if not len(values):
        return []
    low = values & 0x7F
    plain = float(np.mean(((low >= 32) & (low < 127)) | np.isin(low, (9, 10, 13))))
    ones = parity_bit(values, Parity.EVEN)  # of all eight bits: 0 where their parity is even
    fits = {EIGHT: float(np.mean(values < 128)), SEVEN_EVEN: float(np.mean(ones == 0)), SEVEN_ODD: float(np.mean(ones == 1)),
            SEVEN_MARK: float(np.mean(values >= 128))}  # fmt: skip
    if plain < PLAIN_SHARE:
        return [EIGHT]
    good = [frame for frame in asked if fits[frame] >= PLAIN_SHARE]
    return sorted(good, key=lambda frame: (-fits[frame], asked.index(frame)))


def exact(rate: int, frame: str) -> Settings:
    """Settings that name a frame."""
    return Settings(rate, Frame.parse(frame))
