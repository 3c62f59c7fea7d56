"""Timing and flow: characters, uploads, round trips, gaps that protocols demand, buffers, the load of a talker."""

from dataclasses import dataclass
from math import ceil

from humble_courier.domain.settings import Settings

# Modbus over serial line, specification and implementation guide V1.02, 2.5.1.1 (from memory): above 19 200 bit/s fixed.
MODBUS_INNER_CHARACTERS, MODBUS_SILENT_CHARACTERS = 1.5, 3.5
MODBUS_FIXED_ABOVE, MODBUS_INNER_S, MODBUS_SILENT_S = 19_200, 750e-6, 1.75e-3  # MODBUS over Serial Line V1.02, 2.5.1.1


@dataclass(frozen=True)
class RoundTrip:
    """A question and its answer, in seconds; `fits` None without a time-out."""

    line_s: float
    turnaround_s: float
    latency_s: float
    timeout_s: float | None

    @property
    def seconds(self) -> float:
        """From the first bit sent until the answer is in the program."""
        return self.line_s + self.turnaround_s + self.latency_s

    @property
    def fits(self) -> bool | None:
        """Whether the answer is there before the protocol gives up."""
        return None if self.timeout_s is None else self.seconds <= self.timeout_s


def round_trip(
    settings: Settings, count: int, turnaround_s: float = 0.0, latency_s: float = 0.0, timeout_s: float | None = None
) -> RoundTrip:
    """The round trip of a question and an answer of `count` bytes together."""
    return RoundTrip(count * settings.character_s, turnaround_s, latency_s, timeout_s)


def bytes_per_second(settings: Settings) -> float:
    """Bytes a second, back to back."""
    return 1 / settings.character_s


def modbus_gaps(settings: Settings) -> tuple[float, float]:
    """Longest gap within a message and shortest between two, in seconds (Modbus over serial line V1.02, 2.5.1.1)."""
    if settings.rate > MODBUS_FIXED_ABOVE:
        return MODBUS_INNER_S, MODBUS_SILENT_S
    character = 11 / settings.rate  # the guide's character has eleven bits, whatever the frame
    return MODBUS_INNER_CHARACTERS * character, MODBUS_SILENT_CHARACTERS * character


def poll_cycle(
    settings: Settings, devices: int, count: int, turnaround_s: float, gap_s: float, latency_s: float = 0.0
) -> float:
    """Seconds to ask `devices` one after the other, `count` bytes for each question and answer together."""
    return devices * (round_trip(settings, count, turnaround_s, latency_s).seconds + 2 * gap_s)


@dataclass(frozen=True)
class Flow:
    """Whether a buffer holds out: bytes lost without handshake, and when the first one is (None: never)."""

    lost: int
    after_s: float | None
    fullest: float


def buffer_flow(settings: Settings, count: int, takes_per_s: float, buffer: int) -> Flow:
    """`count` bytes back to back into a buffer of `buffer` bytes that is emptied with `takes_per_s` bytes a second."""
    comes = bytes_per_second(settings)
    if takes_per_s >= comes:
        return Flow(0, None, min(count, 1))
    grows = comes - takes_per_s
    fills_after = buffer / grows
    lasts = count / comes
    if fills_after >= lasts:
        return Flow(0, None, grows * lasts)
    return Flow(ceil((lasts - fills_after) * grows), fills_after, buffer)  # part of a byte lost is a byte lost


def talker_load(settings: Settings, sentences: dict[int, float]) -> float:
    """Share of the line that a talker takes, in percent. `sentences`: times a second by length in bytes."""
    return 100 * sum(length * often for length, often in sentences.items()) * settings.character_s
