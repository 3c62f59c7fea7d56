"""A device sheet out of what a link has shown: begun from a kind or from the bare port, filled with what was heard and said.

The draft is the document `device/1` itself, so that the picture and the text are two views of one thing.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import msgspec
import yaml

from humble_courier.app.devices.answer_pattern import AnswerPart, guessed, pattern_of
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.base import ConnectorModel
from humble_courier.documents.device import DeviceEntry, DevicePort, FirstWords
from humble_courier.domain.patterns import pattern
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput

SOURCE = "written on site, from what it said"


@dataclass(frozen=True)
class Said:
    """Words that a device answered: with which end, what came, after how many milliseconds."""

    words: str
    answer: str
    ms: float = 0.0
    asks: str = ""  # who says that they only ask; empty while nobody does
    parts: tuple[AnswerPart, ...] | None = None  # None: as they name themselves


@dataclass(frozen=True)
class Learnt:
    """What a live link has shown of its device."""

    settings: Settings
    end: Terminator | None = None
    said: tuple[Said, ...] = ()
    heard: str = ""  # a line that it says by itself
    protocol: str = "text"
    unit: int | None = None


def id_of(name: str) -> str:
    """An id out of a name. Raises BadInput where nothing of it can stand in one."""
    made = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40]
    if not made or not made[0].isalpha():
        raise BadInput(f"name “{name}”: begin with a letter, as in Flow meter, pump house")
    return made


def draft(id_: str, name: str, base: DeviceEntry, shown: Learnt) -> DeviceEntry:
    """The sheet: connector and acts of `base`, everything else as it was shown. Raises BadInput."""
    port = msgspec.structs.replace(
        base.port, settings=str(shown.settings), protocol=shown.protocol, set_by="as it was found"
    )
    words = [first_words(one) for one in shown.said if one.asks]
    others = [first_words(one) for one in shown.said if not one.asks]
    slowest = max((one.ms for one in shown.said), default=0.0)
    changed = {
        "id": id_, "name": name, "edition": "none: begun from what it said", "port": port, "source": SOURCE,
        "end": (shown.end or Terminator.NONE).value, "heard": shown.heard, "from_memory": False,
        "first_words": words or _of_kind(base, shown), "not_again": others,
        "answer_ms": max(base.answer_ms, round(2 * slowest)),
    }  # fmt: skip
    return msgspec.structs.replace(base, **changed)


def _of_kind(base: DeviceEntry, shown: Learnt) -> list[FirstWords]:
    """The words of the kind, where it is one that is asked."""
    if shown.said or shown.protocol != base.port.protocol or shown.heard:
        return []
    return [msgspec.structs.replace(words, asks=words.asks or "the kind of device") for words in base.first_words]


def first_words(one: Said) -> FirstWords:
    """Words with the pattern of their answer."""
    named = one.parts if one.parts is not None else tuple(guessed(one.answer, one.words))
    expect, groups = pattern_of(one.answer, named)
    return FirstWords(
        say=one.words,
        means=f"{one.asks} said that it only asks" if one.asks else "said on site, not said again",
        asks=one.asks,
        expect=expect,
        read=dict(groups),
        example=one.answer,
    )


def base_of(link: Link, catalog: Catalog, kind: str | None = None) -> DeviceEntry:
    """What a draft begins from: the sheet or kind of the link, else its bare port. Raises BadInput."""
    sheet = catalog.device(kind) if kind is not None else link.sheet
    if sheet is None:
        return bare(link)
    if not catalog.is_kind(sheet.id):
        return sheet
    port = msgspec.structs.replace(sheet.port, set_in={})  # where a device of this kind is set, nobody has seen yet
    return msgspec.structs.replace(sheet, port=port, banks=[])


def bare(link: Link) -> DeviceEntry:
    """A sheet of nothing but the port of a link."""
    device = link.device
    connector = msgspec.convert(
        {"family": device.connector.family, "contacts": device.connector.contacts, "gender": device.connector.gender},
        ConnectorModel,
    )
    signals = {contact: str(signal) for contact, signal in device.signals.items()}
    port = DevicePort(
        name="Port", mark="as seen", connector=connector, signals=signals, settings="9600,8N1", set_by="not known yet"
    )
    return DeviceEntry(
        courier="device/1", id="device", name="Device", kind="instrument", edition="none", port=port, source=SOURCE
    )


def fields(one: Said) -> Mapping[str, str]:
    """What the words read out of their answer, by name."""
    words = first_words(one)
    found = pattern(words.expect).search(one.answer)
    return {} if found is None else {name: found.fields.get(group, "") for group, name in words.read.items()}


def as_text(sheet: DeviceEntry) -> str:
    """The sheet as people read and write it."""
    return yaml.safe_dump(msgspec.to_builtins(sheet), sort_keys=False, allow_unicode=True, width=100)


def known_of(shown: Learnt, named: Sequence[AnswerPart]) -> int:
    """How many of the things that matter are known: rate, frame, end, words or talk, a named part, protocol."""
    told = [True, True, shown.end is not None, bool(shown.said or shown.heard), any(part.name for part in named)]
    return sum(told)
