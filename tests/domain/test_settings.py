import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.domain.settings import Frame, Handshake, Parity, Settings
from humble_courier.errors import BadInput

frames = st.builds(Frame, st.integers(5, 8), st.sampled_from(Parity), st.sampled_from([1, 1.5, 2]))
settings = st.builds(Settings, st.integers(45, 12_000_000), frames, st.sampled_from(Handshake))


@given(settings)
def test_what_is_written_is_read_back(one: Settings) -> None:
    assert Settings.parse(str(one)) == one
    assert one.differences(one) == []


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("9600,9N1", "9N1"),
        ("9600,8X1", "8X1"),
        ("9600,8N3", "8N3"),
        ("9600", "RATE,FRAME"),
        ("", "RATE,FRAME"),
        ("fast,8N1", "fast"),
        ("0,8N1", "rate"),
        ("-9600,8N1", "rate"),
        ("99999999999,8N1", "rate"),
        ("9600,8N1,rts", "rts"),
        ("9600,8N1,none,more", "RATE,FRAME"),
    ],
)
def test_what_is_wrong_is_named(text: str, told: str) -> None:
    with pytest.raises(BadInput, match=told) as caught:
        Settings.parse(text)
    assert "\n" not in str(caught.value)


@pytest.mark.parametrize(("frame", "bits"), [("8N1", 10), ("7E1", 10), ("8E2", 12), ("5N1.5", 7.5), ("7O2", 11)])
def test_bits_of_a_character(frame: str, bits: float) -> None:
    """Start, data, parity and stop bits (ISO 1177)."""
    assert Frame.parse(frame).bits == bits


def test_differences_are_named_in_the_order_of_mending() -> None:
    a, b = Settings.parse("1200,7E1"), Settings.parse("2400,8N2,rts-cts")
    assert a.differences(b) == ["rate", "data bits", "parity", "stop bits", "handshake"]
