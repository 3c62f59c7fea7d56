"""From an answer to the pattern that knows it again: parts that matter are named, all other digits may change.

Theory of operation. An answer is cut into words and numbers. A part that was named becomes a group whose pattern
follows from how it looks: a whole number, a number with points (a version), a measured value, a code of letters and
digits. What was not named stays as it is, save digits, which are readings and counts and may differ next time, and
blanks, of which there may be more.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from humble_courier.domain.patterns import pattern
from humble_courier.errors import BadInput
from humble_courier.exchange.named_parts import named_parts

_TOKEN = re.compile(r"[A-Za-z0-9]+(?:[.\-_/:][A-Za-z0-9]+)*|[-+]?\d+(?:\.\d+)?")
_VERSION, _WHOLE, _VALUE = re.compile(r"\d+(?:\.\d+)+"), re.compile(r"\d+"), re.compile(r"[-+]\d+(?:\.\d+)?")
_MEASURED = re.compile(r"[-+]? ?\d+(?:[.,]\d+)?\s+([^\d\s]\S*)")  # a number with its unit
_LEAD = re.compile(r"(?:V|R|FW|VER|REV)(?=\d+\.\d)", re.IGNORECASE)  # letters that stand right before a version
_GROUP = re.compile(r"[a-z][a-z0-9_]*")
NAMES = ("station", "firmware", "serial number", "model", "state", "value")


@dataclass(frozen=True)
class AnswerPart:
    """A part of an answer, from `start` to `end`, and what it is called; empty while nobody has named it."""

    start: int
    end: int
    name: str = ""


def parts(answer: str) -> list[AnswerPart]:
    """The parts that can be touched: words and numbers; a version stands apart from the letter before it."""
    found = []
    for token in _TOKEN.finditer(answer):
        lead = _LEAD.match(token.group())
        found.append(AnswerPart(token.start() + (lead.end() if lead else 0), token.end()))
    return found


def guessed(answer: str, words: str = "") -> list[AnswerPart]:
    """The same, named where a name stands beside them (`exchange.named_parts`): a lone number or code names nothing."""
    named: list[AnswerPart] = []
    known = named_parts(answer, words)
    for part in parts(answer):
        found = next((one.name for one in known if one.start <= part.start < one.end), "")
        name = found if found not in {other.name for other in named} else ""
        end = next((one.end for one in known if name and one.start == part.start), part.end)
        named.append(AnswerPart(part.start, end, name))
    return [one for i, one in enumerate(named) if i == 0 or one.start >= max(other.end for other in named[:i])]


def pattern_of(answer: str, named: Sequence[AnswerPart]) -> tuple[str, dict[str, str]]:
    """The pattern, and what its groups are called. Raises BadInput for parts that overlap or two of one name."""
    wanted = sorted((part for part in named if part.name), key=lambda part: part.start)
    groups: dict[str, str] = {}
    made, at = "", 0
    for part in wanted:
        if part.start < at or part.end > len(answer):
            raise BadInput(f"“{part.name}”: this part overlaps another one")
        group = _group(part.name, groups)
        made += _loose(answer[at : part.start]) + f"(?P<{group}>{_kind(answer[part.start : part.end])})"
        groups[group], at = part.name, part.end
    made += _loose(answer[at:])
    if pattern(made).search(answer) is None:
        raise BadInput(f"no pattern could be made from “{answer}”: name fewer parts of it")
    return made, groups


def fits(expected: str, answers: Sequence[str]) -> int:
    """How many answers the pattern knows."""
    return sum(pattern(expected).search(answer) is not None for answer in answers)


def _group(name: str, taken: dict[str, str]) -> str:
    group = re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_") or "part"
    group = group if _GROUP.fullmatch(group) else f"part_{group}"
    if group in taken:
        raise BadInput(f"“{name}”: two parts of one answer need two names")
    return group


def _kind(text: str) -> str:
    if _WHOLE.fullmatch(text):
        return r"\d+"
    if _VERSION.fullmatch(text):
        return r"\d+(?:\.\d+)+"
    if _VALUE.fullmatch(text):
        return r"[-+]?\d+(?:\.\d+)?"
    if measured := _MEASURED.fullmatch(text):
        return r"[-+]?\s*\d+(?:[.,]\d+)?\s*" + re.escape(measured[1])
    return r"\S+(?:\s+\S+)*" if re.search(r"\s", text) else r"\S+"


def _loose(text: str) -> str:
    """A text of which the digits may differ, and the blanks may be more."""
    pieces = re.split(r"(\d+|\s+)", text)
    return "".join(r"\d+" if p.isdigit() else r"\s+" if p.isspace() else re.escape(p) for p in pieces)
