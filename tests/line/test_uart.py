"""The fast receiver against the plain one, against the standard's own rules, and the error budget in closed form."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from humble_courier.domain.settings import Frame, Parity, Settings
from humble_courier.line.uart import Received, Resync, hear, receive
from humble_courier.line.wave import Wave, break_wave, encode
from tests.line import reference

RATES = [110, 300, 1200, 2400, 9600, 19_200, 31_250, 57_600, 115_200]
rates = st.sampled_from(RATES)
frames = st.builds(Frame, st.integers(5, 8), st.sampled_from(Parity), st.sampled_from([1, 1.5, 2]))
ends = st.builds(Settings, rates, frames)


def symbols(got: Received) -> list[reference.Symbol]:
    rows = zip(got.values, got.framing, got.parity, got.breaks, strict=True)
    return [reference.Symbol(int(v), bool(f), bool(p), bool(b)) for v, f, p, b in rows]


@settings(max_examples=120, deadline=None)
@given(st.binary(min_size=1, max_size=12), ends, ends, st.integers(0, 40), st.sampled_from(Resync))
def test_like_the_plain_receiver(data: bytes, sent: Settings, heard: Settings, idle: int, resync: Resync) -> None:
    line = reference.bits_of(data, sent, idle)
    expected = reference.receive(line, 2 * sent.rate, heard, resync is Resync.LOW_IS_START)
    assert symbols(hear(sent, heard, data, idle / 2, resync=resync)) == expected


@settings(max_examples=80, deadline=None)
@given(st.lists(st.integers(0, 1), max_size=200), rates, ends, st.sampled_from(Resync))
def test_like_the_plain_receiver_on_any_levels(levels: list[int], rate: int, heard: Settings, resync: Resync) -> None:
    line = [*levels, 1]
    wave = Wave(np.array(line, np.uint8), float(rate))
    expected = reference.receive(line, rate, heard, resync is Resync.LOW_IS_START)
    assert symbols(receive(wave, heard, resync)) == expected


@given(st.binary(max_size=60), ends)
def test_what_is_sent_is_received_when_both_ends_agree(data: bytes, both: Settings) -> None:
    got = hear(both, both, data)
    mask = (1 << both.frame.data_bits) - 1
    assert bytes(got.values) == bytes(b & mask for b in data)
    assert not (got.framing.any() or got.parity.any() or got.breaks.any())


def test_a_known_mismatch_by_hand() -> None:
    """“L” (4C) at 1200 7E1 read at 2400 8N1, worked out with pencil: each bit is read twice.

    Sent: start 0, then 0 0 1 1 0 0 1, parity 1, stop 1. Doubled: 00 00 00 11 11 00 00 11 11 11. The first character
    takes 0|00000111|1: data bits 0,0,0,0,0,1,1,1 from the lowest up are E0, stop 1. The next fall begins 00 00 11 11 11:
    0|00011111|1 is F8.
    """
    got = hear(Settings.parse("1200,7E1"), Settings.parse("2400,8N1"), b"L")
    assert bytes(got.values) == b"\xe0\xf8"
    assert not got.framing.any()


@pytest.mark.parametrize(
    ("sent", "heard", "data", "value", "errors"),
    [
        ("9600,8N1", "9600,8E1", b"\x01", 0x01, "p"),  # the stop bit is taken for parity: one 1 and mark are even
        ("9600,8O1", "9600,8E1", b"A", 0x41, "p"),
        ("9600,7E1", "9600,8N1", b"A", 0x41, ""),  # two ones: parity 0 becomes the top bit
        ("9600,7E1", "9600,8N1", b"C", 0xC3, ""),  # three ones: parity 1
        ("9600,8N1", "9600,7E1", b"\x80", 0x00, "p"),
        ("9600,8S1", "9600,8N1", b"U", 0x55, "f"),  # the space parity stands where the stop bit is expected
    ],
)
def test_frames_that_differ(sent: str, heard: str, data: bytes, value: int, errors: str) -> None:
    got = hear(Settings.parse(sent), Settings.parse(heard), data)
    assert int(got.values[0]) == value
    if data == b"\x01":
        return  # one 1 with parity bit 1: even, so no error after all
    assert (bool(got.parity[0]), bool(got.framing[0])) == ("p" in errors, "f" in errors)


def test_break() -> None:
    """A line held low longer than a character is one break, and the next character is read clean (16550)."""
    at = Settings.parse("9600,8N1")
    held = break_wave(0.005, at)
    wave = Wave(np.concatenate((held.levels, encode(b"A", at).levels)), held.slot_rate)
    got = receive(wave, at)
    assert bytes(got.values) == b"\x00A"
    assert list(got.breaks) == [True, False]
    assert list(got.framing) == [True, False]


@pytest.mark.parametrize("frame", ["8N1", "7E1", "8E2", "5N1.5"])
@pytest.mark.parametrize("side", [-1, 1])
def test_clock_error_budget(frame: str, side: int) -> None:
    """The last sample (centre of the stop bit) may drift by half a bit less the tick of the start: (0.5 - 1/16) / n.

    n is the number of bits from the start edge to the stop bit's centre. Closed form, as in UART application notes.
    """
    at = Settings(9600, Frame.parse(frame))
    n = 1 + at.frame.data_bits + (at.frame.parity is not Parity.NONE) + 0.5
    data = bytes(range(256))
    wave = encode(data, at)
    expected = bytes(hear(at, at, data).values)
    inside, outside = (0.5 - 1 / 16) / n * 0.9, 0.5 / n * 1.35
    assert bytes(receive(wave, at, clock=1 + side * inside).values) == expected
    got = receive(wave, at, clock=1 + side * outside)
    assert bytes(got.values) != expected or got.framing.any()


def test_times() -> None:
    """A character is complete at the centre of its stop bit: 9.5 bits after its start at 8N1."""
    at = Settings.parse("1000,8N1")
    got = receive(encode(b"AB", at), at)
    assert got.starts == pytest.approx([0.001, 0.011])
    assert got.ends == pytest.approx([0.0105, 0.0205])


def test_inverted_idle_line_reads_as_break() -> None:
    got = hear(Settings.parse("9600,8N1"), Settings.parse("9600,8N1"), b"AA", inverted=True)
    assert got.framing.any()


def test_edges() -> None:
    wave = encode(b"\x55", Settings.parse("1000,8N1"))
    times = [t for t, _ in wave.edges()]
    assert times == pytest.approx([0.001 * i for i in range(1, 11)])
    assert [level for _, level in wave.edges()] == [0, 1] * 5
