"""Nothing leaves without a permit, and nothing after it was taken back. The far end of a pty is the witness."""

import os
import pty
import select
import termios
import tty
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from humble_courier.app.talk.one_call import say
from humble_courier.app.talk.typed_words import Typed
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput, HeldOff, NotArmed
from humble_courier.port.authority import Authority
from humble_courier.port.driver import BackgroundDriver, Driver
from humble_courier.port.log import LineLog, as_text, read_log
from humble_courier.port.permit import Permit
from humble_courier.port.port import OpenPort, open_port
from humble_courier.port.session import Session
from tests.conftest import until
from tests.virtual_time import VirtualTime

AT = Settings.parse("9600,8N1,xon-xoff")
LONG = bytes(range(32, 122)) * 667  # more than any buffer of the tty layer


@pytest.fixture
def pair() -> Iterator[tuple[int, str]]:
    master, slave = pty.openpty()
    tty.setraw(slave)
    os.set_blocking(master, False)
    yield master, os.ttyname(slave)
    os.close(master)
    os.close(slave)


def arrives(master: int, within_s: float = 0.05) -> bytes:
    """All that arrives at the far end, until nothing has for a moment of the kernel's own time."""
    if VirtualTime.here is not None:
        VirtualTime.here.pass_s(0.3)
    got = bytearray()
    while select.select([master], [], [], within_s)[0]:
        got += os.read(master, 65_536)
    return bytes(got)


def held_off(name: str, on: bool) -> None:
    """The far end says stop, or go: as XOFF and XON do, and done when this returns (tcflow(3))."""
    descriptor = os.open(name, os.O_RDWR | os.O_NOCTTY)
    termios.tcflow(descriptor, termios.TCOOFF if on else termios.TCOON)
    os.close(descriptor)


@pytest.mark.parametrize("held_by_a_permit", [None, "ended", "withdrawn"])
@pytest.mark.parametrize("act", ["bytes", "break", "lines"])
def test_a_permit_is_the_only_way_out(pair: tuple[int, str], act: str, held_by_a_permit: str | None) -> None:
    port = open_port(pair[1], AT)
    permit = None if held_by_a_permit is None else Permit("a test", 0.0 if held_by_a_permit == "ended" else 1e12)
    if permit is not None and held_by_a_permit == "withdrawn":
        permit.withdraw()
    acts: dict[str, Callable[[OpenPort], object]] = {
        "bytes": lambda p: p.put(b"x", permit), "break": lambda p: p.send_break(0.01, permit),
        "lines": lambda p: p.set_lines(True, True, permit),
    }  # fmt: skip
    with pytest.raises(NotArmed):
        acts[act](port)
    with pytest.raises(NotArmed):
        port.write(b"x", permit, 1.0)
    assert arrives(pair[0]) == b"" and (port.lines().dtr, port.lines().rts) == (False, False)
    port.close()


@pytest.mark.parametrize("end", ["disarm", "close"])
def test_bytes_that_the_device_holds_off_do_not_leave_later(
    pair: tuple[int, str], tmp_path: Path, end: str, clock: VirtualTime
) -> None:
    master, name = pair
    log = LineLog(tmp_path / "log.jsonl", clock)
    driver = Driver(open_port(name, AT, clock=clock), Session(AT, authority=Authority(clock)), log, clock)
    background = BackgroundDriver(driver, lambda: None)
    held_off(name, True)
    driver.session.arm("a test")
    background.do(lambda one: one.say_bytes(LONG))
    until(lambda: driver.session.last_said is not None)
    arrived = arrives(master)
    begun = clock.now()
    driver.session.disarm()
    if end == "close":
        background.stop()
        assert clock.now() - begun < 0.3
    said = driver.session.last_said
    assert said is not None
    until(lambda: said.unsent)
    assert clock.now() - begun < 0.3
    held_off(name, False)
    arrived += arrives(master)
    assert len(arrived) + said.unsent == len(LONG) and said.unsent > len(LONG) / 2
    if end == "disarm":
        assert background.error is None and background.driver.session.armed is False
        background.stop()
    pieces = read_log(log.path.read_bytes()).pieces
    assert sum(piece.unsent for piece in pieces) == said.unsent
    assert f"the last {said.unsent} bytes of it were not sent" in list(as_text(pieces))[-1]


def test_a_refusal_is_an_answer_and_no_death(pair: tuple[int, str], clock: VirtualTime) -> None:
    background = BackgroundDriver(Driver(open_port(pair[1], AT, clock=clock), Session(AT), clock=clock), lambda: None)
    background.do(lambda driver: driver.say_bytes(b"never"))
    until(lambda: background.refused)
    os.write(pair[0], b"still here\n")
    until(lambda: background.driver.session.bytes_heard == 11)
    assert isinstance(background.refused, NotArmed) and background.error is None
    background.stop()
    assert arrives(pair[0]) == b""


def test_a_line_that_is_held_off_returns_in_time(pair: tuple[int, str]) -> None:
    first = open_port(pair[1], AT)
    held_off(pair[1], True)
    with pytest.raises(HeldOff, match="were not sent"):
        first.write(LONG, Permit("a test"), 0.2)
    first.close()


def test_say_keeps_to_its_time_out_and_tells_what_was_not_sent(pair: tuple[int, str], clock: VirtualTime) -> None:
    held_off(pair[1], True)
    begun = clock.now()
    result = say(pair[1], AT, Typed(LONG.decode()), True, 0.5, authority=Authority(clock))
    assert clock.now() - begun < 1.0
    held_off(pair[1], False)
    assert result.unsent == len(LONG) + 1 and arrives(pair[0]) == b""


def test_a_break_that_nobody_could_stop_is_refused(pair: tuple[int, str]) -> None:
    port = open_port(pair[1], AT)
    with pytest.raises(BadInput, match="at most"):
        port.send_break(5.0, Permit("a test"))
    port.close()


def test_logs_never_share_a_file(tmp_path: Path) -> None:
    logs = [LineLog(tmp_path / "2026-11-26-101112-link.jsonl") for _ in range(3)]
    for number, log in enumerate(logs):
        log.begin("/dev/ttyUSB0", "9600,8N1")
        log.said(1.0, bytes((number,)))
        log.close()
    assert len({log.path for log in logs}) == 3
    assert [[piece.data for piece in read_log(log.path.read_bytes()).pieces] for log in logs] == [[b"\0"], [b"\1"], [b"\2"]]
    logs[0].said(2.0, b"on")  # one that was closed goes on in its own file
    logs[0].close()
    assert len(read_log(logs[0].path.read_bytes()).pieces) == 2 and len(list(tmp_path.iterdir())) == 3


def test_what_was_asked_for_before_a_disarm_does_not_leave_after_the_next_arm(
    pair: tuple[int, str], clock: VirtualTime
) -> None:
    driver = Driver(open_port(pair[1], AT, clock=clock), Session(AT), clock=clock)
    background = BackgroundDriver(driver, lambda: None)
    with driver.lock:  # the thread waits here, as it does while much is heard
        driver.session.arm("the first")
        background.do(lambda one: one.say_bytes(b"one"))
        background.do(lambda one: one.say_bytes(b"old"))
        driver.session.disarm()
        driver.session.arm("the second")
    until(lambda: background.refused)
    background.do(lambda one: one.say_bytes(b"new"))
    assert arrives(pair[0]).endswith(b"new") and driver.session.last_said is not None
    assert b"old" not in b"".join(one.data for one in driver.session.utterances)
    background.stop()
