"""One direction of a line: whatever is sent, in whatever pieces and pauses, arrives whole, in order and in time."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from humble_courier.domain.received import Doubt
from humble_courier.domain.settings import Settings
from humble_courier.line.uart import hear
from humble_courier.simulator.channel import Channel

AT = Settings.parse("9600,8N1")
pieces = st.lists(st.tuples(st.binary(min_size=1, max_size=8), st.floats(0, 0.05)), max_size=8)


@settings(max_examples=120, deadline=None)
@given(pieces, st.lists(st.floats(0.0001, 0.05), min_size=1, max_size=30))
def test_all_arrives_however_it_is_sent_and_looked_at(sent: list[tuple[bytes, float]], looks: list[float]) -> None:
    channel = Channel(AT, AT)
    t, heard = 0.0, []
    for data, pause in sent:
        channel.send(data, t)
        t += pause
        heard += channel.arrived(t)
    for pause in looks:
        t += pause
        heard += channel.arrived(t)
    heard += channel.arrived(t + 10)
    assert bytes(one.byte for _, one in heard) == b"".join(data for data, _ in sent)
    times = [at for at, _ in heard]
    assert times == sorted(times)
    assert all(one.doubt is Doubt.NONE for _, one in heard)
    assert channel.next_arrival() is None


@given(st.binary(min_size=1, max_size=20))
def test_nothing_arrives_before_its_time(data: bytes) -> None:
    channel = Channel(AT, AT)
    end = channel.send(data, 1.0)
    assert end == pytest.approx(1.0 + len(data) * AT.character_s)
    for n in range(len(data)):
        assert len(channel.arrived(1.0 + n * AT.character_s)) in (0, 1)
    assert channel.next_arrival() == pytest.approx(1.0 + (len(data) - 0.05) * AT.character_s, abs=1e-4)


@settings(max_examples=60, deadline=None)
@given(st.binary(min_size=1, max_size=10), st.sampled_from(["1200,7E1", "4800,8N1", "19200,8O1", "115200,8N1"]))
def test_other_settings_garble_as_the_receiver_says(data: bytes, other: str) -> None:
    heard_as = Settings.parse(other)
    channel = Channel(AT, heard_as)
    channel.send(data, 0.0)
    got = hear(AT, heard_as, data)
    heard = [one for _, one in channel.arrived(100.0)]
    assert [one.byte for one in heard] == [0 if brk else int(v) for v, brk in zip(got.values, got.breaks, strict=True)]
    doubts = got.framing | got.parity | got.breaks
    assert [one.doubt is not Doubt.NONE for one in heard] == list(doubts)


def test_an_open_conductor_carries_nothing_but_takes_the_time() -> None:
    channel = Channel(AT, AT, connected=False)
    assert channel.send(b"ABC", 0.0) == pytest.approx(3 * AT.character_s)
    assert channel.arrived(10.0) == []


def test_a_receiver_set_anew_loses_what_was_under_way() -> None:
    channel = Channel(AT, AT)
    channel.send(b"ABCD", 0.0)
    first = channel.arrived(1.5 * AT.character_s)
    channel.set_receiver(Settings.parse("9600,8E1"), 1.5 * AT.character_s)
    rest = channel.arrived(1.0)
    assert [one.byte for _, one in first] == [ord("A")]
    assert len(rest) >= 2


@pytest.mark.parametrize("now", [0.0, 1040.123, 98_765.4321])
@pytest.mark.parametrize("rate", [110, 9600, 921_600, 1_000_000])
def test_what_is_sent_the_moment_a_port_is_set_is_read_whole(now: float, rate: int) -> None:
    at = Settings(rate)
    channel = Channel(at, Settings(300))
    channel.set_receiver(at, now)
    channel.send(b"\nVER\n", now)
    heard = channel.arrived(now + 10.0)
    assert bytes(one.byte for _, one in heard) == b"\nVER\n" and all(one.doubt is Doubt.NONE for _, one in heard)
