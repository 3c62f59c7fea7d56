"""The road to a port: what the machine refuses, in words; a pty; errors marked on a real tty layer."""

import os
import pty
import socket
import threading
import tty
from collections.abc import Iterator
from pathlib import Path

import pytest
import serial
import serial.rfc2217

from humble_courier.app.talk.one_call import listen, say
from humble_courier.app.talk.typed_words import Typed
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput, MachineRefused, PortGone
from humble_courier.port.driver import BackgroundDriver, Driver
from humble_courier.port.permit import Permit
from humble_courier.port.port import OpenLines, open_port
from humble_courier.port.session import Session
from tests.conftest import until
from tests.virtual_time import HUNG_S

AT = Settings.parse("9600,8N1")


@pytest.fixture
def pair() -> Iterator[tuple[int, str]]:
    """A pty: the far end's descriptor and the near end's name."""
    master, slave = pty.openpty()
    tty.setraw(slave)
    yield master, os.ttyname(slave)
    for fd in (master, slave):
        try:
            os.close(fd)
        except OSError:
            continue  # a test pulled this end


@pytest.mark.parametrize(
    ("address", "kind", "told"),
    [
        ("/dev/ttyNONE9", MachineRefused, "there is no port"),
        ("/dev/null", MachineRefused, "not a serial port"),
        ("/", MachineRefused, "not a serial port"),
        ("nonsense://x", BadInput, "nonsense"),
        ("SPY:///dev/null?file=there", BadInput, "expected a port"),
        ("hwgrep://x", BadInput, "expected a port"),
        ("alt:///dev/null?class=PosixPollSerial", BadInput, "expected a port"),
        ("sim://bench/nothing", BadInput, "unknown device"),
        ("sim://bench/gauge-logger?colour=red", BadInput, "colour"),
        ("socket://127.0.0.1:1", MachineRefused, "cannot be opened"),
    ],
)
def test_refusals(address: str, kind: type[Exception], told: str) -> None:
    with pytest.raises(kind, match=told) as caught:
        listen(address, AT, 0.1)
    assert "\n" not in str(caught.value)


def test_a_port_is_held_by_one_program(pair: tuple[int, str]) -> None:
    first = open_port(pair[1], AT)
    with pytest.raises(MachineRefused, match="held by another program"):
        open_port(pair[1], AT)
    first.close()
    open_port(pair[1], AT).close()


def test_no_permission(pair: tuple[int, str]) -> None:
    """As root the test becomes nobody for the while: root may open everything."""
    me = os.geteuid()
    Path(pair[1]).chmod(0)
    try:
        if me == 0:
            os.seteuid(65_534)
        with pytest.raises(MachineRefused, match="no permission"):
            open_port(pair[1], AT)
    finally:
        os.seteuid(me)


def test_a_real_tty_layer_carries_every_byte(pair: tuple[int, str]) -> None:
    """With PARMRK set the tty layer doubles FF; nothing of that may show."""
    port, session = open_port(pair[1], AT), Session(AT)
    driver = Driver(port, session)
    sent = bytes(range(256))
    os.write(pair[0], sent)
    heard = bytearray()
    until(lambda: len(heard.extend(driver.step().data) or heard) >= len(sent))
    assert bytes(heard) == sent
    assert session.errors == 0
    port.close()


def test_what_is_said_goes_out_as_it_is(pair: tuple[int, str]) -> None:
    port, session = open_port(pair[1], AT), Session(AT)
    driver = Driver(port, session)
    with pytest.raises(MachineRefused):
        driver.say("ID", Terminator.CR)
    session.arm("test")
    driver.say("\u00ffID", Terminator.CRLF)
    assert os.read(pair[0], 100) == b"\xffID\r\n"
    with pytest.raises(BadInput, match="one byte"):
        driver.say("\u20ac", Terminator.CR)
    port.close()


def test_the_far_end_goes_away() -> None:
    master, slave = pty.openpty()
    tty.setraw(slave)
    name = os.ttyname(slave)
    port = open_port(name, AT)
    changes: list[int] = []
    background = BackgroundDriver(Driver(port, Session(AT)), lambda: changes.append(1))
    os.write(master, b"HELLO\r\n")
    until(lambda: background.driver.session.bytes_heard == 7)
    os.close(slave)
    os.close(master)
    until(lambda: background.error is not None)
    assert isinstance(background.error, PortGone)
    assert "is gone" in str(background.error)
    assert background.driver.session.utterances[0].data == b"HELLO\r\n"
    background.stop()


def test_lines_are_low_unless_somebody_knows_that_they_may_rise() -> None:
    from humble_courier import simulator

    simulator.install()
    address = "sim://bench/gauge-logger?chain=usb-rs232,crossed-de9-looped&power=on"
    low = open_port(address, AT)
    assert (low.lines().rts, low.lines().dtr, low.lines().cts, low.lines().dsr) == (False, False, False, False)
    high = open_port(address, AT, OpenLines(dtr=True, rts=True))
    assert (high.lines().rts, high.lines().dtr, high.lines().cts, high.lines().dsr) == (True, True, True, True)


def test_listening_keeps_what_was_heard_when_the_port_vanishes() -> None:
    result = listen("sim://bench/gauge-logger?vanish=21&pace=10", Settings.parse("1200,7E1"), 1.0)
    assert result.text.startswith("LEVEL LOGGER")
    assert result.gone is None
    cut = listen("sim://bench/gauge-logger?vanish=2.1&pace=2", Settings.parse("1200,7E1"), 5.0)
    assert cut.gone is not None
    assert "LEVEL LOGGER FW 3.1 READY\r\n".startswith(cut.text)
    assert len(cut.text) >= 8


def test_say_waits_for_the_whole_answer() -> None:
    at, address = Settings.parse("1200,7E1"), "sim://bench/gauge-logger?power=on&pace=5"
    with pytest.raises(MachineRefused, match="--arm"):
        say(address, at, Typed("ID", end=Terminator.CRLF), armed=False)
    result = say(address, at, Typed("ID", end=Terminator.CRLF, expect=r"SN (?P<serial>\d+)"), armed=True)
    assert (result.matched, result.fields) == (True, {"serial": "20418"})
    assert say(address, at, Typed("ID", end=Terminator.CRLF, expect="NOBODY"), armed=True, timeout=0.5).matched is False
    assert say(address, at, Typed("LV", end=Terminator.CRLF), armed=True).received == b"LV +01.284 M OK\r\n"


@pytest.mark.filterwarnings("ignore:set(Daemon|Name)")  # pyserial 3.5, rfc2217.py
@pytest.mark.parametrize("scheme", ["socket", "rfc2217"])
def test_device_servers_on_the_network(scheme: str) -> None:
    """A server of ours on this machine: raw, and by pyserial's own RFC 2217 side; both carry the words there and back."""
    ready = threading.Event()
    listener = socket.create_server(("127.0.0.1", 0))
    listener.settimeout(10)

    def serve() -> None:
        ready.set()
        connection, _ = listener.accept()
        with connection:
            connection.settimeout(HUNG_S)
            device = serial.serial_for_url("loop://", timeout=0)
            manager = serial.rfc2217.PortManager(device, Sender(connection)) if scheme == "rfc2217" else None
            while data := connection.recv(1024):
                plain = b"".join(manager.filter(data)) if manager else data
                if b"ID" in plain:
                    answer = b"ID SKW\r\n"
                    connection.sendall(b"".join(manager.escape(answer)) if manager else answer)

    thread = threading.Thread(target=serve)
    thread.start()
    ready.wait()
    port = open_port(f"{scheme}://127.0.0.1:{listener.getsockname()[1]}", Settings.parse("9600,8N1"))
    try:
        port.write(b"ID\r\n", Permit("a test"), 1.0)
        heard = bytearray()
        until(lambda: heard.extend(port.read()) or b"ID SKW" in heard)
    finally:
        port.close()
        thread.join(timeout=10)
        listener.close()


class Sender:
    """What pyserial's RFC 2217 server side writes through."""

    def __init__(self, connection: socket.socket) -> None:
        self._connection = connection

    def write(self, data: bytes) -> None:
        self._connection.sendall(bytes(data))
