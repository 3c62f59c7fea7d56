"""The search of one port.

Theory of operation. It goes through four states. *Listening*: what speaks by itself is read by `line.belief`, reopened at
the rates that tell most, until its settings are certain. *Trying*, where sending is allowed: trials by probability per
second (`plan.py`), each asking several frames, terminators and units at once. What comes back decides what follows:
units that were asked a moment ago are asked again, alone (`recall.py`); text is settled into exact settings and an end
of line (`settling.py`); anything else is evidence of the rate, which brings that rate to the front. Whatever a trial had
not yet said when it was interrupted is put back into the plan: nothing is dropped. Our own words that come back (two-wire
buses, devices with echo) are never an answer.
"""

from collections.abc import Callable
from dataclasses import replace

from humble_courier.domain.settings import Frame, Settings
from humble_courier.domain.text import printable, share_of_text
from humble_courier.line.belief.listening import FEWEST, FIRST, Listening, in_step
from humble_courier.procedures.device_search.found import Found
from humble_courier.procedures.device_search.plan import Known, Space, Trial, space
from humble_courier.procedures.device_search.probes import (
    ALONE,
    EIGHT,
    PLAIN_SHARE,
    SHARED,
    TWO_STOPS,
    echoed,
    frames_of,
    frames_of_echo,
    in_dialect,
    without_echo,
)
from humble_courier.procedures.device_search.rate_evidence import RateEvidence, symbols
from humble_courier.procedures.device_search.recall import Recall, UnitAsked, found
from humble_courier.procedures.device_search.settling import SOUND, Settling
from humble_courier.procedures.steps import Outcome, Step

FIRST_S = 1.5  # the first listen of a port: a talker that speaks once a second is met
# A talker that speaks every five seconds is met, and a sentence heard whole.
TALKER_S, TALKER_BYTES, TALKER_QUIET_S = 8.0, 32, 2.5
QUIET_S = 0.05  # before going on after something came
SHORT = 12  # characters below which a reaction may be the answer of one unit
MOST_FRUITLESS = 6  # reactions that led nowhere: from then on something speaks by itself, and is not asked after


class PortSearch:
    """Ask `next`, tell `done`, until `found` or nothing is next."""

    def __init__(self, known: Known, address: str, name: Callable[[bytes], str]) -> None:
        self._known, self._address, self._name = known, address, name
        self.space = space(known, address) if known.armed else Space()
        self.found: Found | None = None
        self.ever_heard = False
        self.notes: list[str] = []
        self._listened = False
        self._talker: Listening | None = None
        self._recall: Recall | None = None
        self._settling: Settling | None = None
        self._fallback: Found | None = None  # clean text came, whatever settling makes of it
        self._trial: Trial | None = None
        self._asked: list[UnitAsked] = []
        self._clean = b""
        self._evidence = RateEvidence()
        self._fruitless = 0
        self._echoing: set[int] = set()
        self._echoes: dict[int, Settings] = {}  # where our words came back, whole or nearly
        self._seconds = 0.0

    def worth(self) -> float:
        """Of the next step: what is under way goes first, then a first listen, then the trials."""
        if self._recall is not None or self._settling is not None or self._talker is not None:
            return float("inf")
        if not self._listened:
            return 1e6
        return self.space.trials[0].worth if self.space.trials else 0.0

    def next(self) -> Step | None:
        """The next step; None when nothing is left to try."""
        if self._recall is not None:
            return self._recall.next()
        if self._settling is not None:
            return self._settling.next()
        if self._talker is not None:
            at = self._talker.next()
            return Step(self._address, at, seconds=TALKER_S, enough=TALKER_BYTES, quiet_s=TALKER_QUIET_S)
        if not self._listened:
            first = max(self._known.likely, key=lambda pair: pair[1])[0] if self._known.likely else Settings(FIRST)
            eight = Settings(first.rate)  # eight bits: what comes can be judged for every frame
            return Step(self._address, eight, seconds=FIRST_S, enough=TALKER_BYTES, quiet_s=FIRST_S)
        if not self.space.trials:
            self.found = self.found or self._only_echoes()
            return None
        self._trial = self.space.trials.pop(0)
        return self._trial.step

    def done(self, step: Step, outcome: Outcome) -> None:
        """Take in what came of a step."""
        begun, self._seconds = self._seconds, self._seconds + outcome.seconds
        said = step.say + b"".join(step.then[: max(0, len(outcome.said_at) - 1)])
        heard = without_echo(outcome.data, said)
        self.ever_heard = self.ever_heard or bool(heard)
        if self._recall is not None:
            self._recall.done(outcome, heard)
            self._recalled(self._recall)
        elif self._settling is not None:
            self._settling.done(outcome, heard)
            self._settled(self._settling)
        elif self._talker is not None:
            self._overheard(step, outcome)
        elif not self._listened:
            self._listened = True
            if len(heard) > 1:
                self._talker = Listening()
                self._overheard(step, outcome)
        elif self._trial is not None:
            self._remember(self._trial, step, outcome, begun)
            if heard:
                self._put_back(self._trial, outcome)
                self._answered(self._trial, step, outcome, heard)
            elif outcome.heard and self._trial.words.text:
                self._echoed(self._trial, step)

    def _remember(self, trial: Trial, step: Step, outcome: Outcome, begun: float) -> None:
        """Whom this trial asked, and when; who was asked too long ago to answer is forgotten."""
        times = outcome.said_at[1:] if trial.words.text else outcome.said_at
        said = step.then if trial.words.text else (step.say, *step.then)
        start = begun + step.rest_s
        made = [
            UnitAsked(start + at + len(words) * step.settings.character_s, unit, step.settings)
            for at, unit, words in zip(times, trial.units, said, strict=False)
        ]
        self._asked = [one for one in self._asked if one.until > begun] + made

    def _put_back(self, trial: Trial, outcome: Outcome) -> None:
        """Units that were not asked, since something came before, stay in the plan."""
        asked = len(outcome.said_at) - bool(trial.words.text)
        left = trial.units[asked:]
        if not left or not trial.units:
            return
        step = trial.step
        requests = step.then[-len(left) :]
        tail = step.seconds if not trial.words.text else step.between_s
        share = len(left) / len(trial.units)
        rest = replace(
            step,
            say=requests[0],
            then=requests[1:],
            first_s=0.0,
            seconds=tail,
            rest_s=QUIET_S + 5 * step.settings.character_s,
        )
        seconds = step.between_s * len(left) + tail
        again = replace(
            trial, step=rest, seconds=seconds, text_prior=0.0, unit_prior=trial.unit_prior * share, units=left,
            words=type(trial.words)(), frames=(),
        )  # fmt: skip
        self.space.trials.insert(0, again)

    def _echoed(self, trial: Trial, step: Step) -> None:
        """Our words came back whole. At one rate alone that is a device with echo; at two it is the wiring."""
        self._echoing.add(step.settings.rate)
        self._note_echo(step.settings.rate, trial.frames[:1])
        if len(self._echoing) <= 2:
            frames = list(trial.frames[:1])
            self._settling = Settling(self._address, step.settings.rate, frames, trial.words, self._evidence)

    def _note_echo(self, rate: int, frames: tuple[str, ...]) -> None:
        self._echoes.setdefault(rate, Settings(rate, Frame.parse(frames[0] if frames else EIGHT)))

    def _only_echoes(self) -> Found | None:
        """All was tried, and at one rate our words came back: a device with echo that knows none of them."""
        if len(self._echoes) != 1:
            return None
        (at,) = self._echoes.values()
        told = "it echoes, and knows none of these words; its frame is a guess"
        return Found(self._address, at, "text", None, told)

    def _overheard(self, step: Step, outcome: Outcome) -> None:
        assert self._talker is not None
        values, errors = symbols(outcome)
        if not len(values):
            self._talker = None  # it has fallen silent: on with the trials
            return
        self._talker.heard(step.settings, values, errors)
        read, wrong = in_step(values, errors)
        if not wrong.any():
            self._clean = read.tobytes()
        if self._talker.answer is not None:
            told = self._talker.answer
            said = _as_read(self._clean, told.settings.frame)
            lines = [one for one in said.split(b"\n")[1:-1] if one.strip()]  # the first and the last may be cut off
            identity = printable((lines or [said])[0][:60]) or "speaks by itself"
            self.found = Found(self._address, told.settings, self._name(said), None, identity, "", told.equivalent)
        elif self._talker.given_up:
            self._talker = None

    def _answered(self, trial: Trial, step: Step, outcome: Outcome, heard: bytes) -> None:
        """Something came after a trial's words."""
        if self._unit_answered(step, outcome, heard):
            return
        plain = share_of_text(bytes(b & 0x7F for b in heard)) >= PLAIN_SHARE and len(heard) > 1
        if plain and (trial.words.text or len(heard) >= SHORT):
            self._text_answered(trial, step, outcome, heard)
            return
        short = len(heard) < SHORT
        if self._known.full_duplex or not short:
            self._evidence.weigh(step.settings, outcome)
            if self._evidence.doubts(step.settings):
                self.space.sort_by(self._evidence.rates)  # it has the marks of another rate: that goes first from now on
                return
        if self._asked and short and self._fruitless < MOST_FRUITLESS:
            self._ask_again(outcome, heard)
        elif trial.words.text:
            self._text_answered(trial, step, outcome, heard)

    def _unit_answered(self, step: Step, outcome: Outcome, heard: bytes) -> bool:
        """Whether it is the whole answer of a unit that was asked: found, or, with damage, to be asked again alone."""
        bus = next((words for words in self._known.words if words.asks is not None), None)
        if bus is None or bus.asks is None:
            return False
        unit = bus.asks.answered(heard)
        if heard in (step.say, *step.then):
            return False  # a device that echoes what it understood
        if unit is None or unit not in {one.unit for one in self._asked}:
            return False
        if outcome.doubtful or bus.asks.behind(heard):
            self._ask_again(outcome, heard, unit)
            return True
        settings = Settings(step.settings.rate) if step.settings.frame == TWO_STOPS else step.settings
        self.found = found(self._address, settings, bus, unit)
        return True

    def _ask_again(self, outcome: Outcome, heard: bytes, unit: int | None = None) -> None:
        """Units that were asked a moment ago, one by one; or the one that it can only be."""
        bus = next(words for words in self._known.words if words.asks is not None)
        begun = self._seconds - outcome.seconds
        at = begun + (self._trial.step.rest_s if self._trial else 0.0) + outcome.heard[0][0]
        asked = [one for one in self._asked if unit is None or one.unit == unit]
        self._recall = Recall(self._address, bus, asked, at, heard)
        self._recalled(self._recall)

    def _recalled(self, recall: Recall) -> None:
        if recall.found is not None:
            self.found = recall.found
        if not recall.over:
            return
        self._recall = None
        if recall.gateway is not None and recall.found is None:
            bus = next(words for words in self._known.words if words.asks is not None)
            told = "a gateway answers, and no unit behind it"  # rate and frame are proven all the same
            self.found = Found(self._address, recall.gateway, bus.protocol, None, told)
        elif recall.damaged:
            note = f"{recall.damaged}: a damaged answer; another parity, or two with one address"
            self.notes += [note] if note not in self.notes else []
        self._fruitless += self.found is None
        if self._fruitless == MOST_FRUITLESS:
            self._talker = Listening()  # so often something came and nobody had been asked: somebody speaks by himself

    def _text_answered(self, trial: Trial, step: Step, outcome: Outcome, heard: bytes) -> None:
        """Text, or what was text at other settings."""
        frames = _candidates(heard, outcome, trial)
        words = trial.words if trial.words.text else next((w for w in self._known.words if w.text), trial.words)
        if not words.text:
            return
        damaged = outcome.doubtful * 4 > len(outcome.heard) and len(outcome.heard) >= FEWEST
        if damaged and not set(frames) & {"8E1", "8O1"}:
            self._talker = Listening()  # damaged throughout: this rate is not its rate, and somebody speaks by himself
            self._overheard(step, outcome)
            return
        self._evidence.weigh(step.settings, outcome)
        if self._evidence.doubts(step.settings) and not damaged:
            self.space.sort_by(self._evidence.rates)
            return
        frames = frames or list(trial.frames) or [EIGHT]
        echo = echoed(heard, step.say)
        self._settling = Settling(self._address, step.settings.rate, frames, words, self._evidence)
        if echo:
            self._note_echo(step.settings.rate, tuple(frames[:1]))
            return
        if share_of_text(_as_read(heard, Frame.parse(frames[0]))) >= SOUND and self._evidence.sure(step.settings, heard):
            said = printable(max(heard.replace(b"\r", b"\n").split(b"\n"), key=len))
            self._fallback = Found(self._address, Settings(step.settings.rate, Frame.parse(frames[0])), "text", None, said)

    def _settled(self, settling: Settling) -> None:
        if not settling.over:
            return
        self._settling = None
        if settling.found is not None:
            self.found = replace(settling.found, protocol=self._name(settling.heard))
        elif self._fallback is not None:
            self.found = self._fallback
        elif not self._echoing:
            self._talker = Listening()  # nobody was asked, and yet something came: somebody speaks by himself


def _candidates(heard: bytes, outcome: Outcome, trial: Trial) -> list[str]:
    """Frames in which what came could be an answer; our own words, handed back, are left out."""
    if outcome.doubtful and trial.frames and trial.frames[0] in ALONE:
        return [trial.frames[0], *SHARED[:2]]  # it heard us, and answers in another frame
    if trial.words.text and echoed(heard, trial.step.say):
        return frames_of_echo(heard, trial.words.text, trial.frames)
    rest = heard
    for frame in trial.frames if trial.words.text else ():
        rest = rest.replace(in_dialect(trial.words.text, frame), b"")
    if rest != heard and rest.strip(b"\r\n"):
        return frames_of(rest, trial.frames)
    errors = symbols(outcome)[1]
    return frames_of(heard, trial.frames, errors if len(errors) == len(heard) else None)


def _as_read(data: bytes, frame: Frame) -> bytes:
    """Characters of seven bits without the parity that eight bits show."""
    return bytes(b & 0x7F for b in data) if frame.data_bits == 7 else data
