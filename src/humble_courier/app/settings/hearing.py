"""What one end hears of the other: the bytes that would appear, and one character bit by bit for the picture."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from humble_courier.domain.settings import Parity, Settings

if TYPE_CHECKING:  # the simulator's arrays take long to load: the window is shown before they are needed
    from humble_courier.line.uart import Received


@dataclass(frozen=True)
class HeardByte:
    """One character as the receiver hands it over."""

    byte: int
    framing_error: bool
    parity_error: bool
    is_break: bool

    @property
    def word(self) -> str:
        """The doubt in a word, or the character, or that there is none."""
        if self.is_break:
            return "break"
        if self.framing_error:
            return "framing"
        if self.parity_error:
            return "parity"
        if self.byte in (10, 13):
            return "LF" if self.byte == 10 else "CR"
        return chr(self.byte) if 32 < self.byte < 127 else "space" if self.byte == 32 else "no text"

    @property
    def doubtful(self) -> bool:
        """Whether an error came with it."""
        return self.framing_error or self.parity_error or self.is_break


@dataclass(frozen=True)
class Sample:
    """One instant at which a receiver looks at the line. `t` in seconds; `level` 1 mark, 0 space."""

    t: float
    label: str
    level: int
    wanted: bool  # whether the sender's own sampling reads the same bit here


@dataclass(frozen=True)
class Comparison:
    """One character at both ends: edges (seconds, level), where each end samples, and all that appears."""

    character: str
    seconds: float
    edges: tuple[tuple[float, int], ...]
    sender: tuple[Sample, ...]
    receiver: tuple[Sample, ...]
    appears: tuple[HeardByte, ...]
    clean: bool


def heard_bytes(got: "Received") -> list[HeardByte]:
    """Characters of a simulated reception as values."""
    rows = zip(got.values, got.framing, got.parity, got.breaks, strict=True)
    return [HeardByte(int(v), bool(f), bool(p), bool(b)) for v, f, p, b in rows]


def labels(settings: Settings) -> list[str]:
    """Names of the bits that a receiver looks at, in order."""
    data = [str(i) for i in range(settings.frame.data_bits)]
    return ["start", *data, *([] if settings.frame.parity is Parity.NONE else ["parity"]), "stop"]


def compare(sent: Settings, heard_as: Settings, text: bytes) -> Comparison:
    """What a receiver set to `heard_as` makes of `text` sent with `sent` (text of one byte or more)."""
    from humble_courier.line.uart import CENTRE, TICKS, hear
    from humble_courier.line.wave import encode

    appears = heard_bytes(hear(sent, heard_as, text))
    wave = encode(text[:1], sent)
    bit = 1 / sent.rate
    levels = wave.levels

    def level(t: float) -> int:
        slot = int(t * wave.slot_rate + 1e-6)
        return int(levels[slot]) if slot < len(levels) else 1

    def samples(settings: Settings) -> list[tuple[float, str]]:
        tick = 1 / (TICKS * settings.rate)
        return [(bit + (CENTRE + TICKS * i) * tick, name) for i, name in enumerate(labels(settings))]

    right = [(t, name, level(t)) for t, name in samples(sent)]
    wanted = {name: value for _, name, value in right}
    theirs = [(t, name, level(t)) for t, name in samples(heard_as)]
    sender = tuple(Sample(t, _shown(name, value), value, True) for t, name, value in right)
    receiver = tuple(Sample(t, _shown(name, value), value, wanted.get(name) == value) for t, name, value in theirs)
    expected = [HeardByte(b & ((1 << sent.frame.data_bits) - 1), False, False, False) for b in text]
    end = max(wave.seconds, theirs[-1][0] + bit)
    edges = tuple(wave.edges())
    return Comparison(chr(text[0]), end, edges, sender, receiver, tuple(appears), appears == expected)


def _shown(name: str, level: int) -> str:
    return name if name in ("start", "stop", "parity") else str(level)


@dataclass(frozen=True)
class OnTheWay:
    """What happens between the ends: clock drift in percent, jitter and rise time in bits, inversion; how it is read."""

    idle_bits: float = 0.0
    inverted: bool = False
    drift_percent: float = 0.0
    jitter_bits: float = 0.0
    rise_bits: float = 0.0
    majority: bool = False


def received(sent: Settings, heard_as: Settings, data: bytes, way: OnTheWay) -> list[HeardByte]:
    """All that a receiver set to `heard_as` makes of `data`, bit by bit."""
    from humble_courier.line.disturbed import Disturbance
    from humble_courier.line.uart import hear

    disturbed = way.drift_percent or way.jitter_bits or way.rise_bits
    line = Disturbance(way.drift_percent / 100, way.jitter_bits, way.rise_bits) if disturbed else None
    return heard_bytes(hear(sent, heard_as, data, way.idle_bits, way.inverted, way=line, majority=way.majority))
