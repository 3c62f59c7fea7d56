"""Lines and Modbus RTU; Modbus against pymodbus' own framer and against the specification's examples."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pymodbus.framer import FramerRTU
from pymodbus.pdu import DecodePDU
from pymodbus.pdu.register_message import ReadHoldingRegistersRequest, ReadHoldingRegistersResponse

from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator, printable
from humble_courier.errors import BadInput, PeerError
from humble_courier.line.timing import modbus_gaps
from humble_courier.protocols import modbus_rtu as modbus
from humble_courier.protocols.lines import Expect


@given(st.integers(1, 247), st.integers(0, 65_000), st.integers(1, 125))
def test_requests_are_those_of_pymodbus(unit: int, address: int, count: int) -> None:
    framer = FramerRTU(DecodePDU(True))
    theirs = framer.buildFrame(ReadHoldingRegistersRequest(address=address, count=count, dev_id=unit))
    assert modbus.read_request(unit, address, count) == theirs


@given(st.integers(1, 247), st.lists(st.integers(0, 65_535), min_size=1, max_size=125))
def test_answers_of_pymodbus_are_read(unit: int, values: list[int]) -> None:
    framer = FramerRTU(DecodePDU(False))
    frame = framer.buildFrame(ReadHoldingRegistersResponse(registers=values, dev_id=unit))
    assert modbus.read_answer(frame) == modbus.Registers(unit, tuple(values))


def test_the_specification() -> None:
    """Application Protocol V1.1b3, 6.3: read 108 to 110 gives 022B 0000 0064; gaps of Serial Line V1.02, 2.5.1.1."""
    assert modbus.read_request(1, 0x6B, 3)[1:6] == bytes.fromhex("03006B0003")
    assert modbus.read_answer(modbus.with_crc(bytes.fromhex("010306022B00000064"))).values == (0x022B, 0, 0x64)
    assert modbus_gaps(Settings.parse("19200,8E1"))[1] == pytest.approx(3.5 * 11 / 19200)
    assert modbus_gaps(Settings.parse("38400,8E1"))[1] == 0.00175


@given(st.binary(max_size=300))
def test_any_answer_is_read_or_refused(data: bytes) -> None:
    try:
        modbus.read_answer(data)
    except PeerError as error:
        assert "Modbus" in str(error)


@pytest.mark.parametrize(
    ("frame", "told"),
    [(b"\x01\x83\x02", "illegal data address"), (b"\x01\x03\x04\x00\x01", "length"), (b"\x01\x83\x63", "code 99")],
)
def test_refusals_in_words(frame: bytes, told: str) -> None:
    with pytest.raises(PeerError, match=told):
        modbus.read_answer(modbus.with_crc(frame))
    with pytest.raises(PeerError, match="CRC"):
        modbus.read_answer(frame + b"\x00\x00")
    with pytest.raises(BadInput):
        modbus.read_request(0, 0)


def test_frames_are_cut_by_silence() -> None:
    frames = modbus.Frames(Settings.parse("9600,8E1"))
    for i, byte in enumerate(b"\x01\x02\x03"):
        frames.feed(i * 0.00115, byte)
        assert frames.take(i * 0.00115) is None
    assert frames.take(frames.deadline) == b"\x01\x02\x03"
    assert frames.take(1e9) is None


def test_half_a_number_is_no_answer() -> None:
    wanted = Expect(r"SN (?P<sn>\d+)")
    assert wanted.feed(b"ID SN 2") is None
    answer = wanted.feed(b"0418\r\n")
    assert answer is not None
    assert answer.fields == {"sn": "20418"}


def test_without_a_line_end_the_pause_settles_it() -> None:
    wanted = Expect("OK")
    assert wanted.feed(b"OK") is None
    assert wanted.settle() is not None
    with pytest.raises(BadInput, match="regular expression"):
        Expect("(")


@given(st.binary(max_size=50))
def test_printable_is_printable(data: bytes) -> None:
    assert printable(data).isprintable()


def test_terminators() -> None:
    assert [end.octets for end in Terminator] == [b"\r", b"\n", b"\r\n", b"\n\r", b""]
