"""All protocols alike: whole, byte by byte, after garbage; against named libraries and published examples."""

import random as dice
from collections.abc import Callable

import can
import pynmea2
import pytest
from crccheck.crc import CrcArc, CrcModbus, CrcX25
from hypothesis import given, settings
from hypothesis import strategies as st
from pymodbus.framer import FramerAscii, FramerRTU
from pymodbus.pdu import DecodePDU

from humble_courier.catalog.load import Catalog
from humble_courier.errors import BadInput
from humble_courier.protocols import crc, df1, iso14230, j1708, j1939, kiss, modbus_ascii, mstp, nmea, scpi, slcan
from humble_courier.protocols.framer import LONGEST, Event
from humble_courier.protocols.modbus_rtu import read_request, with_crc
from humble_courier.protocols.registry import all_specs, looks_spoken, spec_named

CATALOG = Catalog()
FIX = "GPGGA,123519,4807.038,N,01131.000,E,1,08,0.9,545.4,M,46.9,M,,"

# A stream of each protocol, and how many sound messages it holds.
STREAMS: dict[str, tuple[bytes, int]] = {
    "text": (b"ID SKW-GH-07 FW3.1\r\nLV +01.284 M OK\rST 1200 7E1\n", 3),
    "scpi": (b"Valley,BENCH,1042,2.0\n#3012HELLO WORLD!\n-113,\"Undefined header\"\n+1.25E+00,3\n", 5),
    "nmea-0183": (nmea.sentence(FIX) + nmea.sentence("WIMWV,214.8,R,0.1,M,A") + nmea.sentence("WIXDR,C,19.5,C,AIR"), 3),
    "modbus-rtu": (
        read_request(3, 0, 4) + with_crc(bytes((3, 3, 8, 1, 2, 3, 4, 5, 6, 7, 8))) + with_crc(bytes((3, 0x83, 2)))
        + with_crc(bytes((5, 16, 0, 1, 0, 2, 4, 1, 2, 3, 4))) + with_crc(bytes((9, 17))),
        5,
    ),
    "modbus-ascii": (modbus_ascii.ascii_frame(bytes((3, 3, 0, 0, 0, 4))) + modbus_ascii.ascii_frame(bytes((3, 0x83, 2))), 2),
    "mstp": (mstp.frame(0, 5, 3) + mstp.frame(5, 9, 5, b"\x01\x00what") + mstp.frame(1, 6, 5) + mstp.frame(2, 5, 6), 4),
    "df1": (
        df1.status_request(1, 0, 0x1234) + b"\x10\x06" + df1.frame(bytes((0, 1, 0x46, 0, 0x34, 0x12, 0x10, 0x10)), "bcc")
        + b"\x10\x15",
        4,
    ),
    "kiss": (kiss.frame(kiss.ui_frame("SKW-1", "RIDGE-7", b"level \xc0\xdb")) + kiss.frame(b"\x1e", 0, 1), 3),
    "j1708": (j1708.message(128, bytes([190, 0x10, 0x20, 84, 30])) + j1708.message(140, bytes([96, 77])), 2),
    "j1939": (b"T0CF0040081122334455667788\rT18FEF100800112233445566FF\r", 2),
    "can-ascii": (b"t1232AABB\rT18FEF100800112233445566FF\r\x07V1013\r\r", 5),
    "iso14230": (
        iso14230.message(b"\x81", 0x33, functional=True) + iso14230.message(b"\xc1\xef\x8f", 0xF1, 0x11)
        + iso14230.message(bytes((0x7F, 0x21, 0x12)), 0xF1, 0x11),
        3,
    ),
}  # fmt: skip


def read(spoken: str, data: bytes, cuts: Callable[[], int] = lambda: 1 << 20) -> list[Event]:
    machine, events, at = spec_named(spoken).decoder(CATALOG), [], 0
    while at < len(data):
        step = cuts()
        events += machine.feed(data[at : at + step])
        at += step
    return events + machine.end()


@pytest.mark.parametrize("spoken", all_specs())
def test_whole_and_byte_by_byte(spoken: str) -> None:
    data, count = STREAMS[spoken]
    whole = read(spoken, data)
    assert sum(event.ok for event in whole) == count and all(event.ok for event in whole)
    assert whole == read(spoken, data, lambda: 1)
    assert [event.offset for event in whole] == sorted({event.offset for event in whole})


@pytest.mark.parametrize("spoken", [s for s in all_specs() if s not in ("text", "scpi")])
def test_after_garbage_and_with_a_changed_byte(spoken: str) -> None:
    data, count = STREAMS[spoken]
    after = read(spoken, b"\x00\x9f\x00\r" + data)
    assert sum(event.ok for event in after if event.kind not in ("done", "idle")) >= count - (
        2 if spoken == "can-ascii" else 1
    )
    spoilt = bytearray(data)
    spoilt[len(data) // 4] ^= 0x01
    if spoken not in ("j1939", "can-ascii", "kiss"):  # these have no check of their own on the serial side
        assert any(not event.ok for event in read(spoken, bytes(spoilt)))


@settings(max_examples=150, deadline=None)
@given(st.sampled_from(sorted(all_specs())), st.binary(max_size=300), st.integers(0, 2**32))
def test_noise_is_cut_alike_however_it_arrives_and_nothing_is_left_out(spoken: str, data: bytes, seed: int) -> None:
    marks = STREAMS[spoken][0][:2]
    data = data.replace(b"\x00", marks)  # so that begins of messages are met
    roll = dice.Random(seed)
    whole = read(spoken, data)
    assert whole == read(spoken, data, lambda: roll.randint(1, 7))
    assert sum(event.size for event in whole) == len(data)


@pytest.mark.parametrize("spoken", all_specs())
def test_a_stream_without_end_is_not_held_without_end(spoken: str) -> None:
    machine = spec_named(spoken).decoder(CATALOG)
    begin = STREAMS[spoken][0][:3]
    events = machine.feed(begin) + [e for _ in range(40) for e in machine.feed(b"\x41" * 5000)]
    assert sum(event.size for event in events) > 200_000 - LONGEST - 4200


@pytest.mark.parametrize("spoken", [s for s in all_specs() if s not in ("text", "scpi", "can-ascii")])
def test_what_it_looks_like(spoken: str) -> None:
    data = STREAMS[spoken][0]
    if spoken == "kiss":
        data = kiss.frame(kiss.ui_frame("SKW-1", "RIDGE-7", b"level")) * 2
    assert looks_spoken(data, CATALOG) is spec_named(spoken)


def test_text_and_noise_look_like_no_protocol() -> None:
    roll = dice.Random(3)
    assert looks_spoken(b"level logger ready, 12 values kept\r\n" * 4, CATALOG) is None
    assert all(looks_spoken(roll.randbytes(200), CATALOG) is None for _ in range(50))


# Published examples and other people's code


def test_mstp_checks_of_the_standard() -> None:
    """ANSI/ASHRAE 135, annex G.1 and G.2: their worked examples (from memory)."""
    assert crc.MSTP_HEADER.calc(bytes((0x00, 0x10, 0x05, 0x00, 0x00))) == 0x8C
    assert mstp.frame(6, 16, 5, bytes((0x01, 0x22, 0x30)))[-2:] == bytes((0x10, 0xBD))


def test_catalogue_values_of_the_checks() -> None:
    """Check values of the CRC catalogue for the text 123456789 (from memory)."""
    values = {crc.MODBUS: 0x4B37, crc.ARC: 0xBB3D, crc.X25: 0x906E}
    assert all(kind.calc(b"123456789") == value for kind, value in values.items())


@given(st.binary(max_size=300))
def test_checks_as_crccheck_counts_them(data: bytes) -> None:
    for ours, theirs in ((crc.MODBUS, CrcModbus), (crc.ARC, CrcArc), (crc.X25, CrcX25)):
        assert ours.calc(data) == theirs.calc(data)


@pytest.mark.parametrize("body", [b"\x03\x00\x00\x00\x04", b"\x04\x00\x6b\x00\x03", b"\x01\x00\x13\x00\x25"])
def test_modbus_frames_as_pymodbus_makes_them(body: bytes) -> None:
    unit, decode = 17, DecodePDU(True)
    request = FramerRTU(decode).encode(body, unit, 0)
    assert [e.fields["function"] for e in read("modbus-rtu", request)] == [body[0]]
    line = FramerAscii(decode).encode(body, unit, 0)
    assert line == modbus_ascii.ascii_frame(bytes((unit,)) + body)
    assert read("modbus-ascii", line)[0].fields["unit"] == 17


def test_modbus_example_of_the_specification() -> None:
    """Serial line V1.02, appendix and 6.2.1: LRC of 02 07 is F7, CRC of 02 07 is 41 12 (from memory)."""
    assert modbus_ascii.lrc(bytes((2, 7))) == 0xF7
    assert with_crc(bytes((2, 7)))[-2:] == bytes((0x41, 0x12))


@given(st.floats(0, 359.9), st.floats(0, 60))
def test_sentences_as_pynmea2_makes_them(angle: float, speed: float) -> None:
    said = str(pynmea2.MWV("WI", "MWV", (f"{angle:.1f}", "R", f"{speed:.1f}", "M", "A")))
    event = read("nmea-0183", said.encode() + b"\r\n")[0]
    assert event.ok and event.fields["wind_angle"] == f"{angle:.1f}" and event.fields["wind_speed"] == f"{speed:.1f}"
    assert nmea.sentence(said[1:-3]).decode().strip() == said


@pytest.mark.parametrize(
    ("id_", "priority", "pgn", "source", "destination"),
    [
        (0x0CF00400, 3, 61444, 0x00, 255),  # SAE J1939-21, engine speed
        (0x18FEF100, 6, 65265, 0x00, 255),
        (0x18EAFFF9, 6, 59904, 0xF9, 255),  # a request to everybody
        (0x18EA00F9, 6, 59904, 0xF9, 0x00),
        (0x1CECFF03, 7, 60416, 0x03, 255),
        (0x18EEFF80, 6, 60928, 0x80, 255),
    ],
)
def test_identifiers_of_j1939(id_: int, priority: int, pgn: int, source: int, destination: int) -> None:
    """SAE J1939-21, 5.2: well-known identifiers (from memory)."""
    assert j1939.Identifier.of(id_) == j1939.Identifier(priority, pgn, source, destination)
    assert j1939.Identifier(priority, pgn, source, destination).id == id_


@given(st.integers(0, 0x1FFFFFFF), st.binary(max_size=8), st.booleans())
def test_can_lines_as_python_can_logs_them(id_: int, data: bytes, extended: bool) -> None:
    frame = slcan.CanFrame(id_ if extended else id_ & 0x7FF, extended, data)
    assert slcan.read(frame.line().rstrip(b"\r")) == frame
    assert slcan.read(frame.candump(1.5).encode()) == frame
    message = can.Message(arbitration_id=frame.id, is_extended_id=extended, data=data)
    assert (message.arbitration_id, bytes(message.data)) == (frame.id, frame.data)


def test_a_long_group_is_put_together() -> None:
    whole = bytes(range(20))
    announce = bytes((32, 20, 0, 3, 0xFF)) + (0xFECA).to_bytes(3, "little")
    parts = [bytes((i + 1,)) + whole[7 * i : 7 * i + 7].ljust(7, b"\xff") for i in range(3)]
    frames = [slcan.CanFrame(0x1CECFF00, True, announce)] + [slcan.CanFrame(0x1CEBFF00, True, p) for p in parts]
    events = read("j1939", b"".join(f.line() for f in frames))
    assert events[-1].fields["pgn"] == 0xFECA and bytes.fromhex(events[-1].fields["hex"]) == whole
    broken = read("j1939", b"".join(f.line() for f in frames[:-1]))
    assert broken[-1].kind == "incomplete" and "2 of 3" in broken[-1].why


def test_trouble_codes() -> None:
    """SAE J1939-73, 5.7.1, version 4 of the conversion: SPN 1208, FMI 3, once (the standard's example, from memory)."""
    codes, lamps = j1939.trouble_codes(bytes((0x04, 0xFF, 0xB8, 0x04, 0x03, 0x01)))
    assert codes == [{"spn": 1208, "fmi": 3, "count": 1}] and lamps == 4


def test_the_token_is_followed_and_two_alike_are_suspected() -> None:
    watch = mstp.TokenWatch()
    watch.feed(b"".join(mstp.frame(0, b, a) for a, b in ((1, 4), (4, 9), (9, 1)) * 3))
    assert watch.ring == [1, 4, 9] and not watch.suspects
    watch.feed(mstp.frame(1, 20, 1) + mstp.frame(2, 1, 20) + mstp.frame(2, 1, 20))
    assert "two answers" in watch.suspects[20]
    watch.feed(mstp.frame(0, 4, 1) + mstp.frame(0, 1, 9))
    assert "another holds the token" in watch.suspects[9]


def test_a_fast_start_over_one_wire_reads_its_own_echo() -> None:
    """ISO 14230-2, 5.2.4: the request C1 33 F1 81 66 and the answer 83 F1 11 C1 EF 8F C4 (its example, from memory)."""
    start = iso14230.FastStart()
    steps = []
    while (step := start.next()) is not None:
        steps.append(step)
        if step.do == "send":
            assert step.data == bytes.fromhex("C133F18166")
            start.feed(step.data)
        elif step.do == "wait":
            start.feed(bytes.fromhex("83F111C1EF8FC4"))
    assert [s.do for s in steps] == ["low", "high", "send", "wait"] and start.keys == (0xEF, 0x8F)


def test_queries_that_change_something_are_refused() -> None:
    assert scpi.safe_query("*IDN?") == b"*IDN?\n"
    for bad in ("*RST", "*TST?", "*ESR?", "OUTP ON", "MEAS:VOLT? ;*RST"):
        with pytest.raises(BadInput):
            scpi.safe_query(bad)


def test_ax25_addresses_of_the_published_form() -> None:
    """AX.25 2.2, 3.12.2: characters shifted by one, the number in bits 1 to 4, the last address marked (from memory)."""
    frame = kiss.ui_frame("RELAY-2", "HUT-15", b"!")
    assert frame[:7] == bytes(ord(c) << 1 for c in "RELAY ") + bytes((0xE4,))
    told = kiss.ax25(frame)
    assert told == kiss.Ax25("RELAY-2", "HUT-15", (), "UI", 0xF0, b"!")
