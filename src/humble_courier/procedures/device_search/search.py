"""Finds a silent device. Asked for the next step, told what came; opens nothing, reads no clock.

Theory of operation. Every port has a search of its own, and the one whose next step is worth most is asked for it. A
port goes through three states. *Listening*: what speaks by itself is read by `line.belief`, reopened at the rates
that tell most, until its settings are certain. *Trying*, where sending is allowed: trials by probability per second
(`trials.py`), each asking several frames and terminators at once (`probes.py`). What comes back is weighed by the
same tables: with the marks of another rate it brings that rate to the front, and the rest of the plan waits. *Exact*:
whatever answered is asked again, alone, with each frame that could be, until an answer is clean and no accident of
another rate; then each terminator alone. Only an exact answer counts as found. Our own words that come back (two-wire
buses, devices with echo) are never an answer.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from humble_courier.domain.received import Doubt
from humble_courier.domain.settings import Frame, Parity, Settings
from humble_courier.domain.text import Terminator, printable, share_of_text
from humble_courier.errors import Refusal
from humble_courier.line.belief.belief import Belief, counted
from humble_courier.line.belief.listening import CERTAIN, FEWEST, FEWEST_VALUES, FIRST, Listening
from humble_courier.procedures.device_search.probes import all_ends, exact, frames_of, in_dialect, part_of, without_echo
from humble_courier.procedures.device_search.trials import Known, Space, Trial, Words, space
from humble_courier.procedures.steps import Outcome, Step

FIRST_S = 1.5  # the first listen of a port: a talker that speaks once a second is met
# A talker that speaks every five seconds is met, and a sentence heard whole.
TALKER_S, TALKER_BYTES, TALKER_QUIET_S = 8.0, 32, 2.5
FEW = 6  # characters below which nothing is said against a rate
MOST_ASKED = 4  # times that a short answer is asked for before it is believed
SOUND = 0.97  # of the characters of an answer that must be plain and undamaged


class SearchEnd(StrEnum):
    """How the search of one port ended: three kinds of failure are told apart."""

    FOUND = "found"
    ABSENT = "absent"  # there is no such port
    REFUSED = "refused"  # it cannot be opened
    SILENT = "silent"  # it opens, and nothing answers
    GARBLED = "garbled"  # something speaks, and no settings read it
    STOPPED = "stopped"  # nothing was sent, since sending is not allowed


@dataclass(frozen=True)
class Found:
    """What was found: where, with which settings, what it speaks, and what it said."""

    address: str
    settings: Settings
    protocol: str
    unit: int | None
    identity: str
    end: str = ""
    equivalent: tuple[str, ...] = ()


@dataclass(frozen=True)
class Tried:
    """One step that was done, for people."""

    address: str
    settings: Settings
    action: str
    heard: int
    seconds: float


class DeviceSearch:
    """The search over one or more ports. `enough(found)`: whether it may stop at what was found."""

    def __init__(self, known: Known, name: Callable[[bytes], str] = lambda _: "text") -> None:
        self._known, self._name = known, name
        self._ports = list(known.addresses)
        self.spaces: dict[str, Space] = {}
        self.ends: dict[str, tuple[SearchEnd, str]] = {}
        self.found: Found | None = None
        self.tried: list[Tried] = []
        self._searches: dict[str, _PortSearch] = {}
        self._last: str | None = None

    @property
    def left(self) -> float:
        """Share of the belief that is not excluded yet, over all ports."""
        open_ones = [self.spaces[a].left if a in self.spaces else 1.0 for a in self._ports]
        return sum(open_ones) / max(1, len(self._known.addresses))

    @property
    def notes(self) -> list[str]:
        """What stood out on the way, as two devices with one address."""
        return [note for search in self._searches.values() for note in search.notes]

    @property
    def seconds_left(self) -> float:
        """How long the rest takes at most."""
        return sum(self.spaces[a].seconds if a in self.spaces else FIRST_S for a in self._ports)

    def next(self) -> Step | None:
        """The next step: of the port whose next trial is worth most."""
        if self.found is not None:
            return None
        while self._ports:
            best = max(self._ports, key=lambda a: self._search(a).worth())
            step = self._search(best).next()
            if step is not None:
                return step
            self._finish(best)
        return None

    def _search(self, address: str) -> "_PortSearch":
        if address not in self._searches:
            self._searches[address] = _PortSearch(self._known, address, self._name)
            self.spaces[address] = self._searches[address].space
        return self._searches[address]

    def done(self, step: Step, outcome: Outcome) -> None:
        """Take in what came of a step."""
        self.tried.append(Tried(step.address, step.settings, step.action, len(outcome.heard), outcome.seconds))
        if outcome.refusal is not None:
            absent = getattr(outcome.refusal, "code", None) is Refusal.ABSENT
            self.ends[step.address] = (SearchEnd.ABSENT if absent else SearchEnd.REFUSED, str(outcome.refusal))
            self._ports.remove(step.address)
            return
        search = self._search(step.address)
        search.done(step, outcome)
        if search.found is not None:
            self.found = search.found
            self.ends[step.address] = (SearchEnd.FOUND, search.found.identity)

    def _finish(self, address: str) -> None:
        search = self._search(address)
        if search.ever_heard:
            self.ends[address] = (SearchEnd.GARBLED, "something speaks, and no usual settings read it")
        elif not self._known.armed:
            self.ends[address] = (SearchEnd.STOPPED, "nothing speaks by itself, and nothing was asked: sending is not armed")
        else:
            self.ends[address] = (SearchEnd.SILENT, "the port opens, and nothing answers")
        self._ports.remove(address)


class _PortSearch:
    """The search of one port."""

    def __init__(self, known: Known, address: str, name: Callable[[bytes], str]) -> None:
        self._known, self._address, self._name = known, address, name
        self.space = space(known, address) if known.armed else Space()
        self.found: Found | None = None
        self.ever_heard = False
        self.notes: list[str] = []
        self._listened = False
        self._talker: Listening | None = None
        self._exact: list[tuple[Settings, Words]] = []  # what answered, to be asked again as it is
        self._ends: list[bytes] = []  # terminators to be asked one by one
        self._candidate: Found | None = None
        self._trial: Trial | None = None
        self._clean = b""
        self._belief = Belief()
        self._asked = 0

    def worth(self) -> float:
        """Of the next step: what is under way goes first, then a first listen, then the trials."""
        if self._exact or self._talker is not None or self._ends:
            return float("inf")
        if not self._listened:
            return 1e6
        return self.space.trials[0].worth if self.space.trials else 0.0

    def next(self) -> Step | None:
        """The next step; None when nothing is left to try."""
        if self._ends and self._candidate is not None:
            words = self._trial.words if self._trial else Words()
            said = words.text + self._ends[0]
            return self._ask(self._candidate.settings, words, said, f"ask, ended with {Terminator.of(self._ends[0]).spoken}")
        if self._exact:
            settings, words = self._exact[0]
            return self._ask(settings, words, _line(words), "ask again")
        if self._talker is not None:
            at = self._talker.next()
            return Step(self._address, at, seconds=TALKER_S, enough=TALKER_BYTES, quiet_s=TALKER_QUIET_S)
        if not self._listened:
            first = max(self._known.likely, key=lambda pair: pair[1])[0] if self._known.likely else Settings(FIRST)
            eight = Settings(first.rate)  # eight bits: what comes can be judged for every frame
            return Step(self._address, eight, seconds=FIRST_S, enough=TALKER_BYTES, quiet_s=FIRST_S)
        if not self.space.trials:
            return None
        self._trial = self.space.trials.pop(0)
        return self._trial.step

    def _ask(self, settings: Settings, words: Words, said: bytes, action: str) -> Step:
        wait = words.answers_within_s + len(said) * settings.character_s
        quiet = 0.1 + 4 * settings.character_s
        return Step(self._address, settings, said, wait, quiet_s=quiet, action=action, rest_s=0.05)

    def done(self, step: Step, outcome: Outcome) -> None:
        """Take in what came of a step."""
        heard = without_echo(outcome.data, step.say, step.then)
        self.ever_heard = self.ever_heard or bool(heard)
        if self._ends:
            self._ended(outcome, heard)
        elif self._exact:
            self._asked_again(step, outcome, heard)
        elif self._talker is not None:
            self._overheard(step, outcome)
        elif not self._listened:
            self._listened = True
            if len(heard) > 1:
                self._talker = Listening()
                self._overheard(step, outcome)
        elif self._trial is not None and heard:
            self._answered(self._trial, step, outcome, heard)

    def _overheard(self, step: Step, outcome: Outcome) -> None:
        assert self._talker is not None
        values = np.array([one.byte for _, one in outcome.heard], np.uint8)
        errors = np.array([one.doubt is not Doubt.NONE for _, one in outcome.heard], bool)
        if not len(values):
            self._talker = None  # it has fallen silent: on with the trials
            return
        self._talker.heard(step.settings, values, errors)
        if not errors.any():
            self._clean = outcome.data
        if self._talker.answer is not None:
            told = self._talker.answer
            said = _as_read(self._clean, told.settings.frame)
            lines = [one for one in said.split(b"\n")[1:-1] if one.strip()]  # the first and the last may be cut off
            identity = printable((lines or [said])[0][:60]) or "speaks by itself"
            self.found = Found(self._address, told.settings, self._name(said), None, identity, "", told.equivalent)
        elif self._talker.given_up:
            self._talker = None

    def _answered(self, trial: Trial, step: Step, outcome: Outcome, heard: bytes) -> None:
        """Something came after a trial's words: from here on only its rate is asked, with each frame that could be."""
        if trial.words.asks is not None:
            self._answered_unit(trial, step, outcome, heard)
            return
        if outcome.doubtful * 4 > len(outcome.heard) and len(outcome.heard) >= FEWEST:
            self._talker = Listening()  # damaged throughout: this rate is not its rate, and somebody speaks by himself
            self._overheard(step, outcome)
            return
        self._weigh(step.settings, outcome)
        if self._doubts(step.settings, len(heard)):
            rates = self._belief.rates()  # what came has the marks of another rate: that is asked first from now on
            self.space.trials.sort(key=lambda t: -t.worth * rates.get(t.step.settings.rate, 0.0))
            return
        frames = _candidates(heard, trial) or list(trial.frames)
        self._exact = [(exact(step.settings.rate, frame), trial.words) for frame in frames]
        self._asked = 0

    def _weigh(self, opened: Settings, outcome: Outcome) -> None:
        """Take what was heard as evidence of the rate, where the tables know such a receiver."""
        if not _tabled(opened):
            return
        values = np.array([one.byte for _, one in outcome.heard], np.uint8)
        errors = np.array([one.doubt is not Doubt.NONE for _, one in outcome.heard], bool)
        self._belief.listen(
            Settings(opened.rate, Frame(opened.frame.data_bits, opened.frame.parity)), counted(values, errors)
        )

    def _doubts(self, opened: Settings, count: int) -> bool:
        """Whether what was heard speaks against the rate at which it was heard."""
        return _tabled(opened) and count >= FEW and self._belief.rates().get(opened.rate, 0.0) < 0.5

    def _sure(self, settings: Settings, heard: bytes) -> bool:
        """Whether a clean answer is no accident of another rate."""
        if not _tabled(settings):
            return len(set(heard)) >= FEWEST_VALUES
        return self._belief.rates().get(settings.rate, 0.0) >= CERTAIN

    def _answered_unit(self, trial: Trial, step: Step, outcome: Outcome, heard: bytes) -> None:
        unit = trial.words.asks.answered(heard) if trial.words.asks is not None else None
        if unit in trial.units and not outcome.doubtful:
            self.found = Found(self._address, step.settings, trial.words.protocol, unit, f"unit {unit} answers")
        elif len(heard) > 2:
            told = f"units {trial.units[0]} to {trial.units[-1]} at {step.settings}"
            self.notes.append(f"{told}: a damaged answer; another parity, or two with one address")
            rate = step.settings.rate
            self.space.trials.sort(key=lambda t: not (t.units == trial.units and t.step.settings.rate == rate))

    def _asked_again(self, step: Step, outcome: Outcome, heard: bytes) -> None:
        settings, words = self._exact[0]
        plain = share_of_text(heard) >= SOUND
        if plain and outcome.doubtful == 0 and not part_of(heard, step.say):
            self._weigh(settings, outcome)
            self._asked += 1
            if not self._sure(settings, heard) and self._asked < MOST_ASKED and not self._doubts(settings, len(heard)):
                return
            if not self._doubts(settings, len(heard)):
                self._settle(settings, words, heard)
                return
        self._exact.pop(0)
        if not self._exact:
            self._talker = Listening()  # nobody was asked, and yet something came: somebody speaks by himself

    def _settle(self, settings: Settings, words: Words, heard: bytes) -> None:
        others = tuple(str(other.frame) for other, _ in self._exact[1:])
        same = ("8N2",) if str(settings.frame) == "8N1" else ()
        said = printable(max(heard.replace(b"\r", b"\n").split(b"\n"), key=len))
        self._candidate = Found(self._address, settings, self._name(heard), None, said, "", same + others)
        self._exact = []
        self._ends = [b"\r", b"\r\n", b"\n"] if words.end is None else []
        self.found = None if self._ends else self._candidate

    def _ended(self, outcome: Outcome, heard: bytes) -> None:
        assert self._candidate is not None
        end = self._ends.pop(0)
        if len(heard) > 1 and not outcome.doubtful:
            self._ends = []
            self.found = replace(self._candidate, end=Terminator.of(end).spoken)
        elif not self._ends:
            self.found = self._candidate


def _tabled(opened: Settings) -> bool:
    """Whether the tables know what such a receiver makes of others: its characters have ten bits in all."""
    return opened.frame.data_bits + (opened.frame.parity is not Parity.NONE) == 8


def _line(words: Words) -> bytes:
    """Words as one device of known frame gets them."""
    return all_ends(words.text) if words.end is None else words.end + words.text + words.end


def _candidates(heard: bytes, trial: Trial) -> list[str]:
    """Frames in which what came could be an answer; our own words, handed back, are left out."""
    rest = heard
    for frame in trial.frames if trial.words.text else ():
        rest = rest.replace(in_dialect(trial.words.text, frame), b"")
    return frames_of(rest or heard, trial.frames)


def _as_read(data: bytes, frame: Frame) -> bytes:
    """Characters of seven bits without the parity that eight bits show."""
    return bytes(b & 0x7F for b in data) if frame.data_bits == 7 else data
