"""Words as they are typed: plain, with escapes, in hexadecimal; how often; what is refused."""

from functools import reduce
from operator import xor

import pytest
from crccheck import crc
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.app.talk.typed_words import Typed, Written
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput
from humble_courier.protocols.checks import CHECKS


@pytest.mark.parametrize(
    ("typed", "octets"),
    [
        (Typed("ID"), b"ID\r"),
        (Typed("ID", end=Terminator.CRLF), b"ID\r\n"),
        (Typed("ID\\x1b", Written.ESCAPES, Terminator.NONE), b"ID\x1b"),
        (Typed("01 03 00 00", Written.HEX, Terminator.CRLF), b"\x01\x03\x00\x00"),
        (Typed("ID\\r", end=Terminator.LF), b"ID\\r\n"),
    ],
)
def test_what_is_sent(typed: Typed, octets: bytes) -> None:
    assert typed.octets == octets


@pytest.mark.parametrize(
    ("typed", "said"),
    [
        (Typed("€"), "cannot be sent as one byte"),
        (Typed("\\q", Written.ESCAPES), "known are"),
        (Typed("0G", Written.HEX), "pairs of hexadecimal digits"),
    ],
)
def test_what_is_refused(typed: Typed, said: str) -> None:
    with pytest.raises(BadInput, match=said):
        _ = typed.octets


@given(st.binary(max_size=40))
def test_any_bytes_can_be_typed_in_hex(data: bytes) -> None:
    assert Typed(data.hex(" "), Written.HEX).octets == data


@pytest.mark.parametrize(("every", "seconds"), [("", None), ("0.5", 0.5), ("0,5", 0.5), ("3600", 3600.0)])
def test_how_often(every: str, seconds: float | None) -> None:
    assert Typed("ID", every=every).every_s == seconds


@pytest.mark.parametrize("every", ["0", "0.01", "-1", "3601", "soon", "nan", "1e9"])
def test_what_is_too_often_or_no_time(every: str) -> None:
    with pytest.raises(BadInput, match="expected"):
        _ = Typed("ID", every=every).every_s


@pytest.mark.parametrize("name", CHECKS)
@given(data=st.binary(min_size=1, max_size=40))
def test_a_check_by_name_makes_the_whole_come_out_even(name: str, data: bytes) -> None:
    """Sums by hand; a CRC of data with its CRC behind it, in the order of the line, is the same for all data."""
    made = Typed(data.hex(" "), Written.HEX, check=name).octets
    check = CHECKS[name]
    assert made[: len(data)] == data and len(made) == len(data) + check.width
    if name == "lrc8":
        assert sum(made) & 0xFF == 0
    elif name == "xor8":
        assert reduce(xor, made) == 0
    elif name.startswith("sum"):
        assert sum(data) % (1 << 8 * check.width) == int.from_bytes(made[len(data) :], "big")
    else:
        kind = getattr(crc, check.crc)
        assert kind.calc(made) == kind.calc(b"other" + check.of(b"other"))


def test_checks_of_published_examples() -> None:
    """MODBUS over Serial Line V1.02, 6.2.2 (02 07 gives 41 12); BACnet MS/TP's data check of annex G.2, as X-25."""
    assert Typed("02 07", Written.HEX, check="crc16-modbus").octets == bytes.fromhex("02 07 41 12")
    assert Typed("01 22 30", Written.HEX, check="crc16-x25").octets[-2:] == bytes.fromhex("10 BD")
    with pytest.raises(BadInput, match="unknown check"):
        _ = Typed("ID", check="crc99").octets
