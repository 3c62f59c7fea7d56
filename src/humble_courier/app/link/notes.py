"""Values that are noted at a device: firmware, serial number, hours, what was stored before a change; each with its history.

A note is a fact of the link whose subject begins with `NOTE`; nothing is overwritten, and the newest of a name holds.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from humble_courier.documents.device import DeviceEntry
from humble_courier.domain.facts import Fact
from humble_courier.errors import BadInput

NOTE = "noted "
LONGEST = 400  # characters of a value: longer ones are files
BY_HAND = "noted by you"
# What people note at a device besides what its sheet asks for (common practice).
USUAL = (
    "firmware", "serial number", "hours run", "stored settings before the change", "stored settings after it",
    "port number on another system", "licence: its file, where it lies, transfers left", "program and how it is set",
)  # fmt: skip


@dataclass(frozen=True)
class NotedValue:
    """A value at some time. `at`: seconds since the epoch; `source`: by whom."""

    value: str
    at: float
    source: str


@dataclass(frozen=True)
class Note:
    """All values of one name, oldest first; empty while nothing was noted. `offered`: a value that was read just now."""

    name: str
    values: tuple[NotedValue, ...] = ()
    offered: str = ""

    @property
    def now(self) -> str:
        """The value that holds."""
        return self.values[-1].value if self.values else ""

    @property
    def before(self) -> tuple[NotedValue, ...]:
        """Values that held before, newest first."""
        return self.values[-2::-1]


def subject(name: str) -> str:
    """The subject of the fact. Raises BadInput for an empty name."""
    if not name.strip():
        raise BadInput("say what is noted, as in: serial number")
    return f"{NOTE}{name.strip()}"


def text(name: str, value: str) -> str:
    """The words of the fact. Raises BadInput for an empty value, or one that is longer than `LONGEST`."""
    value = " ".join(value.split())
    if not value:
        raise BadInput(f"{name.strip()}: type the value that was read")
    if len(value) > LONGEST:
        raise BadInput(
            f"{name.strip()}: {len(value)} characters are too many, at most {LONGEST}; keep it as a file of the link"
        )
    return f"{name.strip()}: {value}"


def of_facts(facts: Iterable[Fact]) -> dict[str, Note]:
    """The notes among the facts of a link, by name, in the order in which they were first made."""
    found: dict[str, list[NotedValue]] = {}
    for fact in facts:
        if fact.subject.startswith(NOTE):
            name = fact.subject.removeprefix(NOTE)
            value = NotedValue(fact.text.removeprefix(f"{name}: "), fact.at, fact.source)
            found.setdefault(name, []).append(value)
    return {name: Note(name, tuple(values)) for name, values in found.items()}


def asked(sheet: DeviceEntry | None, facts: Sequence[Fact], read: Mapping[str, str]) -> list[Note]:
    """What the sheet wants noted, then what else was noted. `read`: what the device has told of itself, by name."""
    kept = of_facts(facts)
    names = list(dict.fromkeys([*(sheet.note_down if sheet is not None else []), *kept]))
    return [_offering(kept.get(name, Note(name)), read) for name in names]


def _offering(note: Note, read: Mapping[str, str]) -> Note:
    """With the value that the device has told, where its name is said at the begin of the note's, and it is another."""
    told = next((value for name, value in read.items() if note.name.lower().startswith(name.lower())), "")
    return Note(note.name, note.values, told if told != note.now else "")
