"""The words by which devices refuse, acknowledge, wait and go on: patterns of whole lines, out of `lexicon.toml`."""

import re
import tomllib
from functools import cache
from pathlib import Path

from humble_courier.exchange.verdict import WordsForm

SOURCE = Path(__file__).with_name("lexicon.toml")


class Lexicon:
    """Kinds of lines. `refusal` by its kind; the others match or not."""

    def __init__(self, tables: dict[str, dict[str, list[str]]]) -> None:
        self._refusals = {kind: _of(lines) for kind, lines in tables["refusal"].items()}
        self._ack, self._pager = _of(tables["ack"]["lines"]), _of(tables["pager"]["lines"])
        self._prompt, self._secret = _of(tables["prompt"]["lines"]), _of(tables["prompt"]["secret"])
        self._who = _of(tables["prompt"]["who"])
        self._asks, self._sets = _of(tables["form"]["asks"]), _of(tables["form"]["sets"])
        self._itself = _of(tables["itself"]["lines"])

    def refusal(self, line: str) -> str:
        """The kind of refusal that a line is; empty where it is none."""
        return next((kind for kind, pattern in self._refusals.items() if pattern.fullmatch(line)), "")

    def acknowledges(self, line: str) -> bool:
        """Whether a line says that something was taken, and no more."""
        return bool(self._ack.fullmatch(line))

    def prompts(self, line: str) -> bool:
        """Whether a line without an end waits for words."""
        return bool(self._prompt.fullmatch(line))

    def asks_secret(self, line: str) -> bool:
        """Whether a password or a code is asked for: what is typed next is never kept."""
        return bool(self._secret.fullmatch(line))

    def form(self, words: str) -> WordsForm:
        """What words do, as far as their form tells."""
        if self._sets.fullmatch(words):
            return WordsForm.SETS
        return WordsForm.ASKS if self._asks.fullmatch(words) else WordsForm.UNKNOWN

    def asks_who(self, line: str) -> bool:
        """Whether a name or a password is asked for."""
        return bool(self._who.fullmatch(line))

    def pages(self, line: str) -> bool:
        """Whether more follows after a key."""
        return bool(self._pager.fullmatch(line))

    def by_itself(self, line: str) -> bool:
        """Whether devices say that unasked."""
        return bool(self._itself.fullmatch(line))


def _of(lines: list[str]) -> re.Pattern[str]:
    return re.compile("|".join(f"(?:{line})" for line in lines), re.IGNORECASE | re.DOTALL)


@cache
def lexicon() -> Lexicon:
    """As it is delivered."""
    return Lexicon(tomllib.loads(SOURCE.read_text(encoding="utf-8")))
