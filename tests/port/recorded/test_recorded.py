"""What the one road to hardware asks of a tty, call by call, in every setting; `recording` is the witness."""

import errno
import fcntl
import os
import termios
from collections.abc import Callable
from itertools import product

import pytest
import serial.serialposix

from humble_courier.domain.lines import Lines
from humble_courier.domain.settings import Frame, Handshake, Parity, Settings
from humble_courier.errors import BadInput, HeldOff, MachineRefused, NoLines, PortGone, Refusal
from humble_courier.port import port as road
from humble_courier.port.permit import Permit
from humble_courier.port.port import OpenLines, OpenPort, open_port
from tests.port.recorded.recording import NODE, RecordingTty, stands

AT = Settings.parse("9600,8N1")
SIZES = {5: termios.CS5, 6: termios.CS6, 7: termios.CS7, 8: termios.CS8}
# PARENB, PARODD: POSIX.1-2017, termios.h; CMSPAR for mark and space: termios(3) of Linux.
PARITY = {
    "N": set(),
    "E": {"PARENB"},
    "O": {"PARENB", "PARODD"},
    "M": {"PARENB", "PARODD", "CMSPAR"},
    "S": {"PARENB", "CMSPAR"},
}
ALLOWED = Permit("what a test says")


@pytest.fixture
def tty(monkeypatch: pytest.MonkeyPatch) -> RecordingTty:
    made = RecordingTty()
    for name, stand in stands(made).items():
        monkeypatch.setattr(serial.serialposix, name, stand)
        if hasattr(road, name):
            monkeypatch.setattr(road, name, stand)
    return made


def asked(tty: RecordingTty, settings: Settings) -> None:
    """The node stands as some settings want it, errors marked, and nothing is changed by the line discipline."""
    frame = settings.frame
    assert tty.rate == settings.rate
    assert tty.attributes[2] & termios.CSIZE == SIZES[frame.data_bits]
    assert tty.has(2, "PARENB", "PARODD", "CMSPAR") == PARITY[str(frame.parity)]
    assert tty.has(2, "CSTOPB", "CRTSCTS", "CLOCAL", "CREAD") == {"CLOCAL", "CREAD"} | (
        {"CSTOPB"} if frame.stop_bits > 1 else set()
    ) | ({"CRTSCTS"} if settings.handshake is Handshake.RTS_CTS else set())
    software = {"IXON", "IXOFF"} if settings.handshake is Handshake.XON_XOFF else set()
    changing = ("IGNPAR", "IGNBRK", "BRKINT", "ISTRIP", "ICRNL", "INLCR", "IGNCR", "IXANY")
    assert tty.has(0, "IXON", "IXOFF", "PARMRK", "INPCK", *changing) == software | {"PARMRK", "INPCK"}
    assert not tty.has(1, "OPOST") and not tty.has(3, "ICANON", "ECHO", "ISIG", "IEXTEN")
    assert (tty.attributes[6][termios.VMIN], tty.attributes[6][termios.VTIME]) == (0, 0)


FRAMES = [Frame(bits, Parity(parity), stop) for bits, parity, stop in product(SIZES, PARITY, (1, 1.5, 2))]


@pytest.mark.parametrize("handshake", Handshake)
@pytest.mark.parametrize("rate", [50, 9600, 10_400, 115_200, 250_000])
def test_every_setting_is_asked_for_as_it_is(tty: RecordingTty, rate: int, handshake: Handshake) -> None:
    for frame in FRAMES:
        port = open_port(NODE, Settings(rate, frame, handshake))
        asked(tty, Settings(rate, frame, handshake))
        port.close()


@pytest.mark.parametrize("handshake", Handshake)
def test_every_setting_can_be_changed_without_moving_a_line(tty: RecordingTty, handshake: Handshake) -> None:
    port, before = open_port(NODE, AT), len(tty.of("line"))
    for frame in FRAMES:
        port.set(Settings(1200, frame, handshake))
        asked(tty, Settings(1200, frame, handshake))
        assert len(tty.of("line")) == before and not tty.of("close", "write", "break")
    port.set(Settings(31_250, Frame(), handshake))
    asked(tty, Settings(31_250, Frame(), handshake))


@pytest.mark.parametrize("dtr", [False, True])
@pytest.mark.parametrize("rts", [False, True])
def test_lines_are_set_once_at_opening_and_never_the_other_way(tty: RecordingTty, dtr: bool, rts: bool) -> None:
    """The kernel raises both by itself; a port without a reader's knowledge brings them down at once, and in no other order
    than after its settings: a rate that changes under a raised line is seen by the device."""
    open_port(NODE, AT, OpenLines(dtr=dtr, rts=rts))
    assert tty.of("line") == [("line", "DTR", dtr), ("line", "RTS", rts)] and tty.lines == {"DTR": dtr, "RTS": rts}
    names = [call[0] for call in tty.calls]
    assert names.index("open") < names.index("flock") < names.index("set") < names.index("line")
    flags = tty.of("open")[0][1]
    assert flags & (os.O_RDWR | os.O_NOCTTY | os.O_NONBLOCK) == os.O_RDWR | os.O_NOCTTY | os.O_NONBLOCK
    assert tty.of("flock") == [("flock", fcntl.LOCK_EX | fcntl.LOCK_NB)] * len(tty.of("flock"))
    assert not tty.of("write", "break", "tcsendbreak")


def test_a_line_that_a_handshake_works_is_left_to_it(tty: RecordingTty) -> None:
    open_port(NODE, Settings.parse("9600,8N1,rts-cts"))
    assert tty.of("line") == [("line", "DTR", False)]


@pytest.mark.parametrize(("dtr", "rts"), list(product((False, True), repeat=2)))
def test_lines_by_hand_go_where_they_are_sent(tty: RecordingTty, dtr: bool, rts: bool) -> None:
    port = open_port(NODE, AT)
    port.set_lines(dtr, rts, ALLOWED)
    assert tty.lines == {"DTR": dtr, "RTS": rts}
    tty.inputs = {"CTS", "DCD"} if dtr else {"DSR", "RI"}
    assert port.lines() == Lines(rts, dtr, cts=dtr, dsr=not dtr, dcd=dtr, ri=not dtr)


def test_bytes_go_as_they_are_and_as_many_as_are_taken(tty: RecordingTty) -> None:
    port, data = open_port(NODE, AT), bytes(range(256))
    tty.takes = 100
    assert port.put(data, ALLOWED) == 100
    port.write(data[100:], ALLOWED, 1.0)
    assert b"".join(call[1] for call in tty.of("write")) == data
    tty.takes, tty.waiting, before = 0, 40, len(tty.of("write"))
    assert port.put(b"x", ALLOWED) == 0 and len(tty.of("write")) == before
    with pytest.raises(HeldOff, match="43 bytes"):
        port.write(b"abc", ALLOWED, 0.0)
    assert tty.of("flush")[-1] == ("flush", "out") and port.waiting == 0


def test_what_came_is_read_whole_and_what_is_forgotten_is_not(tty: RecordingTty) -> None:
    port = open_port(NODE, AT)
    tty.came = bytes(range(200))
    assert port.read() == bytes(range(200)) and port.marked
    assert port.read(0.001) == b"" and tty.of("select")[-1] == ("select", "read", 0.001)
    port.forget()
    assert tty.of("flush")[-1] == ("flush", "in")


def test_closing_throws_away_what_has_not_left_and_says_how_much(tty: RecordingTty) -> None:
    port = open_port(NODE, AT)
    tty.waiting, before = 17, len(tty.of("line"))
    assert port.close() == 17
    assert [call for call in tty.calls if call[0] in ("flush", "close")][-2:] == [("flush", "out"), ("close",)]
    assert len(tty.of("line")) == before


@pytest.mark.parametrize("seconds", [0.1, 0.25, 0.3])
def test_a_break_begins_and_ends_once(tty: RecordingTty, seconds: float) -> None:
    """By TIOCSBRK and TIOCCBRK: what tcsendbreak makes of a time differs from system to system (tcsendbreak(3))."""
    port = open_port(NODE, AT)
    port.send_break(seconds, ALLOWED)
    assert tty.of("break", "tcsendbreak") == [("break", True), ("break", False)]


@pytest.mark.parametrize(
    ("call", "number", "code"),
    [
        ("open", errno.ENOENT, Refusal.ABSENT), ("open", errno.ENODEV, Refusal.ABSENT),
        ("open", errno.ENXIO, Refusal.ABSENT),
        ("open", errno.EACCES, Refusal.NO_PERMISSION), ("open", errno.EPERM, Refusal.NO_PERMISSION),
        ("open", errno.EBUSY, Refusal.HELD), ("flock", errno.EAGAIN, Refusal.HELD),
        ("open", errno.EISDIR, Refusal.NOT_A_PORT), ("get", errno.ENOTTY, Refusal.NOT_A_PORT),
    ],
)  # fmt: skip
def test_what_the_system_refuses_is_told_by_its_code(tty: RecordingTty, call: str, number: int, code: Refusal) -> None:
    tty.fails = {call: number}
    with pytest.raises(MachineRefused) as caught:
        open_port(NODE, AT)
    assert caught.value.code is code and NODE in caught.value.text and caught.value.remedy not in caught.value.text
    assert caught.value.remedy.split()[0] in ("Plug", "See", "Find", "Choose")  # what to do is told as such
    assert not tty.of("write") and tty.descriptor == -1  # nothing stays open


ACTS: dict[str, Callable[[OpenPort], object]] = {
    "read": lambda port: port.read(), "write": lambda port: port.put(b"x", ALLOWED), "flush": lambda port: port.take_back(),
    "line": lambda port: port.set_lines(True, True, ALLOWED), "inputs": lambda port: port.lines(),
    "break": lambda port: port.send_break(0.1, ALLOWED), "set": lambda port: port.set(Settings.parse("300,7E1")),
}  # fmt: skip


@pytest.mark.parametrize("call", ACTS)
@pytest.mark.parametrize("number", [errno.EIO, errno.ENODEV])
def test_a_port_that_vanishes_is_gone_at_whatever_is_asked(tty: RecordingTty, call: str, number: int) -> None:
    port = open_port(NODE, AT)
    tty.came, tty.fails = b"x", {call: number}
    with pytest.raises(PortGone, match="pulled out"):
        ACTS[call](port)
    tty.fails = {"flush": number}
    assert port.close() == 0 and tty.descriptor == -1


@pytest.mark.parametrize("number", [errno.ENOTTY, errno.EINVAL])
def test_a_port_without_lines_has_none(tty: RecordingTty, number: int) -> None:
    port = open_port(NODE, AT)
    tty.fails = {"inputs": number, "line": number}
    assert port.lines() == Lines(rts=False, dtr=False)
    with pytest.raises(NoLines):
        port.set_lines(True, False, ALLOWED)


def test_a_rate_that_is_refused_is_bad_input_and_the_port_stays(tty: RecordingTty) -> None:
    port = open_port(NODE, AT)
    tty.fails = {"rate": errno.EINVAL}
    with pytest.raises(BadInput, match="refused"):
        port.set(Settings.parse("31250,8N1"))
    tty.fails = {}
    port.set(AT)
    asked(tty, AT)
