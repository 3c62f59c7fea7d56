"""Keys of a console, as ECMA-48 and ANSI X3.4 name their characters."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.app.talk.keys import NAMED, octets_of


@pytest.mark.parametrize(
    ("name", "text", "control", "data"),
    [
        ("Enter", "\r", False, b"\r"), ("Tab", "\t", False, b"\t"), ("Escape", "\x1b", False, b"\x1b"),
        ("Up", "", False, b"\x1b[A"), ("Left", "", False, b"\x1b[D"), ("Backspace", "\x08", False, b"\x08"),
        ("C", "\x03", True, b"\x03"), ("Z", "\x1a", True, b"\x1a"), ("[", "", True, b"\x1b"), ("@", "", True, b"\x00"),
        ("", "a", False, b"a"), ("", "é", False, b"\xe9"), ("", "€", False, b""), ("", "", False, b""),
        ("F5", "", True, b""),
    ],
)  # fmt: skip
def test_each_key(name: str, text: str, control: bool, data: bytes) -> None:
    assert octets_of(name, text, control) == data


@given(st.characters(max_codepoint=0xFF))
def test_what_is_typed_goes_out_as_one_byte(character: str) -> None:
    assert octets_of("", character, False) == bytes((ord(character),))
    assert all(NAMED.values())
