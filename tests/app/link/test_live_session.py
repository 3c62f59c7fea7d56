"""The open port by hand, over a pty whose far end the test holds: what is refused, repeated, waited for, kept."""

import os
import pty
import tty
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.app.link.live_session import WAITS_S, LiveSession
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.port.opening import start
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput
from humble_courier.port.log import LineLog, Piece, merged, newest, read_log
from tests.conftest import until

AT = Settings.parse("9600,8N1")


@pytest.fixture
def held(tmp_path: Path) -> Iterator[tuple[LiveSession, int]]:
    """An open port, and the descriptor of its far end."""
    main, far = pty.openpty()
    tty.setraw(far)
    os.set_blocking(main, False)
    live, log = LiveSession(lambda: None), LineLog(tmp_path / "logs" / "line.jsonl")
    driver = start(os.ttyname(far), AT, log=log)
    log.begin("pty", str(AT))
    live.open(driver, log)
    yield live, main
    live.close()
    os.close(main)
    os.close(far)


def heard_at(far: int) -> bytes:
    try:
        return os.read(far, 4096)
    except BlockingIOError:
        return b""


def test_a_closed_port_refuses_in_words() -> None:
    live = LiveSession(lambda: None)
    assert not live.listening and not live.armed and live.session is None and live.utterances() == []
    assert live.log_path is None and live.log_problem == "" and live.waiting == "" and live.search("x") == []
    by_hand = (lambda: live.say("ID", Terminator.CR, ""), lambda: live.say_bytes(b"x"), live.send_break)
    for act in (*by_hand, lambda: live.set_lines(True, True)):
        with pytest.raises(BadInput, match="arm first"):
            act()


def test_nothing_leaves_before_arming_and_what_leaves_is_in_the_log(held: tuple[LiveSession, int]) -> None:
    live, far = held
    with pytest.raises(BadInput, match="arm first"):
        live.say("ID", Terminator.CRLF, "")
    assert heard_at(far) == b""
    live.arm("may say ID")
    live.say("ID", Terminator.LFCR, "who")
    got = bytearray()
    until(lambda: got.extend(heard_at(far)) or bytes(got) == b"ID\n\r")
    os.write(far, b"ID 7\r\n")
    until(lambda: any(u.text == "ID 7" for u in live.utterances()))
    path = live.log_path
    assert path is not None
    live.close()
    assert not live.armed and [u.text for u in live.utterances()] == ["ID", "ID 7"]
    pieces = read_log(path.read_bytes()).pieces
    assert (pieces[0].who, pieces[0].data) == ("we", b"ID\n\r")
    assert b"".join(p.data for p in pieces if p.who == "they") == b"ID 7\r\n"
    live.forget()
    assert live.session is None


def test_repeating_ends_with_disarming(held: tuple[LiveSession, int]) -> None:
    live, far = held
    live.arm("may say LV")
    live.repeat(b"LV\r", 0.03)
    got = bytearray()
    until(lambda: (got.extend(heard_at(far)), got.count(b"LV\r") >= 3)[1])
    live.disarm()
    assert not live.repeating


def test_an_answer_is_waited_for_until_its_time_is_over(
    held: tuple[LiveSession, int], monkeypatch: pytest.MonkeyPatch
) -> None:
    live, far = held
    live.wait_for(r"OK (\d+)")
    assert live.waiting == r"Waiting for OK (\d+)"
    monkeypatch.setattr("humble_courier.app.link.live_session.WAITS_S", 0.0)
    assert "did not come within" in live.waiting and WAITS_S > 1
    os.write(far, b"noise\r\nOK 12\r\n")
    until(lambda: live.waiting == "It came: OK 12")
    assert live.search("ok 12")[0].text == "OK 12"


@given(st.lists(st.tuples(st.sampled_from(["we", "they"]), st.binary(min_size=1, max_size=12)), max_size=12))
def test_lines_of_a_log_hold_every_byte_once(said: list[tuple[str, bytes]]) -> None:
    pieces = [Piece(1.0, who, data.hex(), {"0": "error"}) for who, data in said]
    lines = list(merged(pieces))
    for who in ("we", "they"):
        assert b"".join(p.data for p in lines if p.who == who) == b"".join(data for w, data in said if w == who)
    assert sum(len(line.doubt) for line in lines) == len(said)
    assert all(line.data.count(b"\n") <= 1 for line in lines)


def test_the_newest_part_of_a_long_log_begins_with_a_whole_line(tmp_path: Path) -> None:
    log = LineLog(tmp_path / "long.jsonl")
    log.begin("p", str(AT))
    for i in range(500):
        log.said(float(i), b"line %d\n" % i)
    log.close()
    whole, part = read_log(log.path.read_bytes()).pieces, read_log(newest(log.path, 3000)).pieces
    assert 20 < len(part) < 100 and part == whole[-len(part) :]
    assert read_log(newest(log.path, 10_000_000)).pieces == whole


def test_a_quick_disarm_and_arm_revives_nothing_that_talks_by_itself(link: OpenLink) -> None:
    link.listen()
    link.arm()
    link.live.repeat(b"U", 0.05)
    link.live.when("never", b"x")
    link.live.disarm()
    link.arm()  # before anybody has polled
    assert not link.live.repeating and "is sent once" not in link.live.waiting
    link.stop()
