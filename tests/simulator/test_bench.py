"""The simulated port: its times, its handshake lines, its wiring, and what pyserial promises of any port."""

from itertools import pairwise

import pytest
import serial

from humble_courier import simulator
from humble_courier.domain.clock import ManualClock
from humble_courier.domain.received import Heard
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput
from humble_courier.simulator.address import SimAddress
from humble_courier.simulator.bench import Bench, Wires
from humble_courier.simulator.devices.device import Device
from humble_courier.simulator.port import SimulatedPort

LOGGER = "sim://bench/gauge-logger"
GREETING = b"LEVEL LOGGER FW 3.1 READY\r\n"


def port(query: str = "", settings: tuple[int, int, str] = (1200, 7, "E"), **more: object) -> SimulatedPort:
    """A port on a clock that moves only when somebody waits."""
    simulator.install()
    made = serial.serial_for_url(LOGGER + query, do_not_open=True)
    assert isinstance(made, SimulatedPort)
    made.goes_by(ManualClock(100.0))
    made.baudrate, made.bytesize, made.parity = settings
    made.timeout = 5.0
    for name, value in more.items():
        setattr(made, name, value)
    made.open()
    return made


def now(made: SimulatedPort) -> float:
    return made.clock.now()


def test_the_power_up_line_takes_its_time() -> None:
    """Switched on after 0.5 s, ready 1.5 s later; 27 characters of ten bits at 1200 bit/s, the last at its stop's centre."""
    made = port()
    assert made.read_until(b"\n") == GREETING
    assert now(made) == pytest.approx(100 + 0.5 + 1.5 + (27 * 10 - 0.5) / 1200, abs=1e-3)


def test_characters_arrive_one_after_the_other() -> None:
    made = port()
    times = []
    for _ in range(10):
        made.read(1)
        times.append(now(made))
    gaps = [b - a for a, b in pairwise(times)]
    assert gaps == pytest.approx([10 / 1200] * 9, abs=1e-4)


def test_question_and_answer() -> None:
    made = port("?power=on")
    asked = now(made)
    made.write(b"ID\r\n")
    assert made.read_until(b"\n") == b"ID SKW-GH-07 FW3.1 SN 20418\r\n"
    # four characters there, 70 ms to think, 29 back
    assert now(made) - asked == pytest.approx(4 * 10 / 1200 + 0.07 + 29 * 10 / 1200, abs=2e-3)


@pytest.mark.parametrize("words", [b"ID\r", b"ID\n", b"ID"])
def test_wrong_terminator_means_silence(words: bytes) -> None:
    made = port("?power=on", timeout=1.0)
    made.write(words)
    assert made.read(1) == b""


@pytest.mark.parametrize(
    ("chain", "hears"),
    [
        ("usb-rs232,crossed-de9-3wire", True),
        ("usb-rs232,crossed-de9-full", True),
        ("usb-rs232,straight-de9,crossover-adapter-de9", True),
        ("crossed-de9-3wire", True),
        ("usb-rs232,straight-de9", False),
        ("usb-rs232,patch-8p8c", False),
        ("usb-rs232", False),
        ("usb-rs232,straight-de9,straight-de9", False),
    ],
)
def test_the_wiring_decides(chain: str, hears: bool) -> None:
    made = port(f"?chain={chain}")
    assert (made.read_until(b"\n") == GREETING) is hears


def test_wrong_settings_garble_both_ways() -> None:
    made = port("", (2400, 8, "N"))
    made.marked = True
    heard = made.read(200)
    assert heard.startswith(b"\xe0\xf8\xff\x00\x66\xff\x00\x78")
    made.write(b"ID\r\n")
    assert made.read(1) == b""


def test_a_device_set_otherwise() -> None:
    made = port("?settings=9600,8N1", (9600, 8, "N"))
    assert made.read_until(b"\n") == GREETING


def test_handshake_lines_follow_the_wiring() -> None:
    """A full crossed cable: its RTS is our CTS, its DTR our DSR and DCD. Nothing before it has power."""
    made = port("?chain=usb-rs232,crossed-de9-full")
    assert (made.cts, made.dsr, made.cd, made.ri) == (False, False, False, False)
    made.read_until(b"\n")
    assert (made.cts, made.dsr, made.cd, made.ri) == (True, True, True, False)
    three = port("?chain=usb-rs232,crossed-de9-3wire&power=on")
    assert (three.cts, three.dsr, three.cd) == (False, False, False)


def test_looped_handshake_shows_our_own_lines() -> None:
    made = port("?chain=usb-rs232,crossed-de9-looped&power=on")
    made.rts = False
    assert made.cts is False
    made.rts = True
    assert made.cts is True


def test_rts_cts_holds_back_until_the_other_end_is_ready() -> None:
    made = port("?chain=usb-rs232,crossed-de9-3wire&power=on", rtscts=True, timeout=1.0)
    made.write(b"ID\r\n")
    assert made.out_waiting == 4
    assert made.read(1) == b""
    through = port("?chain=usb-rs232,crossed-de9-full&power=on", rtscts=True)
    through.write(b"ID\r\n")
    assert through.read_until(b"\n").startswith(b"ID SKW")


def test_a_break_spoils_the_line_it_stands_in() -> None:
    made = port("?power=on", timeout=1.0)
    made.send_break(0.3)
    made.write(b"ID\r\n")
    assert made.read_until(b"\n") == b"?\r\n"  # the break's zero spoils the line it stands in
    made.write(b"ID\r\n")
    assert made.read_until(b"\n").startswith(b"ID SKW")


def test_the_plug_is_pulled() -> None:
    made = port("?vanish=2.1", timeout=10)
    assert len(made.read(5)) == 5
    assert b"LEVEL" + made.read(100) in GREETING
    with pytest.raises(serial.SerialException, match="pulled"):
        made.read(100)


def test_what_pyserial_promises() -> None:
    made = port("?power=on", timeout=0)
    assert made.read(10) == b""
    assert made.in_waiting == 0
    made.write(b"ST\r\n")
    made.flush()
    assert now(made) == pytest.approx(100 + 40 / 1200, abs=1e-3)
    made.timeout = 5
    assert made.read_until(b"\n") == b"ST 1200 7E1\r\n"
    made.write(b"ST\r\n")
    made.clock.wait(now(made) + 1)
    assert made.in_waiting == 13
    made.reset_input_buffer()
    assert made.in_waiting == 0
    made.close()
    with pytest.raises(serial.SerialException):
        made.read(1)


def test_the_rate_may_change_while_open() -> None:
    made = port("?power=on")
    made.baudrate = 9600
    made.write(b"ID\r\n")
    made.timeout = 1
    assert made.read(1) == b""
    made.baudrate = 1200
    made.write(b"\r\nID\r\n")
    assert b"ID SKW" in made.read(60)


@pytest.mark.parametrize(
    "url",
    ["sim://bench/", "sim://other/gauge-logger", f"{LOGGER}?colour=red", f"{LOGGER}?power=-1", f"{LOGGER}?power=x"],
)
def test_wrong_addresses(url: str) -> None:
    simulator.install()
    with pytest.raises(serial.SerialException):
        serial.serial_for_url(url)


@pytest.mark.parametrize("url", [LOGGER, f"{LOGGER}?chain=usb-rs232,~straight-de9&settings=1200,7E1&power=on"])
def test_addresses_read_back(url: str) -> None:
    assert str(SimAddress.parse(url)) == url
    with pytest.raises(BadInput):
        SimAddress.parse("/dev/ttyUSB0")


@pytest.mark.parametrize("pieces", [[b"I", b"D", b"\r", b"\n"], [b"ID", b"\r\n"], [b"ID\r", b"\n"]])
def test_words_written_in_pieces_follow_each_other_without_a_gap(pieces: list[bytes]) -> None:
    made = port("?power=on")
    for piece in pieces:
        made.write(piece)
    assert made.read_until(b"\n").startswith(b"ID SKW")


class Choker(Device):
    """A device that says stop at once and go on a second later, and keeps what it hears with its time."""

    def __init__(self) -> None:
        super().__init__()
        self.plan = [(0.0, b"\x13"), (1.0, b"\x11")]
        self.heard: list[tuple[float, int]] = []

    def hear(self, t: float, heard: Heard) -> None:
        self.heard.append((t, heard.byte))

    def due(self) -> float:
        return self.plan[0][0] if self.plan else float("inf")

    def say(self, t: float) -> bytes:
        return self.plan.pop(0)[1]


def test_xoff_holds_back_until_xon_and_neither_is_handed_to_the_reader() -> None:
    at, choker = Settings.parse("9600,8N1,xon-xoff"), Choker()
    bench = Bench(choker, at, Wires.ideal(), {}, 0.0)
    bench.set_computer(at, 0.0)
    assert bench.advance(0.5) == []
    bench.write(b"HELLO", 0.5)
    assert bench.held_back == 5
    assert bench.advance(0.9) == []
    assert choker.heard == []
    assert bench.advance(1.1) == []
    assert bench.advance(1.5) == []
    assert bytes(byte for _, byte in choker.heard) == b"HELLO"
    assert choker.heard[0][0] >= 1.0


class Hasty(ManualClock):
    """Half a minute passes between any two looks, as on a machine that is slow to load."""

    def now(self) -> float:
        self.wait(super().now() + 30.0)
        return super().now()


def test_a_slow_machine_reads_the_power_up_line_with_its_own_settings() -> None:
    """The device speaks while the port is still being opened: what comes is garbled all the same."""
    simulator.install()
    for rate, clean in ((1200, True), (2400, False)):
        made = serial.serial_for_url("sim://bench/gauge-logger", rate, 7, "E", timeout=1, do_not_open=True)
        made.goes_by(Hasty(100.0))
        made.open()
        heard = made.read(40)
        assert heard and (b"LEVEL LOGGER" in heard) is clean
        made.close()
