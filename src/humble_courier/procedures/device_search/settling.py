"""From "something of text came back" to exact settings and the end of a line.

Theory of operation. Each question goes out alone, in one exact frame: an end of line of the kind that is tried, the
words, the end again. Devices differ in what ends a line (CR alone, LF alone, only both), and whatever else they got lies
in their buffer as the begin of the next line. LF goes first, then CR: each is answered by those alone that count it, and
what is left in a buffer never makes the pair, as CR before LF would. CR LF is last: those that answer it now count the pair.

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
MANY_SIGNS, FEWEST_SIGNS = 10, 3  # different characters of an answer: one that repeats is an echo of another rate
MOST_WAITED = 16  # such waits in which late answers come
SOUND = 0.97  # of the characters of an answer that must be plain and undamaged
CR, LF, CRLF = b"\r", b"\n", b"\r\n"


@dataclass(frozen=True)
class _Question:
    """Without an end it waits until nothing comes, after its words if it has some: these end what lies in a buffer."""

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

    def __init__(self, address: str, rate: int, frames: list[str], words: Words, evidence: RateEvidence) -> None:
        self._address, self._words, self._evidence = address, words, evidence
        self._settings = [exact(rate, frame) for frame in frames]
        self._round = self._waited = 0
        self._questions = [self._flush(self._settings[0]), *self._all()]  # many lines may wait for their answers still
        self._asked = 0
        self._open: _Open | None = None  # the question that was asked last
        self.found: Found | None = None
        self.heard = b""  # the answer, as it came

    def _all(self) -> list[_Question]:
        """Of every frame; what was said in the one before lies in buffers still."""
        found = self._at(self._settings[0])
        for settings in self._settings[1:]:
            found += [self._flush(settings), *self._at(settings)]
        return found

    def _at(self, settings: Settings) -> list[_Question]:
        text, known = self._words.text, self._words.end
        if known is not None:
            return [_Question(settings, known + text + known, known)]
        return [
            _Question(settings, text + LF, LF),
            _Question(settings, CR + text + CR, CR),
            _Question(settings, CRLF + text + CRLF, CRLF),
        ]

    def _flush(self, settings: Settings) -> _Question:
        """The words before LF, since a CR that waits in a buffer must meet none; then silence."""
        return _Question(settings, self._words.text + LF if self._words.end is None else b"")

    @property
    def over(self) -> bool:
        """Whether nothing is left to ask."""
        return self.found is not None or not self._questions

    def next(self) -> Step:
        """The next question."""
        one = self._questions[0]
        if not one.end:
            wait = QUIET_S + len(one.say) * one.settings.character_s
            return Step(self._address, one.settings, one.say, seconds=wait, action="wait until it is quiet")
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
        if one.end:
            self._open = _Open(one, one.say)
        if self._open is not None:
            self._open.hear(heard, outcome.doubtful)
            if heard and self._open.answered:
                self._answered(self._open, outcome)
                return
        if not one.end and outcome.heard and self._waited < MOST_WAITED:
            self._waited += 1
            self._questions[0] = _Question(one.settings)
            return
        self._waited = 0
        if one.end and heard:
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
        elif self._evidence.sure(one.settings, asked.heard) or self._asked >= self._enough(asked.heard):
            self._told(one, asked.heard)
        else:
            self._questions[0] = one

    @staticmethod
    def _enough(heard: bytes) -> int:
        """How often an answer is asked for before it is believed: many different signs are no accident twice."""
        return 2 if len(set(heard)) >= MANY_SIGNS else MOST_ASKED

    def _unanswered(self) -> None:
        """On to the next question; after the last one, all of them once more."""
        self._open, self._asked = None, 0
        self._questions.pop(0)
        if not self._questions and self._round + 1 < len(RESTS_S):
            self._round += 1
            self._questions = self._all()

    def _told(self, one: _Question, heard: bytes) -> None:
        """An answer came: that is it."""
        lines = [line for line in heard.replace(b"\r", b"\n").split(b"\n") if line]
        others = tuple(str(other.frame) for other in self._settings if other != one.settings)
        same = ("8N2",) if str(one.settings.frame) == "8N1" else ()
        said = printable(max(lines, key=len, default=heard))
        end = Terminator.of(one.end).spoken
        self.found = Found(self._address, one.settings, "", None, said, end, same + others, printable(self._words.text))
        self.heard = heard
