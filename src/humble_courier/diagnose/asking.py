"""The checks that the program does by itself at the line: what each says, and into which class what came belongs.

Theory of operation. A check is a procedure: asked for the next step, told what came, over once it is answered or nothing is
left to try. The same procedure runs on the real port, under a permit, and on the simulated bench of the link, where its
outcomes under each cause are tried. All that is said are the first words of the device, or what a person has typed.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from humble_courier.documents.device import DeviceEntry
from humble_courier.domain.settings import Frame, Handshake, Settings
from humble_courier.domain.text import Terminator, share_of_text
from humble_courier.procedures.device_search.probes import echoed
from humble_courier.procedures.steps import Outcome, Step

LISTENS_S, ASKS_S, WAITS_S = 3.0, 1.2, 8.0
ENOUGH = 200  # characters that tell what somebody says by himself
TEXT_SHARE = 0.9  # of a clean text; noise gives a third (common practice)
FRAMES = ("8N1", "7E1", "7O1", "8E1", "8O1")
RATES = (9600, 1200, 2400, 19200, 115200)  # beside half and double of what is set
HEARD = ("listen", "power-cycle")  # of these nothing is said
ENDS = (Terminator.CR, Terminator.LF, Terminator.CRLF)


@dataclass(frozen=True)
class Question:
    """What is said, each with its end; `answered` tells whether what came is the answer.

    `text`: the same without an end, where it is lines; `end`: theirs.
    """

    words: tuple[bytes, ...]
    answered: Callable[[bytes], bool]
    text: tuple[str, ...] = ()
    end: Terminator = Terminator.NONE

    def anew(self, end: Terminator | None = None) -> tuple[bytes, ...]:
        """The same (with another end), and an end before it: what lies in the device's buffer is over then."""
        octets = (self.end if end is None else end).octets
        return tuple(octets + line.encode("latin-1") + octets for line in self.text) or self.words


@dataclass(frozen=True)
class Asking:
    """One link as it is asked. `reads`: whether what comes by itself makes sense; `power_up_s`: until it speaks, once on.

    `may_raise`: whether DTR and RTS may go up: never where a sheet holds one low, nor at a device that nobody knows.
    """

    address: str
    settings: Settings
    question: Question | None
    reads: Callable[[bytes], bool]
    power_up_s: float = 0.0
    may_raise: bool = False

    def checks(self) -> tuple[str, ...]:
        """What can be done here."""
        found = [*HEARD]
        if self.question is None:
            return tuple(found)
        found += ["ask", "wait", "other-frames", "other-rates"]
        found += ["raise-lines"] if self.may_raise else []
        found += ["handshake-off"] if self.settings.handshake is not Handshake.NONE else []
        return tuple(found + (["other-endings"] if self.question.text else []))

    def steps(self, check: str) -> Iterator[Step]:
        """What is done for a check. Raises KeyError for one that is none of these."""
        settings, rate = self.settings, self.settings.rate
        if check in HEARD:
            wait = LISTENS_S + (self.power_up_s if check == "power-cycle" else 0.0)
            yield Step(self.address, settings, seconds=wait, quiet_s=wait, enough=ENOUGH)
            return
        match check:
            case "ask":
                yield from self._said(settings)
            case "wait":
                yield from self._said(settings, seconds=WAITS_S)
            case "other-endings":
                for end in ENDS:
                    yield from self._said(settings, end)
            case "other-frames":
                for frame in FRAMES:
                    yield from self._said(settings.with_frame(Frame.parse(frame)), self._asks.end)
            case "other-rates":
                for one in dict.fromkeys((rate // 2, rate * 2, *RATES)):
                    yield from self._said(replace(settings, rate=one), self._asks.end) if one != rate else ()
            case "raise-lines":
                yield from (replace(step, lines=(True, True)) for step in self._said(settings))
            case "handshake-off":
                without = replace(settings, handshake=Handshake.NONE)  # and our lines up, which the handshake would move
                up = (True, True) if self.may_raise else None
                yield from (replace(step, lines=up) for step in self._said(without))
            case _:
                raise KeyError(check)

    @property
    def _asks(self) -> Question:
        assert self.question is not None, "only who is asked is tried so"
        return self.question

    def _said(self, settings: Settings, end: Terminator | None = None, seconds: float = ASKS_S) -> Iterator[Step]:
        for said in self._asks.words if end is None else self._asks.anew(end):
            wait, quiet = seconds + len(said) * settings.character_s, 0.3 + 4 * settings.character_s
            yield Step(self.address, settings, said, wait, quiet_s=quiet)

    def answers(self, outcome: Outcome) -> bool:
        """Whether what came is the answer, undamaged."""
        return self.question is not None and not outcome.doubtful and self.question.answered(outcome.data)

    def outcome(self, check: str, last: Outcome) -> str:
        """The class of what came last; where it was answered, that was it."""
        if check in HEARD:
            return self._heard(last)
        if check == "ask":
            return self._came(last)
        if check == "handshake-off":
            return "works" if self.answers(last) else "same"
        return "answer" if self.answers(last) else "nothing"

    def _heard(self, last: Outcome) -> str:
        if not last.data:
            return "nothing"
        return "clean" if last.doubtful * 8 <= len(last.data) and self.reads(last.data) else "garbled"

    def _came(self, last: Outcome) -> str:
        data, said = last.data, self._asks.words[-1]
        if not data:
            return "nothing"
        if self.answers(last):
            return "answer"
        if data == said or echoed(data, said):
            return "echo"
        damaged = last.doubtful * 4 > len(data) or (bool(self._asks.text) and share_of_text(data) < TEXT_SHARE)
        return "garbled" if damaged else "part"


def may_raise(sheet: DeviceEntry | None) -> bool:
    """Whether a check may raise DTR and RTS at a device with this sheet; None: nobody knows it."""
    return sheet is not None and "low" not in (sheet.lines_at_open.dtr, sheet.lines_at_open.rts)


class OwnCheck:
    """A check under way: a procedure for the runner. `outcome` once something was done."""

    def __init__(self, asking: Asking, check: str) -> None:
        self.asking, self.check = asking, check
        self._steps = asking.steps(check)
        self._over = False
        self.outcome = ""
        self.refused = False
        self.answered: tuple[Step, Outcome] | None = None

    def next(self) -> Step | None:
        """The next step; None once it is answered, or nothing is left."""
        return None if self._over else next(self._steps, None)

    def done(self, step: Step, outcome: Outcome) -> None:
        """What came of a step."""
        if outcome.refusal is not None:
            self._over = self.refused = True
            return
        self.outcome = self.asking.outcome(self.check, outcome)
        if self.asking.answers(outcome):
            self._over, self.answered = True, (step, outcome)
