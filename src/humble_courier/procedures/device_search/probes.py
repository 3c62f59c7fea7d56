"""First words in the dialects of several frames at once, and what an answer tells of the frame.

A port that is opened with eight bits and two stop bits can speak to devices of eight bits, and of seven with any parity:
the top bit of each character is what they take for their parity bit. So one trial asks four frames. Each line stands
there once between the ends of each kind, so that devices that count only CR, only LF, or only the pair of both read it
exactly, after an end of their own that clears what lay in their buffer.
"""

import numpy as np
from numpy.typing import NDArray

from humble_courier.domain.settings import Frame, Parity, Settings
from humble_courier.line.rates import FRAME_PRIORS
from humble_courier.line.wave import parity_bit

EIGHT, SEVEN_EVEN, SEVEN_ODD, SEVEN_MARK = "8N1", "7E1", "7O1", "7N2"
SHARED = (EIGHT, SEVEN_EVEN, SEVEN_ODD, SEVEN_MARK)  # frames that one opening asks, by belief
ALONE = ("8E1", "8O1")
TWO_STOPS = Frame(8, Parity.NONE, 2)  # how that opening is made
PLAIN_SHARE = 0.9  # of an answer that must be text: noise gives a third (common practice)
# Frames with a second stop bit are heard like those with one, so they count with these.
_SAME = {"8N1": ("8N2",), "8E1": ("8E2",), "8O1": ("8O2",), "7E1": ("7E2",), "7O1": ("7O2",), "7N2": ()}


def prior_of(frame: str) -> float:
    """How often a frame is met, those that a receiver cannot tell from it included."""
    return FRAME_PRIORS[frame] + sum(FRAME_PRIORS[other] for other in _SAME[frame])


def one_stop(frame: Frame) -> str:
    """A frame's name with one stop bit, where a receiver cannot tell."""
    text = str(frame)
    return text if text == SEVEN_MARK else f"{text[:2]}1"


def in_dialect(words: bytes, frame: str) -> bytes:
    """Words as an opening with eight bits must send them, so that a device of `frame` reads them."""
    if frame not in SHARED or frame == EIGHT:
        return words
    values = np.frombuffer(words, np.uint8) & np.uint8(0x7F)
    top = np.ones(len(values), np.uint8) if frame == SEVEN_MARK else parity_bit(values, Frame.parse(frame).parity)
    return bytes((values | top << 7).astype(np.uint8).tobytes())


def all_ends(words: bytes) -> bytes:
    """Words for devices that count only CR LF, only LF, and only CR, each after an end of its own; clears up at the end."""
    return b"\r\n" + words + b"\r\n" + words + b"\n\r" + words + b"\r\n"


def burst(words: bytes, frames: tuple[str, ...], ends: bytes | None = None) -> bytes:
    """What one trial says to some frames: in each dialect, with each terminator (or with the one that is known).

    The likeliest comes last: on one pair an answer that comes while we speak is lost.
    """
    line = all_ends(words) if ends is None else ends + words + ends
    return b"".join(in_dialect(line, frame) for frame in reversed(frames))


ECHO_SHARE = 0.6  # of our words that must come back, in order, before any of what came is taken for an echo


def without_echo(data: bytes, said: bytes) -> bytes:
    """What came beside our own words, which a two-wire bus or a device with echo hands back, answers in between."""
    rest, at = bytearray(), 0
    for byte in data:
        if at < len(said) and byte == said[at]:
            at += 1
        else:
            rest.append(byte)
    return bytes(rest) if said and at >= ECHO_SHARE * len(said) else data


ENDS = b"\r\n\x8d\x8a"  # in any dialect


def echoed(heard: bytes, said: bytes) -> bool:
    """Whether what came is our own words, whole, with some missing, or with one changed: an echo of what was damaged.

    Ends of lines do not count: some devices say both where they heard one.
    """
    letters = [b for b in heard if b not in ENDS]
    ours = [b for b in said if b not in ENDS]
    wanted = iter(ours)
    if len(letters) == len(ours) and sum(a != b for a, b in zip(letters, ours, strict=True)) == 1:
        return len(ours) > 1
    return 0.3 * len(ours) < len(letters) <= len(ours) and all(b in wanted for b in letters)


def frames_of_echo(heard: bytes, words: bytes, asked: tuple[str, ...]) -> list[str]:
    """Frames in which a device echoes: the dialect that came back whole, and the parity that all bytes of it have.

    Eight bits with odd parity take from a port of two stop bits exactly the characters that seven bits with even parity
    take, and hand back the same: only an exact question tells them apart.
    """
    whole = [frame for frame in asked if in_dialect(words, frame) in heard]
    ones = parity_bit(np.frombuffer(heard, np.uint8), Parity.EVEN)
    return whole + (["8E1"] if ones.all() else ["8O1"] if not ones.any() else [])


def frames_of(data: bytes, asked: tuple[str, ...], errors: NDArray[np.bool_] | None = None) -> list[str]:
    """Frames of those asked in which an answer is plain text, those first that explain it best. Heard with eight bits.

    `errors`: which characters came with a framing error: where the parity bit stands in place of a stop bit, they tell it.
    """
    if len(asked) == 1 and asked[0] in ALONE:
        return list(asked)
    values = np.frombuffer(data, np.uint8)
    if not len(values):
        return []
    low = values & 0x7F
    plain = float(np.mean(((low >= 32) & (low < 127)) | np.isin(low, (9, 10, 13))))
    if plain < PLAIN_SHARE:
        return [EIGHT]
    ones = parity_bit(values, Parity.EVEN)  # of all eight bits: 0 where their parity is even
    if errors is not None and errors.any():
        told = {"8E1": float(np.mean(errors == (ones == 0))), "8O1": float(np.mean(errors == (ones == 1)))}
        return [frame for frame in sorted(told, key=lambda f: -told[f]) if told[frame] >= PLAIN_SHARE]
    fits = {EIGHT: float(np.mean(values < 128)), SEVEN_EVEN: float(np.mean(ones == 0)), SEVEN_ODD: float(np.mean(ones == 1)),
            SEVEN_MARK: float(np.mean(values >= 128))}  # fmt: skip
    good = [frame for frame in SHARED if fits[frame] >= PLAIN_SHARE]
    return sorted(good, key=lambda frame: (-fits[frame], SHARED.index(frame)))


def exact(rate: int, frame: str) -> Settings:
    """Settings that name a frame."""
    return Settings(rate, Frame.parse(frame))
