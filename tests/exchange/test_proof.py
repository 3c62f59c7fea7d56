"""What exchanges are worth together: the order of proofs, and what takes one back."""

import pytest

from humble_courier.domain.proven import Grade
from humble_courier.exchange.judge import judge
from humble_courier.exchange.proof import ProofLevel, ProofWorth, worth_of
from humble_courier.exchange.verdict import Came


def worth(*said: tuple[str, str], marked: str = "") -> ProofWorth | None:
    exchanges = [(a.encode(), judge(a.encode(), [Came(40, b.encode("latin-1"))] if b else [])) for a, b in said]
    return worth_of(exchanges, frozenset([marked.encode()] if marked else []))


WHO, MUTE = ("VER?\r", "FM-7 VER 1.04\r\n"), ("LEV\r", "ABOVE\r\n")
ORDER = [
    ((("VER?\r", ""),), "", None, None),
    ((("VER?\r", "VER?"),), "", ProofLevel.SOUNDS, Grade.WEAK),
    ((("VER?\r", "ERROR\r\n"), ("VER?\r", "ERROR\r\n")), "VER?\r", ProofLevel.BOTH_WAYS, Grade.FAIR),
    ((("SETBAND EU\r", "OK\r\n"),), "", ProofLevel.BOTH_WAYS, Grade.FAIR),
    ((MUTE,), "", ProofLevel.BOTH_WAYS, Grade.FAIR),
    ((MUTE,), "LEV\r", ProofLevel.TOLD, Grade.FAIR),
    ((WHO,), "", ProofLevel.TOLD, Grade.FAIR),
    ((WHO, WHO), "", ProofLevel.TOLD_AGAIN, Grade.STRONG),
    ((MUTE, MUTE), "LEV\r", ProofLevel.TOLD, Grade.FAIR),
    ((MUTE, MUTE, ("STA\r", "BELOW\r\n")), "LEV\r", ProofLevel.TOLD_AGAIN, Grade.STRONG),
    ((MUTE, MUTE, ("STA\r", "ABOVE\r\n")), "LEV\r", ProofLevel.BOTH_WAYS, Grade.FAIR),
    ((("VER?\r", "ERROR\r\n"), WHO), "", ProofLevel.TOLD, Grade.FAIR),
]


@pytest.mark.parametrize(("said", "marked", "level", "grade"), ORDER)
def test_the_order_of_proofs(
    said: tuple[tuple[str, str], ...], marked: str, level: ProofLevel | None, grade: Grade | None
) -> None:
    found = worth(*said, marked=marked)
    assert (found.level, found.grade) == (level, grade) if found is not None else level is None


def test_another_serial_number_and_garble_take_it_back() -> None:
    other = worth(WHO, ("SN?\r", "SN 88213\r\n"), ("SN?\r", "SN 90001\r\n"))
    assert other is not None and "88213" in other.withdrawn
    garbled = worth(WHO, WHO, ("VER?\r", "\xc6\xcd\xad\xb2\xb2\xb0\xa0\xd6"))
    assert garbled is not None and garbled.level is ProofLevel.SOUNDS and garbled.withdrawn == "it garbles now"
