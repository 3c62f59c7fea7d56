"""Patterns that people write: in sheets, behind `--expect`, into the window. Matched within a time limit, never longer.

Theory of operation. A pattern such as `(a|aa)+$` takes longer and longer for each further letter before one that does not
fit: Python's own engine would hold the whole program meanwhile, Stop with it. The engine used here (`regex`, in Python's
syntax) gives up after a time of the processor, and lets other threads work until then. A pattern that was too slow once is
not tried again: it finds nothing from then on, and `too_slow` says so. `checked` tries it on texts of its own letters before
anybody relies on it.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

from humble_courier.errors import BadInput

if TYPE_CHECKING:  # it takes a moment to load, and a window opens without it
    pass

LONGEST_S = 0.1  # of the processor, for one text: a line of a device takes thousandths of it
TRIED = 60  # letters in a row on which a pattern is tried


@dataclass(frozen=True)
class PatternMatch:
    """What a pattern found: the whole of it, and its named parts."""

    text: str
    fields: dict[str, str]


class Pattern:
    """One pattern. Raises BadInput for what is none."""

    def __init__(self, text: str) -> None:
        import regex

        try:
            self._compiled: regex.Pattern[str] = regex.compile(text)
        except regex.error as error:
            raise BadInput(f"pattern “{text}” is not a regular expression: {error}") from None
        self.text, self.too_slow = text, False

    @property
    def names(self) -> tuple[str, ...]:
        """Names of its parts, in their order."""
        return tuple(self._compiled.groupindex)

    def search(self, text: str) -> PatternMatch | None:
        """The first place that fits; None where there is none, or where looking for it takes too long."""
        if self.too_slow:
            return None
        try:
            match = self._compiled.search(text, timeout=LONGEST_S, concurrent=True)
        except TimeoutError:
            self.too_slow = True
            return None
        if match is None:
            return None
        return PatternMatch(match[0], {name: value for name, value in match.groupdict().items() if value is not None})

    def checked(self) -> "Pattern":
        """The same; raises BadInput where it takes too long for texts of its own letters."""
        letters = sorted({sign for sign in self.text if sign.isalnum()} | {"0", "a", " "})
        for letter in letters:
            self.search(letter * TRIED + "\x00")
            if self.too_slow:
                raise BadInput(
                    f"pattern “{self.text}” takes too long where it does not fit: say each repetition once, as in (L+)$"
                )
        return self


@lru_cache(maxsize=512)
def pattern(text: str) -> Pattern:
    """A pattern, made once. Raises BadInput for what is none."""
    return Pattern(text)
