"""The manual as data: its chapters in their order, which one belongs to a page, and the words of the trade."""

import re
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from humble_courier.app.link.stages import Stage

FOLDER = Path(__file__).parent / "manual"
WORDS = "glossary"
# Chapters in the order in which one reads them; each is a file of that name.
ORDER = (
    "start", "line", "new", "port", "wire", "settings", "prepare", "talk", "diagnose", "today", "kit", "records", "devices",
    "preferences", WORDS,
)  # fmt: skip
_ENTRY = re.compile(r"^- \*\*(?P<word>[^*]+)\*\*: (?P<told>.+)$", re.MULTILINE)


@dataclass(frozen=True)
class Chapter:
    """One chapter in Markdown; its title is the first line."""

    name: str
    text: str

    @property
    def title(self) -> str:
        """What it is called."""
        return self.text.partition("\n")[0].lstrip("# ").strip()

    def holds(self, words: str) -> bool:
        """Whether all these words stand in it."""
        return all(word in self.text.lower() for word in words.lower().split())


@cache
def chapters() -> tuple[Chapter, ...]:
    """All of them."""
    return tuple(Chapter(name, (FOLDER / f"{name}.md").read_text(encoding="utf-8")) for name in ORDER)


def chapter_of(stage: Stage | None) -> str:
    """The chapter that belongs to a page."""
    return stage.value if stage is not None and stage.value in ORDER else ORDER[0]


@cache
def glossary() -> dict[str, str]:
    """Words of the trade with what they mean."""
    text = next(chapter.text for chapter in chapters() if chapter.name == WORDS)
    return {found["word"]: found["told"] for found in _ENTRY.finditer(text)}


@cache
def _any_word() -> re.Pattern[str]:
    longest_first = sorted(glossary(), key=len, reverse=True)
    return re.compile("|".join(rf"\b{re.escape(word)}\b" for word in longest_first), re.IGNORECASE)


def words_in(text: str) -> list[tuple[str, str]]:
    """Words of the trade that stand in a text, each once, with what they mean."""
    known = {word.lower(): (word, told) for word, told in glossary().items()}
    return list(dict.fromkeys(known[found.lower()] for found in _any_word().findall(text)))
