"""Whether bytes are no text at all but text at other settings, and which frame they speak for."""

from humble_courier.exchange.verdict import Came

DOUBTFUL = 0.05  # share of bytes with errors from which on nothing else is asked
HIGH = 0.12  # share of bytes beyond ASCII that no language needs
UNIT_SIGNS = frozenset(b"\xb0\xb5\xb2\xb3\xdf\xf8\xea\xe6\xb1")  # ° µ ² ³ ß in ISO 8859-1; ° Ω µ in code page 437
LETTERS = frozenset(range(0xC0, 0x100))  # letters of ISO 8859-1, but two signs


def is_garbled(came: list[Came]) -> bool:
    """Whether what came was sent at other settings: many errors, or high bytes that are no letters and no unit signs."""
    data = b"".join(one.data for one in came)
    doubts = sum(len(one.doubts) for one in came)
    if doubts > DOUBTFUL * len(data):
        return True
    high = [byte for byte in data if byte >= 0x80]
    if not high or _is_utf8(data):
        return False
    signs = sum(byte in UNIT_SIGNS or byte in LETTERS for byte in high)
    return len(high) > HIGH * len(data) or signs < len(high)


def _is_utf8(data: bytes) -> bool:
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        return False
    return True


def speaks_for(came: list[Came], at: str) -> str:
    """The frame that garble speaks for, heard `at` (as in `8N1`); `rate` where no parity explains it, or empty."""
    data = b"".join(one.data for one in came)
    doubts = _places(came)
    if len(data) < 4:
        return "rate" if doubts and not any(byte >= 0x20 for byte in data) else ""
    if doubts and at.endswith("N1"):
        odd = {i for i, byte in enumerate(data) if byte.bit_count() % 2}
        if doubts == odd:
            return "8O1"
        if doubts == set(range(len(data))) - odd:
            return "8E1"
    if doubts:
        return "rate"
    texts = all(0x20 <= byte & 0x7F < 0x7F or byte & 0x7F in (9, 10, 13) for byte in data)
    if not texts:
        return "rate"
    if all(byte.bit_count() % 2 == 0 for byte in data):
        return "7E1"
    if all(byte.bit_count() % 2 == 1 for byte in data):
        return "7O1"
    return "7N2" if all(byte >= 0x80 for byte in data) else ""


def _places(came: list[Came]) -> set[int]:
    places, at = set(), 0
    for one in came:
        places |= {at + i for i in one.doubts}
        at += len(one.data)
    return places
