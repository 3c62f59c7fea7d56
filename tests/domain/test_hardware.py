import pytest

from humble_courier.domain.hardware import Conductor, Connector, EndContact, Gender
from humble_courier.domain.signals import Role, Signal
from humble_courier.errors import BadInput


@pytest.mark.parametrize("text", ["A2-B3", "A:shell-B:shell", "B1-B4", "A:C-B:H"])
def test_conductors_read_back(text: str) -> None:
    assert str(Conductor.parse(text)) == text


@pytest.mark.parametrize("text", ["A2", "A2-B3-B4", "2-3", "A-B", "I1-B1", "A2B3", ""])
def test_wrong_conductors_are_refused(text: str) -> None:
    with pytest.raises(BadInput):
        Conductor.parse(text)


def test_contacts_by_letter_and_number() -> None:
    assert EndContact.parse("B12") == EndContact(1, "12")
    with pytest.raises(BadInput):
        EndContact.parse("12")


@pytest.mark.parametrize(
    ("text", "role", "drives", "hears"),
    [
        ("TXD out rs232", Role.DATA, True, False),
        ("RXD in rs232", Role.DATA, False, True),
        ("CTS in rs232", Role.HANDSHAKE, False, True),
        ("A both rs485", Role.DATA, True, True),
        ("GND", Role.GROUND, False, False),
        ("VCC out power-5v", Role.POWER, True, False),
        ("SHIELD passive shield", Role.SHIELD, False, False),
    ],
)
def test_what_a_signal_is_for(text: str, role: Role, drives: bool, hears: bool) -> None:
    signal = Signal.parse(text)
    assert (signal.role, signal.drives, signal.hears) == (role, drives, hears)


@pytest.mark.parametrize("text", ["TXD", "TXD out", "TXD oot rs232", "TXD out rs233", "TXD out rs232 more", ""])
def test_wrong_signals_are_refused(text: str) -> None:
    with pytest.raises(BadInput):
        Signal.parse(text)


@pytest.mark.parametrize("a", Gender)
@pytest.mark.parametrize("b", Gender)
def test_mating_is_mutual(a: Gender, b: Gender) -> None:
    one, other = Connector("D", 9, a), Connector("D", 9, b)
    assert (one.why_not_into(other) is None) == (other.why_not_into(one) is None)
    assert (one.why_not_into(other) is None) == (a is not b or Gender.EITHER in (a, b))
    assert one.why_not_into(Connector("D", 25, b)) is not None
