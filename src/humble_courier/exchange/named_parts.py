"""Values that have their name beside them: the only ones by which a device tells who it is, or what it measures.

A lone number or code names nothing. Suggestions only: a person ticks what is to be kept.
"""

import re
from collections.abc import Iterator

from humble_courier.exchange.verdict import NamedPart

_VALUE = r"(?P<value>[A-Z]?[\w.\-/()]*\d[\w.\-/()]*)"
_UNITS = (
    r"kg|g|mg|t|lb|oz|m[VAWSH]|k[VWA]|V(?:AC|DC)?|A|W|[kMG]?Hz|°C|°F|%(?:RH)?|m?bar|[kh]?Pa|psi|mm|cm|km|m|ml|l|l/min|m3/h|pH|dBm?|rpm|ms|min|"
    r"ppm|k?Ohm|[uµm]S(?:/cm)?|Nm?|m/s|km/h|kn|deg|[mk]?[AW]h|NTU|lx|mol|K|C|F|M"
)
# The name, and how it is written. Order counts: what is found first is not read as something else. Common practice.
PATTERNS: tuple[tuple[str, re.Pattern[str]], ...] = tuple(
    (name, re.compile(pattern, re.IGNORECASE if fold else 0))
    for name, pattern, fold in (
        ("address", r"\b(?P<value>(?:[0-9A-F]{2}[:-]){5}[0-9A-F]{2})\b", True),
        ("address", r"(?<![\d.])(?!255\.)(?P<value>(?:\d{1,3}\.){3}\d{1,3})(?![\d.])", False),
        ("address", r"\+?\baddr(?:ess)?[ :=]+(?P<value>[0-9a-f:]{4,})\b", True),
        ("date", r"\b(?P<value>(?:19|20)\d\d-[01]\d-[0-3]\d)\b", False),
        ("date", r"\bdate[ :=]+(?P<value>[\d./\-]{6,10})\b", True),
        ("date", r"\btime[ :=]+(?P<value>\d\d:\d\d(?::\d\d)?)\b", True),
        (
            "serial number",
            r"\b(?:s/n|sn|serial(?: ?(?:no|number|nr|#))?\.?|ser\.? ?no\.?)(?:[ :=#]+|(?=\d))(?P<value>[\w\-/]*\d[\w\-/]*)",
            True,
        ),
        (
            "firmware",
            r"(?<![a-z])(?:firmware(?:[ _](?:name|version|ver|rev))?|software(?:[ ,]+version)?|fw|sw|ver(?:sion|s)?\.?"
            r"|rev(?:ision)?\.?|release|rel\.?)"
            r"(?:[ :=]+(?:[A-Z][a-z]+ )?|(?=\d))(?P<value>[vV]?\d[\w.\-()]*)",
            True,
        ),
        ("firmware", r"(?<![\w.])[vV](?P<value>\d+(?:\.\d\w*)+[\w\-]*)", False),
        ("firmware", r"(?<=[\w\-])V(?P<value>\d+\.\d[\w.]*)", False),
        (
            "model",
            r"\b(?:model|type|machine_type|device|product|part ?(?:no|number)?)[ :=#]+(?P<value>[A-Za-z][\w\-]*\d[\w\-]*)",
            True,
        ),
        ("station", r"\b(?:id|station|unit|node|addr(?:ess)?)[ :=#]+(?P<value>\d{1,3})\b(?![.,:\d])", True),
        ("reading", rf"(?<![\w.#*\[;])(?P<value>[+\-]? ?\d+(?:[.,]\d+)? ?(?:{_UNITS}))(?![\w/])", False),
        ("reading", r"\b[A-Z][A-Za-z]{0,3}[:=](?P<value>[+\-]?\d+\.\d+)(?![,\w])", False),
    )
)
MODEL = re.compile(r"(?<![\w.\-])(?P<value>[A-Z][A-Z0-9]{0,7}-?\d[A-Z0-9]{0,6}(?:-\w{1,8})?)(?![\w.])")
BESIDE_MODEL = ("firmware", "serial number")
IDN_FIELDS = ("", "model", "serial number", "firmware")  # IEEE 488.2, 10.14: maker, model, serial number, firmware


def named_parts(text: str, words: str) -> list[NamedPart]:
    """The parts of an answer to some words, with places in `text`."""
    if words.strip().upper() == "*IDN?" and text.count(",") >= 2:
        return _identification(text)
    found: list[NamedPart] = []
    for name, pattern in PATTERNS:
        for match in pattern.finditer(text):
            start, end = match.span("value")
            if all(end <= one.start or start >= one.end for one in found):
                found.append(
                    NamedPart(
                        name,
                        match["value"].strip().rstrip(".,;)") if name != "firmware" else _version(match["value"]),
                        start,
                        end,
                    )
                )
    if any(one.name in BESIDE_MODEL for one in found) and not any(one.name == "model" for one in found):
        found += _model(text, found)
    return sorted(found, key=lambda one: one.start)


def _version(text: str) -> str:
    text = text.rstrip(".,;")
    return text if text.count("(") == text.count(")") else text.rstrip(")")


def _model(text: str, found: list[NamedPart]) -> Iterator[NamedPart]:
    """A name of letters and digits that stands before a version or a serial number, within its line."""
    for match in MODEL.finditer(text):
        start, end = match.span("value")
        line_end = min((i for i in (text.find("\r", end), text.find("\n", end)) if i >= 0), default=len(text))
        beside = any(one.name in BESIDE_MODEL and end <= one.start <= line_end for one in found)
        if beside and all(end <= one.start or start >= one.end for one in found):
            yield NamedPart("model", match["value"], start, end)
            return


def _identification(text: str) -> list[NamedPart]:
    fields, at, found = text.split(","), 0, []
    names = IDN_FIELDS if len(fields) >= len(IDN_FIELDS) else IDN_FIELDS[1:]
    for name, field in zip(names, fields, strict=False):
        value = field.strip()
        if name and value:
            start = at + field.index(value)
            found.append(NamedPart(name, value, start, start + len(value)))
        at += len(field) + 1
    return found
