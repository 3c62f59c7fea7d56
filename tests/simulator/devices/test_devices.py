"""Every device of the valley behind its simulated port: what it says, and what each fault does to it."""

import errno

import pytest
import serial

from humble_courier import simulator
from humble_courier.catalog.load import Catalog
from humble_courier.domain.clock import ManualClock
from humble_courier.domain.settings import Handshake, Settings
from humble_courier.errors import BadInput, PeerError
from humble_courier.protocols.modbus_rtu import read_answer, read_request
from humble_courier.protocols.registry import spec_named
from humble_courier.protocols.slcan import listen_only
from humble_courier.simulator.address import SimAddress
from humble_courier.simulator.devices.behaviour import faults
from humble_courier.simulator.port import SimulatedPort

CATALOG = Catalog()


def opened(
    device: str, settings: str | None = None, marked: bool = False, rts: bool = True, **options: str
) -> SimulatedPort:
    """A device's port, open with the settings that it is set to (or others)."""
    simulator.install()
    address = SimAddress(device, {"power": "on", **options})
    at = Settings.parse(settings) if settings else address.settings(CATALOG)
    made = serial.serial_for_url(str(address), do_not_open=True)
    assert isinstance(made, SimulatedPort)
    made.goes_by(ManualClock(5000.0))
    made.timeout, made.marked, made.rts = 3.0, marked, rts
    made.baudrate, made.bytesize, made.parity, made.stopbits = (
        at.rate,
        at.frame.data_bits,
        str(at.frame.parity),
        at.frame.stop_bits,
    )
    made.rtscts, made.xonxoff = at.handshake is Handshake.RTS_CTS, at.handshake is Handshake.XON_XOFF
    made.open()
    return made


def asked(device: str, words: bytes, until: bytes = b"\n", **options: str) -> bytes:
    port = opened(device, **options)
    port.write(words)
    return port.read_until(until)


@pytest.mark.parametrize(
    ("device", "words", "answer"),
    [
        ("gauge-logger", b"ID\r\n", b"ID SKW-GH-07 FW3.1"),
        ("bench-meter", b"*IDN?\n", b"BENCH METER"),
        ("mesh-module", b"VER\n", b"VER 1.7 M0311"),
        ("bridge-controller", b"STATUS\r\n", b"STATUS CLOSED LOAD 412"),
        ("survey-plotter", b"ID?\n", b"PLOTTER"),
    ],
)
def test_first_words_are_answered(device: str, words: bytes, answer: bytes) -> None:
    assert answer in asked(device, words)
    assert asked(device, words, fault="no-power") == b"" == asked(device, words, fault="deaf")
    if not words.endswith(b"\r\n"):  # CR LF satisfies either
        assert asked(device, words, fault="wrong-end") == b""


@pytest.mark.parametrize(
    ("device", "spoken"),
    [("wind-sensor", "nmea-0183"), ("valley-tractor", "j1708"), ("packet-radio", "kiss")],
)
def test_talkers_talk_by_themselves(device: str, spoken: str) -> None:
    port, machine, events = opened(device, rts=False), spec_named(spoken).decoder(CATALOG), []
    for _ in range(12):
        events += machine.feed(port.read(400))
    assert sum(e.ok for e in events) >= 3 and all(e.ok for e in events)
    assert port.alarms == []


def test_a_carrier_is_heard_through_the_adapter_only_with_the_key_on() -> None:
    for fault, awake in (("", {0, 3, 23}), ("key-off", set())):
        port = opened("snow-carrier", **({"fault": fault} if fault else {}))
        for word in listen_only(250_000):
            port.write(word)
        machine = spec_named("j1939").decoder(CATALOG)
        machine.feed(port.read(4000))
        assert set(machine.awake) == awake  # type: ignore[attr-defined]
        assert port.alarms == []  # opened to listen: nothing on the bus is disturbed


def test_rts_keys_the_radio() -> None:
    assert opened("packet-radio", rts=False).alarms == []
    assert opened("packet-radio", rts=True).alarms == ["RTS keys the transmitter"]


def test_two_pillows_with_one_address_garble_each_other() -> None:
    port = opened("snow-pillow")
    for unit in (1, 6):
        port.write(read_request(unit, 0, 2))
        answer = port.read(9)
        assert read_answer(answer).values == (412, 65496)
    port = opened("snow-pillow", fault="two-alike")
    port.write(read_request(6, 0, 2))
    garbled = port.read(9)
    assert garbled and garbled != answer
    with pytest.raises(PeerError, match="wrong CRC"):
        read_answer(garbled)
    port.write(read_request(1, 0, 2))
    assert read_answer(port.read(40)[-9:]).unit == 1


def test_the_boot_text_can_be_stopped() -> None:
    port = opened("data-concentrator", power="0.5")
    assert port.read_until(b"STOP\r").endswith(b"PRESS ANY KEY TO STOP\r")
    port.write(b" ")
    assert b"stopped" in port.read(200)
    port.write(b"show ip\r")
    assert port.read(200) == b""
    port = opened("data-concentrator")
    port.write(b"show ip\r")
    assert b"ip 192.168.4.1/24\rhut> " in port.read(200)
    port.write(b"ip 10.1.1.5/24\rshow ip\r")
    assert b"ip 10.1.1.5/24\r" in port.read(300)


@pytest.mark.parametrize(("settings", "whole"), [("2400,7O2,rts-cts", True), ("2400,7O2", False)])
def test_a_recorder_without_handshake_loses_what_is_sent_to_it(settings: str, whole: bool) -> None:
    port = opened("chart-recorder", settings)
    port.write(b"?\r" * 120)
    heard = b"".join(port.read(600) for _ in range(8))
    assert (heard.count(b"CHART 31 READY\r") == 120) is whole
    assert (port.alarms == []) is whole


def test_a_recorder_says_stop_with_xoff() -> None:
    port = opened("tape-recorder")
    port.write(b"R\r\n" * 12)
    heard = b"".join(port.read(2000) for _ in range(100))
    assert heard.count(b"0012 002 000 001\r\n") == 12 and port.alarms == []


# Faults that another device shows, each in a test of its own here or in tests/diagnose.
ELSEWHERE = {"two-alike", "loses-large", "stalls", "slow-adapter", "held", "no-permission", "echo-off", "wrong-unit",
             "open-handshake", "waits-for-us", "needs-dtr"}  # fmt: skip


@pytest.mark.parametrize("fault", sorted(set(faults()) - ELSEWHERE))
def test_each_fault_spoils_the_first_answer(fault: str) -> None:
    wanted = b"ID SKW-GH-07 FW3.1 SN 20418\r\n"
    port = opened("gauge-logger", "1200,7E1", fault=fault, marked=True)
    assert port.clock is not None
    if fault == "vanish":
        with pytest.raises(serial.SerialException, match="pulled out"):
            port.read(4000), port.read(4000), port.read(4000), port.read(4000)
        return
    for _ in range(4):
        port.write(b"ID\r\n" * 3)
    assert port.read(2000) + port.read(2000) != wanted * 12


@pytest.mark.parametrize(("fault", "code"), [("held", errno.EBUSY), ("no-permission", errno.EACCES)])
def test_a_port_that_is_refused(fault: str, code: int) -> None:
    with pytest.raises(serial.SerialException) as refused:
        opened("gauge-logger", "1200,7E1", fault=fault)
    assert refused.value.errno == code


def test_a_logger_without_a_fault_answers_each_line() -> None:
    port = opened("gauge-logger", "1200,7E1")
    for _ in range(4):
        port.write(b"ID\r\n" * 3)
    assert port.read(2000) + port.read(2000) == b"ID SKW-GH-07 FW3.1 SN 20418\r\n" * 12


def test_a_device_that_never_says_ready_gets_nothing() -> None:
    assert b"METER" in asked("bench-meter", b"*IDN?\n")
    assert asked("bench-meter", b"*IDN?\n", fault="stalls") == b""


def test_a_slow_adapter_hands_over_late() -> None:
    quick, slow = opened("mesh-module"), opened("mesh-module", latency="100")
    times = []
    for port in (quick, slow):
        assert port.clock is not None
        begun = port.clock.now()
        port.write(b"VER\n")
        port.read_until(b"\n")
        times.append(port.clock.now() - begun)
    assert 0.08 < times[1] - times[0] < 0.12


def test_an_adapter_that_loses_the_rest_of_large_pieces() -> None:
    port = opened(SimAddress("loop-back", {}).device, "9600,8N1", fault="loses-large")
    port.write(bytes(range(256)) * 4)
    assert len(port.read(1024)) == 512


def test_a_loop_back_plug_joins_the_lines() -> None:
    port = opened("loop-back", "19200,8N1")
    port.write(b"U\xaa\x00\xff")
    assert port.read(4) == b"U\xaa\x00\xff"
    states = [(port.cts, port.dsr, port.cd)]
    port.rts, port.dtr = False, False
    states.append((port.cts, port.dsr, port.cd))
    assert states == [(True, True, True), (False, False, False)]


def test_an_unknown_fault_is_one_clear_error() -> None:
    with pytest.raises(BadInput, match="unknown fault “rust”: known are no-power"):
        SimAddress("gauge-logger", {"fault": "rust"}).faults  # noqa: B018


@pytest.mark.parametrize(
    ("options", "rate", "firmware"),
    [
        ({}, 1200, b"FW3.1"),
        ({"switches": "S2:110"}, 4800, b"FW3.1"),
        ({"variant": "before-3", "switches": "S2:110"}, 2400, b"FW2.4"),
    ],
)
def test_switches_mean_what_the_table_of_the_revision_says(options: dict[str, str], rate: int, firmware: bytes) -> None:
    address = SimAddress("gauge-logger", options)
    assert address.settings(CATALOG).rate == rate
    assert firmware in asked("gauge-logger", b"ID\r\n", **options)


def test_a_pillow_has_the_address_of_its_switches_and_banks_are_checked() -> None:
    port = opened("snow-pillow", switches="address:10100000")
    port.write(read_request(5, 0, 1))
    assert read_answer(port.read(7)).unit == 5
    port.write(read_request(1, 0, 1))
    assert port.read(7) == b""
    with pytest.raises(BadInput, match="no such bank"):
        SimAddress("gauge-logger", {"switches": "S9:010"}).settings(CATALOG)
    with pytest.raises(BadInput, match="count again"):
        SimAddress("gauge-logger", {"switches": "S2:01"}).settings(CATALOG)


def test_pulling_the_plug_raises_the_alarm_that_the_sheet_names() -> None:
    port = opened("bridge-controller", socket="bus")
    machine = spec_named("mstp").decoder(CATALOG)
    machine.feed(port.read(400))
    assert machine.ring == [3, 7, 12] and port.alarms == []  # type: ignore[attr-defined]
    port.close()
    assert "valley alarm" in port.alarms[0]
