"""The session without a port: armed or not, utterances, doubts, bounds."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.domain.received import Heard
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator
from humble_courier.domain.utterance import Who
from humble_courier.errors import MachineRefused
from humble_courier.line.marked import stuff
from humble_courier.port.session import KEPT_BYTES, KEPT_UTTERANCES, LONGEST_UTTERANCE, SHORTEST_PAUSE_S, Session
from humble_courier.protocols import j1708

AT = Settings.parse("9600,8N1")


def test_nothing_is_said_before_it_is_armed() -> None:
    session = Session(AT)
    with pytest.raises(MachineRefused, match="listening only"):
        session.say(0.0, "ID", Terminator.CRLF)
    assert session.utterances == []
    session.arm("may say ID")
    assert session.say(0.0, "ID", Terminator.CRLF) == b"ID\r\n"
    session.disarm()
    with pytest.raises(MachineRefused):
        session.say(1.0, "ID", Terminator.CRLF)


def test_lines_and_pauses_make_utterances() -> None:
    session = Session(AT)
    for t, data in ((0.0, b"ONE\r\nTW"), (0.01, b"O\r\n"), (0.02, b"THR"), (5.0, b"EE")):
        session.hear(t, data)
    assert [u.data for u in session.utterances] == [b"ONE\r\n", b"TWO\r\n", b"THR", b"EE"]
    assert session.pause_s == SHORTEST_PAUSE_S
    assert [session.complete(u, 5.001) for u in session.utterances] == [True, True, True, False]
    assert session.complete(session.utterances[-1], 6.0)


def test_doubts_are_counted() -> None:
    session = Session(AT)
    session.hear(0.0, b"A\xff\x00B\xff\x00\x00\xff\xff")
    assert (session.bytes_heard, session.errors, session.breaks) == (4, 1, 1)
    assert session.utterances[0].doubtful == 2
    assert session.summary == "4 bytes, 1 with errors, 1 break"


@given(st.lists(st.binary(max_size=30), max_size=20))
def test_nothing_heard_is_lost(pieces: list[bytes]) -> None:
    session = Session(AT)
    for i, piece in enumerate(pieces):
        session.hear(i * 0.01, stuff([Heard(b) for b in piece]))
    assert b"".join(u.data for u in session.utterances) == b"".join(pieces)
    assert all(u.who is Who.THEY for u in session.utterances)


def test_noise_without_end_is_bounded() -> None:
    session = Session(AT)
    for i in range(40):
        session.hear(i * 0.001, b"x" * 1000, marked=False)
    assert max(len(u) for u in session.utterances) <= LONGEST_UTTERANCE
    assert all("without an end" in u.cut for u in session.utterances[:-1])
    for i in range(KEPT_UTTERANCES + 50):
        session.hear(100.0 + i, b"\n", marked=False)
    assert len(session.utterances) == KEPT_UTTERANCES


def test_what_we_said_is_found_among_all_that_is_kept_and_goes_with_it() -> None:
    session = Session(AT)
    session.arm("may say READ")
    for i in range(KEPT_UTTERANCES + 400):
        if i % 100 == 7:
            session.say(i, "READ", Terminator.CR)
        session.hear(i + 0.5, b"line\n", marked=False)
        assert i % 250 or session.ours == [u for u in session.utterances if u.who is Who.WE]
    assert 0 < len(session.ours) < 60


def test_messages_every_tenth_of_a_second_are_no_endless_utterance() -> None:
    session, one = Session(AT), j1708.message(128, bytes([190, 0x10, 0x20]))
    for i in range(100):
        session.hear(i * 0.1, one, marked=False)
    assert 8 <= len(session.utterances) <= 12
    assert all("short pause" in u.cut and len(u) % len(one) == 0 for u in session.utterances[:-1])


def test_a_slow_typist_is_cut_once_a_second_and_not_at_each_key() -> None:
    session = Session(AT)
    for i in range(60):
        session.hear(i * 0.15, b"k", marked=False)
    assert max(map(len, session.utterances)) > 5 and len(session.utterances) < 12


def test_a_hundred_megabytes_without_an_end_are_taken_in_bounded_memory() -> None:
    session, piece = Session(AT), b"x" * 1_000_000
    for i in range(100):
        session.hear(i * 0.1, piece, marked=False)
    assert session.bytes_heard == 100_000_000
    assert sum(map(len, session.utterances)) <= KEPT_BYTES + LONGEST_UTTERANCE
