"""A device of one's own on the simulated bench: it behaves as its sheet says, as far as a sheet can say it.

Its words are answered with the example that stands beside them, else with the shortest text that fits their pattern; what
it says at power-up is said; a talker repeats what it was heard to say; registers hold their lowest value.
"""

import re
from typing import Literal

from humble_courier.documents.device import DeviceEntry, FirstWords
from humble_courier.domain.patterns import pattern as made_of
from humble_courier.simulator.devices.behaviour import Behaviour, Command, Talk, UnitOfKLine

TALKS_EVERY_S = 1.0
THINKS_S = 0.05
_ENDS: dict[str, Literal["cr", "lf", "crlf"]] = {"cr": "cr", "lf": "lf"}
_SIMPLER = (  # of patterns as sheets have them; what does not fit in the end is no example
    (r"\(\?P<\w+>", "("), (r"\\d\{(\d+)\}", lambda m: "1" * int(m[1])), (r"\[[^\]]*\\d[^\]]*\]", "1"), (r"\\d", "1"),
    (r"\\S", "x"), (r"\\w", "x"), (r"\\s", " "), (r"\[0-9[^\]]*\]", "1"), (r"\[\^[^\]]*\]", "x"),
    (r"\[([^\]\\])[^\]]*\]", r"\1"),
    (r"(?<!\\)\.", "x"), (r"\{(\d+)(,\d*)?\}", ""), (r"(?<!\\)[*+?^$()]", ""), (r"\|.*", ""), (r"\\(.)", r"\1"),
)  # fmt: skip


def example(words: FirstWords) -> str:
    """An answer to words: the sheet's own example, else one made from the pattern; empty where that cannot be done."""
    if words.example:
        return words.example
    text = words.expect
    for pattern, simple in _SIMPLER:
        text = re.sub(pattern, simple, text)
    return text if made_of(words.expect).search(text) else ""


def behaviour_of(sheet: DeviceEntry) -> Behaviour:
    """How a device with this sheet behaves."""
    protocol, said = sheet.port.protocol, [*sheet.first_words, *sheet.not_again]
    power_up = sheet.power_up.example if sheet.power_up is not None else None
    lowest = sheet.addresses.lowest if sheet.addresses is not None else 1
    last = max((register.first for register in sheet.registers), default=0) + 2
    heard = [Talk(every_s=TALKS_EVERY_S, text=sheet.heard + "\r\n")] if sheet.heard else []
    return Behaviour(
        protocol="text" if protocol in ("text", "scpi", "gpib") or (heard and protocol == "nmea-0183") else protocol,
        source=f"the sheet {sheet.id}",
        end=_ENDS.get(sheet.end, "crlf"),
        echo=sheet.echo,
        power_up=power_up,
        power_up_s=sheet.ready_after_s,
        think_s=min(THINKS_S, sheet.answer_ms / 1000),
        commands=[Command(say=words.say, answer=example(words)) for words in said],
        talks=[] if said else heard,
        units=[lowest],
        registers=_held(sheet, last),
        masters=[lowest, lowest + 1],
        control_units=[UnitOfKLine(address=lowest, identity="OWN UNIT")],
    )


def _held(sheet: DeviceEntry, last: int) -> list[int]:
    """Each register holds what its lower limit allows."""
    held = [0] * last
    for register in sheet.registers:
        held[register.first] = round((register.lowest or 0) / register.scale) & 0xFFFF
    return held
