"""From "something of text came back" to exact settings and the end of a line.

Theory of operation. Each question goes out alone, in one exact frame: an end of line of the kind that is tried, the
words, the end again. Devices differ in what ends a line (CR alone, LF alone, only both), and whatever else they got lies
in their buffer as the begin of the next line. To CR only those answer that count it. To CR LF those answer that count the
pair, and those that count LF alone: for these the CR is part of each line, so that all they say is the same complaint,
twice. Then LF alone is asked, which the others do not count; without an answer it was CR LF.

An answer counts when it is plain, undamaged, more than an echo, and no accident of another rate (`Belief`); short ones
are asked for again. When nothing is clean, all is done once more after a rest, and once more after a longer one: some
devices are busy with what the search said first.
"""

from dataclasses import dataclass

from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator, printable, share_of_text
from humble_courier.procedures.device_search.found import Found
from humble_courier.procedures.device_search.plan import Words
from humble_courier.procedures.device_search.probes import echoed, exact
from humble_courier.procedures.device_search.rate_evidence import RateEvidence
from humble_courier.procedures.steps import Outcome, Step

QUIET_S = 0.47  # after a question; what comes later belongs to no question (common practice: devices answer within 0.4 s)
RESTS_S = (0.05, 0.6, 2.3)  # before each round
SLOW_S = 0.42  # between two answers to two lines
MOST_ASKED = 4  # times that a short answer is asked for before it is believed
FEWEST_SIGNS = 3  # different characters of an answer: one that repeats is an echo of another rate
MOST_WAITED = 16  # such waits in which late answers come
SOUND = 0.97  # of the characters of an answer that must be plain and undamaged
CR, LF, CRLF = b"\r", b"\n", b"\r\n"


@dataclass(frozen=True)
class _Question:
    """Without words it waits until nothing comes."""

    settings: Settings
    say: bytes = b""
    end: bytes = b""


class _Open:
    """A question, and all that came since it was asked: devices answer line after line, and think before each."""

    def __init__(self, question: _Question, said: bytes) -> None:
        self.question, self._said = question, said
        self.heard, self._doubtful = b"", 0

    def hear(self, heard: bytes, doubtful: int) -> None:
        """More of it."""
        self.heard, self._doubtful = self.heard + heard, self._doubtful + doubtful

    @property
    def answered(self) -> bool:
        """Whether it is plain, undamaged, and more than our own words."""
        plain = share_of_text(self.heard) >= SOUND and len(set(self.heard)) >= FEWEST_SIGNS
        return plain and not self._doubtful and not echoed(self.heard, self._said)


class Settling:
    """Ask `next`, tell `done`; until `found`, or `over` without. `clean`: an exact answer came, whatever its end."""

    def __init__(
        self, address: str, rate: int, frames: list[str], words: Words, evidence: RateEvidence, one_pair: bool = True
    ) -> None:
        """`one_pair`: the first of two answers may be lost while we speak."""
        self._one_pair = one_pair
        self._address, self._words, self._evidence = address, words, evidence
        self._settings = [exact(rate, frame) for frame in frames]
        self._round = self._waited = 0
        self._questions = [_Question(self._settings[0]), *self._all()]  # many lines may wait for their answers still
        self._asked = 0
        self._open: _Open | None = None  # the question that was asked last
        self.found: Found | None = None
        self.heard = b""  # the answer, as it came
        self._pair: tuple[Found, bytes] | None = None  # an answer to CR LF that LF alone may have had too

    def _all(self) -> list[_Question]:
        return [question for settings in self._settings for question in self._at(settings)]

    def _at(self, settings: Settings) -> list[_Question]:
        text, known = self._words.text, self._words.end
        if known is not None:
            return [_Question(settings, known + text + known, known)]
        return [
            _Question(settings, CR + text + CR, CR),
            _Question(settings, CRLF + text + CRLF, CRLF),
            _Question(settings, LF + text + LF, LF),
        ]

    @property
    def over(self) -> bool:
        """Whether nothing is left to ask."""
        return self.found is not None or not self._questions

    def next(self) -> Step:
        """The next question."""
        one = self._questions[0]
        if not one.say:
            return Step(self._address, one.settings, seconds=QUIET_S, action="wait until it is quiet")
        wait = max(QUIET_S, self._words.answers_within_s) + len(one.say) * one.settings.character_s
        told = f"ask, ended with {Terminator.of(one.end).spoken}"
        quiet = SLOW_S if one.end == CRLF and self._words.end is None else 0.12
        return Step(
            self._address, one.settings, one.say, wait, quiet_s=quiet + 4 * one.settings.character_s, action=told,
            rest_s=RESTS_S[self._round],
        )  # fmt: skip

    def done(self, outcome: Outcome, heard: bytes) -> None:
        """Take in what came; what comes in the silence after a question belongs to it still."""
        one = self._questions[0]
        if one.say:
            self._open = _Open(one, one.say)
        if self._open is not None:
            self._open.hear(heard, outcome.doubtful)
            if heard and self._open.answered:
                self._answered(self._open, outcome)
                return
        if not one.say and outcome.heard and self._waited < MOST_WAITED:
            self._waited += 1
            return
        self._waited = 0
        if one.say and outcome.heard:
            self._questions[0] = _Question(one.settings)
            return
        self._unanswered()

    def _answered(self, asked: "_Open", outcome: Outcome) -> None:
        """An answer: believed when it is no accident of another rate; a short one is asked for again."""
        one, self._waited = asked.question, 0
        self._evidence.weigh(one.settings, outcome)
        self._asked += 1
        if self._evidence.doubts(one.settings):
            self._unanswered()
        elif self._evidence.sure(one.settings, asked.heard) or self._asked >= MOST_ASKED:
            self._told(one, asked.heard)
        else:
            self._questions[0] = one

    def _unanswered(self) -> None:
        """On to the next question; after the last one, all of them once more."""
        if self._pair is not None and self._open is not None:
            self.found, self.heard = self._pair  # LF alone says nothing: it was the pair
            return
        self._open, self._asked = None, 0
        self._questions.pop(0)
        if not self._questions and self._round + 1 < len(RESTS_S):
            self._round += 1
            self._questions = self._all()

    def _told(self, one: _Question, heard: bytes) -> None:
        """An answer came: that is it, unless it may have been for LF alone."""
        lines = [line for line in heard.replace(b"\r", b"\n").split(b"\n") if line]
        others = tuple(str(other.frame) for other in self._settings if other != one.settings)
        same = ("8N2",) if str(one.settings.frame) == "8N1" else ()
        said = printable(max(lines, key=len, default=heard))
        end = Terminator.of(one.end).spoken
        made = Found(self._address, one.settings, "", None, said, end, same + others, printable(self._words.text))
        if one.end == CRLF and self._words.end is None and (self._one_pair or _same_again(heard)):
            self._pair = (made, heard)
            self._open = None
            self._questions = [_Question(one.settings), *(q for q in self._at(one.settings) if q.end == LF)]
        else:
            self.found, self.heard = made, heard


def _same_again(heard: bytes) -> bool:
    """Whether an answer is the same thing twice or more, prompts included."""
    text = heard.replace(b"\r", b"").replace(b"\n", b"")
    return any(text == text[: len(text) // many] * many for many in (2, 3, 4) if len(text) % many == 0)
