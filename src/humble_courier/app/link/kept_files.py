"""Pictures and files of a link: a plate, its switches, a page of the manual, a recording.

That a file is kept is a fact of the link (`FILE` and the id of its content): so it is merged, exported and found like any
other. Taking it out is a newer fact; the content stays for whoever has it in a copy of the records.
"""

import re
from collections.abc import Iterable
from dataclasses import dataclass

from humble_courier.app.contents import Content
from humble_courier.domain.facts import Fact
from humble_courier.errors import BadInput

FILE, OUT = "file ", "Taken out: "
_TEXT = re.compile(r"(?P<name>.+) \((?P<size>\d+) bytes\)(?:: (?P<note>.*))?", re.DOTALL)
PICTURES = (".png", ".jpg", ".jpeg", ".gif", ".bmp", ".webp")


@dataclass(frozen=True)
class KeptFile:
    """One file: what it is called, its content, its size in bytes, since when, and what is to be seen in it."""

    name: str
    content: str
    size: int
    at: float
    note: str = ""

    @property
    def is_picture(self) -> bool:
        """Whether it can be shown small."""
        return self.content.endswith(PICTURES)


def words(name: str, content: Content, note: str) -> str:
    """The words of the fact that a file is kept. Raises BadInput for a name without a letter."""
    name = " ".join(name.split())
    if not any(letter.isalnum() for letter in name):
        raise BadInput("the file needs a name")
    return f"{name} ({content.size} bytes)" + (f": {' '.join(note.split())}" if note.strip() else "")


def kept_files(facts: Iterable[Fact]) -> list[KeptFile]:
    """The files among the facts of a link, in the order in which they came."""
    found: dict[str, KeptFile | None] = {}
    for fact in facts:
        if fact.subject.startswith(FILE):
            content, told = fact.subject.removeprefix(FILE), _TEXT.fullmatch(fact.text)
            out = fact.text.startswith(OUT) or told is None
            found[content] = (
                None if out or told is None
                else KeptFile(told["name"], content, int(told["size"]), fact.at, told["note"] or "")
            )  # fmt: skip
    return [one for one in found.values() if one is not None]
