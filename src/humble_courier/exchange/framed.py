"""Replies with a check that our own words carry too: the one kind of answer in which nothing has to be understood.

Theory of operation. The words that went out say which check their protocol has, and where it stands: the same rule must then
hold for what came, as it is, after an echo of our words, or after an acknowledging byte. A rule that fits our words by
accident (one byte: once in 256) and the reply as well (once more) is no danger; that a rule fits only one of them says
nothing. Rules: the checks by name behind the bytes, with a byte before or behind left out (frames of STX and ETX), and two
hexadecimal digits at the end of a line of text.
"""

import re
from collections.abc import Callable, Iterator

from humble_courier.protocols.checks import CHECKS

Rule = Callable[[bytes], bool]
ACKS = b"\x06\x10"
_HEX_TAIL = re.compile(rb"(.*?)[*#&]?([0-9A-F]{2})[*\r\n]*", re.DOTALL)


def _binary(name: str, skip: int, behind: int) -> Rule:
    check = CHECKS[name]

    def fits(frame: bytes) -> bool:
        body = frame[skip : len(frame) - behind] if behind else frame[skip:]
        return len(body) > check.width and check.of(body[: -check.width]) == body[-check.width :]

    return fits


def _digits(of_hex: bool, name: str, skip: int) -> Rule:
    check = CHECKS[name]

    def fits(line: bytes) -> bool:
        found = _HEX_TAIL.fullmatch(line.strip(b"\r\n\x02\x03"))
        if found is None:
            return False
        body = found[1][skip:]
        if of_hex:
            try:
                body = bytes.fromhex(body.decode("ascii"))
            except (ValueError, UnicodeDecodeError):
                return False
        return len(body) > 1 and check.of(body) == bytes([int(found[2], 16)])

    return fits


RULES: tuple[Rule, ...] = (
    *(_binary(name, skip, behind) for name in CHECKS for skip in (0, 1) for behind in (0, 1)),
    *(_digits(of_hex, name, skip) for of_hex in (False, True) for name in ("xor8", "sum8", "lrc8") for skip in (0, 1)),
)


def rules_of(sent: bytes) -> list[Rule]:
    """The rules that our own words follow."""
    return [rule for rule in RULES if len(sent) > 2 and rule(sent)]


def checked_answer(sent: bytes, came: list[bytes]) -> bytes | None:
    """What came with a check that our words carry too; None where nothing did. `came`: piece by piece."""
    rules = rules_of(sent)
    for piece in _pieces(sent, came) if rules else ():
        if piece and piece != sent and any(rule(piece) for rule in rules):
            return piece
    return None


def handed_back(sent: bytes, came: list[bytes]) -> bool:
    """Whether a request with a check came back as it was, and no more: how a write is acknowledged, or a plug echoes."""
    return bool(rules_of(sent)) and b"".join(came) == sent


def _pieces(sent: bytes, came: list[bytes]) -> Iterator[bytes]:
    whole = b"".join(came)
    for data in (whole, *came):
        yield data
        if data.startswith(sent):
            yield data[len(sent) :]
        yield data.lstrip(ACKS)
        yield from data.splitlines()
