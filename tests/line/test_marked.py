"""PARMRK stuffing, whole, byte by byte, and with anything in it (termios(3))."""

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from humble_courier.domain.received import Doubt, Heard
from humble_courier.line.marked import Unstuffer, stuff

heard = st.one_of(
    st.builds(Heard, st.integers(0, 255)),
    st.builds(Heard, st.integers(1, 255), st.just(Doubt.ERROR)),
    st.just(Heard(0, Doubt.BREAK)),
)


@settings(suppress_health_check=[HealthCheck.too_slow])  # a busy machine is no fault
@given(st.lists(heard, max_size=40), st.integers(1, 7))
def test_what_is_stuffed_comes_out_however_it_is_cut(all_of_it: list[Heard], size: int) -> None:
    data, reader = stuff(all_of_it), Unstuffer()
    out = [one for i in range(0, len(data), size) for one in reader.feed(data[i : i + size])]
    assert out == all_of_it


@given(st.binary(max_size=100))
def test_any_bytes_are_taken_and_no_more_than_two_are_held(data: bytes) -> None:
    reader = Unstuffer()
    out = reader.feed(data)
    assert len(data) - 2 <= len(out) * 3
    assert len(out) <= len(data)


def test_the_manual_page() -> None:
    """termios(3): FF 00 x for an error, FF 00 00 for a break, FF FF for FF."""
    out = Unstuffer().feed(b"\xff\x00A\xff\x00\x00\xff\xffB")
    assert out == [Heard(0x41, Doubt.ERROR), Heard(0, Doubt.BREAK), Heard(0xFF), Heard(0x42)]
