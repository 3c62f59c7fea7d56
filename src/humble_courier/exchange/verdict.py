"""What an exchange is: words that went out, what came with its times and doubts, and what the judge makes of it."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum


class ExchangeState(StrEnum):
    """How a question ended."""

    ANSWERED = "answered"  # the reply shows something itself: a name, a reading with its unit, a check
    REPLIED = "replied"  # something came; what it says is for a person to say
    ACKNOWLEDGED = "acknowledged"
    REFUSED = "refused"
    GARBLED = "garbled"
    PROMPT = "prompt"  # only a prompt: it waits for words
    MORE = "more"  # a pager or a menu: it goes on after a key
    ECHO = "echo"  # only our own words
    SILENT = "silent"
    LATE = "late"  # later than an answer comes: a person says whose it is
    ITSELF = "itself"  # only what it says by itself


class SpanRole(StrEnum):
    """What a run of bytes is."""

    ECHO = "echo"
    ANSWER = "answer"
    REFUSAL = "refusal"
    ACK = "ack"
    PROMPT = "prompt"
    PAGER = "pager"
    ITSELF = "itself"
    GARBLED = "garbled"
    UNKNOWN = "unknown"


class WordsForm(StrEnum):
    """What words do, as far as their form or their protocol tells. Unknown counts as setting."""

    ASKS = "asks"
    SETS = "sets"
    UNKNOWN = "unknown"


@dataclass(frozen=True)
class Came:
    """What came at once: `ms` after our words (negative: before them), its bytes, the places of those in doubt."""

    ms: float
    data: bytes
    doubts: frozenset[int] = frozenset()


@dataclass(frozen=True)
class RoleSpan:
    """Bytes `start` to `end` of all that came, and what they are; `kind`: of a refusal."""

    start: int
    end: int
    role: SpanRole
    kind: str = ""


@dataclass(frozen=True)
class NamedPart:
    """A value with the name that stands beside it; its place in all that came."""

    name: str
    value: str
    start: int
    end: int


@dataclass(frozen=True)
class ExchangeVerdict:
    """What came of a question. `answer`: as text, without echo and prompt; `ms`: until it began; None where nothing came.

    `checked`: a check came that our words carry too. `speaks`: the frame that garble speaks for.
    `pages`: it goes on after a key. `secret`: it asks for a password or a code. `told`: all
    that it said in reply, a refusal as well, as it came.
    """

    state: ExchangeState
    why: str
    answer: str = ""
    spans: Sequence[RoleSpan] = ()
    parts: Sequence[NamedPart] = ()
    form: WordsForm = WordsForm.UNKNOWN
    checked: bool = False
    ms: float | None = None
    speaks: str = ""
    refusal: str = ""
    pages: bool = False
    secret: bool = False
    told: str = ""
    itself: Sequence[str] = field(default=())
