"""Words as they are typed: plain, with escapes, in hexadecimal; how often; what is refused."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.app.talk.typed_words import Typed, Written
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput


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
