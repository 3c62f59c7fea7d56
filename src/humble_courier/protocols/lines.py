"""Plain text in lines: terminators, and reading an answer out of what arrives."""

from dataclasses import dataclass

from humble_courier.domain.patterns import pattern as made_of


@dataclass(frozen=True)
class Answer:
    """An answer that matched what was expected: the whole match and its named parts."""

    text: str
    fields: dict[str, str]


class Expect:
    """Waits for a pattern in what arrives. Feed bytes; `answer` is set once it matched.

    Only lines that are complete are looked at, so that half a number is never taken for the whole (but where `at_once`, as
    for a prompt that has no end); `settle` says that no more will come. Holds at most `bound` bytes: a device that never
    stops talking must not fill memory. Raises BadInput for a pattern that is none, or takes too long.
    """

    def __init__(self, pattern: str, bound: int = 65_536, at_once: bool = False) -> None:
        self._pattern = made_of(pattern).checked()
        self._held, self._bound, self._at_once = bytearray(), bound, at_once
        self.answer: Answer | None = None

    def feed(self, data: bytes) -> Answer | None:
        """Take bytes; the answer if it is complete."""
        self._held += data
        del self._held[: -self._bound]
        if self._at_once:
            return self._look(len(self._held))
        return self._look(max(self._held.rfind(b"\n"), self._held.rfind(b"\r")) + 1)

    def settle(self) -> Answer | None:
        """Look at what has no line end as well: nothing more is coming."""
        return self._look(len(self._held))

    def _look(self, length: int) -> Answer | None:
        if self.answer is None:
            found = self._pattern.search(self._held[:length].decode("latin-1"))
            self.answer = None if found is None else Answer(found.text, found.fields)
        return self.answer
