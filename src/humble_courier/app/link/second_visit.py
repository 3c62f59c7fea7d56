"""A second visit: what worked here on an earlier day, and the same questions asked again.

Theory of operation. A kept proof is history: it says what was shown on its day, with this port, chain and settings, and
nothing of today. Out of its words come the questions that proved it, each with the answer of that day. A question may be
asked again by one press where the sheet or its protocol says that it only asks; words that a person typed may set something,
and are only put where the person can send them. What comes today stands beside what came then.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.proof import make_proof
from humble_courier.app.talk.reading import reading_of
from humble_courier.catalog.links import Link
from humble_courier.documents.records import Proof, Word
from humble_courier.domain.clock import day_in_words, hour_in_words, same_day
from humble_courier.domain.proven import ProofKind, Shown
from humble_courier.domain.text import is_plain, printable
from humble_courier.domain.utterance import Utterance, Who
from humble_courier.port.session import Session

SAME = ("port", "chain", "computer_settings", "device_settings")  # a proof says something of a link that is what it was
MOST = 6  # questions that are asked again; more prove no more


@dataclass(frozen=True)
class AskedThen:
    """Something that was asked then. `only_asks`: its sheet or its protocol says that it changes nothing."""

    words: str
    data: bytes
    answer: str
    meaning: str
    only_asks: bool


@dataclass(frozen=True)
class Earlier:
    """What was shown on an earlier day; `at` in seconds since the epoch, `who` kept it."""

    at: float
    shown: Shown
    questions: tuple[AskedThen, ...]
    who: str = ""
    today: bool = False

    @property
    def day(self) -> str:
        """When it was, as in “on 30 September 2026”; an hour where it was today."""
        return f"today at {hour_in_words(self.at)}" if self.today else f"on {day_in_words(self.at)}"

    @property
    def short_day(self) -> str:
        """When it was where there is little room, as in “30 Sep 2026”."""
        return f"at {hour_in_words(self.at)}" if self.today else day_in_words(self.at, short=True)

    @property
    def since(self) -> str:
        """That nothing is known of now."""
        done = "heard" if self.shown.kind is ProofKind.HEARD else "asked"
        return f"nothing was {done} since" if self.today else f"today nothing was {done} yet"

    @property
    def verb(self) -> str:
        """What the device did then, in a word."""
        return "talked" if self.shown.kind is ProofKind.HEARD else "answered"

    def asked_again(self) -> list[AskedThen]:
        """Those that one press may ask again."""
        return [one for one in self.questions if one.only_asks]


def earlier_of(proofs: Sequence[Proof], link: Link, now: float) -> Earlier | None:
    """What the newest proof says, where port, chain and settings are what they were; None where there is no such."""
    if not proofs:
        return None
    here, last = make_proof(link, Evidence(), [], [], at=0.0), proofs[-1]
    if any(getattr(last, key) != getattr(here, key) for key in SAME):
        return None
    shown = Shown(last.kind, last.grade, last.reason, last.identity)
    return Earlier(last.at, shown, tuple(_questions(last.words, link)), last.who, same_day(last.at, now))


def _questions(words: Sequence[Word], link: Link) -> list[AskedThen]:
    """Each question once, in its order, with the first answer that it got."""
    found: dict[bytes, AskedThen] = {}
    for i, word in enumerate(words):
        data = bytes.fromhex(word.hex)
        if word.who != "we" or not data:
            continue
        answer = next((one for one in words[i + 1 : i + 2] if one.who == "they"), None)
        if data not in found and answer is not None and len(found) < MOST:
            only_asks = _only_asks(word.text.strip(), data, link)
            came = _as_read(bytes.fromhex(answer.hex))
            found[data] = AskedThen(_as_read(data), data, came, answer.meaning, only_asks)
    return list(found.values())


def _only_asks(said: str, data: bytes, link: Link) -> bool:
    reading, sheet = reading_of(link), link.sheet
    if reading is not None and reading.words == data:
        return True
    return sheet is not None and any(one.say.strip() == said for one in sheet.first_words)


@dataclass(frozen=True)
class Again:
    """A question with the answer of then and that of today; `today` is None while none has come."""

    question: AskedThen
    asked: bool
    today: str | None

    @property
    def same(self) -> bool:
        """Whether today's answer is that of then, sign for sign."""
        return self.today == self.question.answer


def beside(earlier: Earlier, said: Sequence[Utterance]) -> list[Again]:
    """The questions of then with what came of them in this session."""
    return [_again(question, said) for question in earlier.questions]


def _again(question: AskedThen, said: Sequence[Utterance]) -> Again:
    asked = [i for i, one in enumerate(said) if one.who is Who.WE and one.data == question.data]
    for i in reversed(asked):
        answer = said[i + 1] if i + 1 < len(said) else None
        if answer is not None and answer.who is Who.THEY:
            return Again(question, True, _as_read(answer.data))
    return Again(question, bool(asked), None)


def _as_read(data: bytes) -> str:
    """Text as text, anything else in hexadecimal."""
    body = data.strip(b"\r\n")
    return printable(body).strip() if is_plain(body) else body.hex(" ").upper()


def standing_of(evidence: Evidence, earlier: Earlier | None) -> str:
    """How a link stands, in a few words: today first, an earlier day with its date."""
    if evidence.proven:
        return "proven today" if evidence.proof_kept else "proven today, not kept yet"
    silent = evidence.silence is not None or bool(evidence.unanswered)
    if earlier is not None:
        return f"{earlier.verb} {earlier.day}; " + ("silent now" if silent else earlier.since)
    return "not yet proven; silent so far" if silent else "not yet proven"


def only_again(earlier: Earlier | None, evidence: Evidence, session: Session | None) -> bool:
    """Whether nothing but the questions of then was said, and no proof is kept yet."""
    if earlier is None or not earlier.questions or evidence.proof_kept:
        return False
    asked = {one.data for one in earlier.questions}
    return session is None or all(one.data in asked for one in session.ours)
