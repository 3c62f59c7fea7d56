"""Plain text in lines: terminators, and reading an answer out of what arrives."""

import re
from dataclasses import dataclass
from enum import StrEnum

from humble_courier.errors import BadInput


class Terminator(StrEnum):
    """How a line ends."""

    CR = "cr"
    LF = "lf"
    CRLF = "crlf"
    LFCR = "lfcr"
    NONE = "none"

    @property
    def octets(self) -> bytes:
        """The bytes that end a line."""
        return {
            Terminator.CR: b"\r",
            Terminator.LF: b"\n",
            Terminator.CRLF: b"\r\n",
            Terminator.LFCR: b"\n\r",
            Terminator.NONE: b"",
        }[self]

    @property
    def spoken(self) -> str:
        """For people: `CR LF`."""
        return {
            Terminator.CR: "CR",
            Terminator.LF: "LF",
            Terminator.CRLF: "CR LF",
            Terminator.LFCR: "LF CR",
            Terminator.NONE: "no terminator",
        }[self]


def printable(data: bytes) -> str:
    """Text for people: printable ASCII as it is, line ends left out at the end, the rest as `·` or `<hex>`."""
    text = data.rstrip(b"\r\n")
    return "".join(chr(b) if 32 <= b < 127 else "·" if b in (9, 10, 13) else f"<{b:02X}>" for b in text)


def octets(text: str) -> bytes:
    """Text as bytes to send; raises BadInput where it is not ISO 8859-1."""
    try:
        return text.encode("latin-1")
    except UnicodeEncodeError as error:
        raise BadInput(f"“{text[error.start]}” cannot be sent as one byte; write it as --hex") from None


@dataclass(frozen=True)
class Answer:
    """An answer that matched what was expected: the whole match and its named parts."""

    text: str
    fields: dict[str, str]


class Expect:
    """Waits for a pattern in what arrives. Feed bytes; `answer` is set once it matched.

    Only lines that are complete are looked at, so that half a number is never taken for the whole; `settle` says that
    no more will come. Holds at most `bound` bytes: a device that never stops talking must not fill memory.
    """

    def __init__(self, pattern: str, bound: int = 65_536) -> None:
        try:
            self._pattern = re.compile(pattern)
        except re.error as error:
            raise BadInput(f"pattern “{pattern}” is not a regular expression: {error}") from None
        self._held, self._bound = bytearray(), bound
        self.answer: Answer | None = None

    def feed(self, data: bytes) -> Answer | None:
        """Take bytes; the answer if it is complete."""
        self._held += data
        del self._held[: -self._bound]
        return self._look(max(self._held.rfind(b"\n"), self._held.rfind(b"\r")) + 1)

    def settle(self) -> Answer | None:
        """Look at what has no line end as well: nothing more is coming."""
        return self._look(len(self._held))

    def _look(self, length: int) -> Answer | None:
        match = self._pattern.search(self._held[:length].decode("latin-1"))
        if match and self.answer is None:
            self.answer = Answer(match[0], {k: v for k, v in match.groupdict().items() if v is not None})
        return self.answer
