"""What a search tries, in what order: each trial with its prior, its cost in seconds, and the words that it says.

Theory of operation. A trial opens a port in one way and asks several devices at once; the plan is sorted by probability
per second, so that reopening, airtime and waiting are weighed against how often such a device is met.

*Lines of text* go out once in all dialects of an opening (`probes.py`), or first for eight bits alone where that is worth
more, as at slow rates. *Units of a bus* are asked several in one opening with two stop bits, by requests that units with
parity read as well (`Addressed.alike`). On one pair (half duplex) each is given a short time; with a pair for each way
the requests follow one another, and the wait for text is filled with them. What this misses (a unit that is slower than
that and drops its answer when another request comes, or that does not know the function) goes into later passes, sorted
in by the same measure: each with a short time as on one pair, then each with a long one and the plain request.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from humble_courier.domain.settings import Frame, Settings
from humble_courier.line.belief.tables import RATES
from humble_courier.line.rates import RATE_PARTS
from humble_courier.procedures.device_search.probes import ALONE, SHARED, TWO_STOPS, burst, one_stop, prior_of
from humble_courier.procedures.steps import Step
from humble_courier.protocols.spec import Addressed

REOPEN_S = 0.03  # what an adapter takes to be set anew (common practice)
TRUSTED = 0.9  # how often a device is set as a sheet or the record says (common practice)
TEXT_S = 0.42  # within which a device of lines answers (common practice); a shorter wait loses more than it saves
SHORT_S = 0.03  # on one pair, after each request: most units begin within, and most late answers outlast the next one
GAP_S, GAP_CHARACTERS = 0.004, 4  # between requests that follow one another: more than the silence that ends a frame
TAIL_S = 0.03  # listened after the last of them
PATIENT_S = 0.05  # the second pass waits longer than a unit takes, by so much
AT_ONCE_HALF, AT_ONCE_FULL = 8, 16  # units that one opening asks
MUTE = 0.05  # share of units that do not answer the function that is asked first (common practice)
LATE_HALF, LATE_FULL = 0.07, 0.10  # share whose answer is lost since another request came too soon (common practice)
# Addresses with how often each is met (common practice): the one that a device comes with, few on a short bus.
UNIT_WEIGHTS = ((1, 16.0), (10, 1.4), (32, 0.25), (99, 0.08), (247, 0.06))
# Rates at which silent devices of lines are met, in parts (common practice); every other rate counts one. Steeper than what
# is believed of a line on which anything may speak: a device that waits to be asked is rarely set to an odd rate.
LINE_RATES = {9600: 110, 115200: 35, 19200: 18, 38400: 12, 4800: 10, 57600: 9, 2400: 7, 1200: 6, 300: 3, 230400: 2}


@dataclass(frozen=True)
class Words:
    """Something safe to say. `end`: its terminator where known. `asks`: not a line but a request for each address.

    `protocol`: whose words these are, where an answer to them proves it.
    """

    text: bytes = b""
    end: bytes | None = None
    answers_within_s: float = TEXT_S
    asks: Addressed | None = None
    protocol: str = ""


@dataclass(frozen=True)
class Known:
    """What is known beforehand: settings to try first with their weight, ports, words, addresses of a bus.

    `full_duplex`: whether each way has a conductor of its own, so that a late answer meets no other words.
    """

    addresses: tuple[str, ...]
    likely: tuple[tuple[Settings, float], ...] = ()
    words: tuple[Words, ...] = (Words(b"*IDN?"),)
    units: tuple[int, int] = (1, 247)
    rates: tuple[int, ...] = RATES
    armed: bool = False
    full_duplex: bool = False

    def rate_prior(self, rate: int, parts: Mapping[int, float] = RATE_PARTS) -> float:
        """How often a rate is met; `parts`: in general, or with a protocol."""
        return parts.get(rate, 1) / sum(parts.get(one, 1) for one in self.rates) if rate in self.rates else 0.0

    def belief(self, rate: int, frame: str, usual: float, parts: Mapping[int, float] = RATE_PARTS) -> float:
        """How likely a setting is: as sheets and the record say, else as it is met; `usual`: share of the frame."""
        met = self.rate_prior(rate, parts) * usual
        if not self.likely:
            return met
        hits = sum(w for settings, w in self.likely if settings.rate == rate and one_stop(settings.frame) == frame)
        return (1 - TRUSTED) * met + TRUSTED * hits / sum(w for _, w in self.likely)


@dataclass(frozen=True)
class Trial:
    """One trial: how to open and what to say, how likely it meets the device, what it costs.

    `words` with the `frames` in which they are said, or with no text; `bus` and the `units` that it asks, in order.
    """

    step: Step
    seconds: float
    text_prior: float = 0.0
    unit_prior: float = 0.0
    words: Words = Words()
    frames: tuple[str, ...] = ()
    bus: Words = Words()
    units: tuple[int, ...] = ()

    @property
    def prior(self) -> float:
        """How likely it meets the device."""
        return self.text_prior + self.unit_prior

    @property
    def worth(self) -> float:
        """Probability per second."""
        return self.prior / self.seconds

    @property
    def rate(self) -> int:
        """The rate at which it asks."""
        return self.step.settings.rate


@dataclass
class Space:
    """All trials of one port, the best first; what was tried is taken out."""

    trials: list[Trial] = field(default_factory=list)
    whole: float = 1.0

    @property
    def left(self) -> float:
        """Share of the belief that is not excluded yet."""
        return sum(trial.prior for trial in self.trials) / self.whole

    @property
    def seconds(self) -> float:
        """How long the rest takes if nothing answers."""
        return sum(trial.seconds for trial in self.trials)

    @property
    def most_s(self) -> float:
        """Within which nine in ten of the devices that are believed in are met: the rest are rare and slow."""
        wanted, met, seconds = MOST * self.left * self.whole, 0.0, 0.0
        for trial in self.trials:
            if met >= wanted:
                break
            met, seconds = met + trial.prior, seconds + trial.seconds
        return seconds

    def sort_by(self, rates: dict[int, float]) -> None:
        """Those first whose rate is likely by what was heard; none is given up."""
        self.trials.sort(key=lambda trial: -trial.worth * (rates.get(trial.rate, 0.0) + LEFT_TO_OTHERS))


MOST = 0.9
LEFT_TO_OTHERS = 0.02  # belief in a rate against which what was heard speaks: it may have been something else


def space(known: Known, address: str) -> Space:
    """Trials of a port, sorted by what each is worth per second."""
    trials = [trial for rate in known.rates for trial in _at_rate(known, address, rate)]
    trials.sort(key=lambda trial: -trial.worth)
    return Space(trials, sum(trial.prior for trial in trials) or 1.0)


def _at_rate(known: Known, address: str, rate: int) -> list[Trial]:
    """All trials of one rate."""
    lines = [trial for words in known.words if words.asks is None for trial in _text(known, address, words, rate)]
    made = []
    for bus in known.words:
        if bus.asks is not None:
            plan = UnitPlan(known, address, bus, rate)
            begin = next((i for i, t in enumerate(lines) if known.full_duplex and t.step.settings.frame == TWO_STOPS), None)
            units = plan.order
            if begin is not None and bus.asks.alike is not None and not lines[begin].units:
                lines[begin], units = plan.filled(lines[begin])
            made += plan.passes(units)
    return lines + made


def _text(known: Known, address: str, words: Words, rate: int) -> list[Trial]:
    """One trial for all frames of the shared opening, or eight bits first, as is worth more; then each frame alone."""
    together = _text_trial(known, address, words, rate, SHARED)
    first = _text_trial(known, address, words, rate, SHARED[:1])
    rest = _text_trial(known, address, words, rate, SHARED[1:])
    shared = [first, rest] if first.worth > together.worth else [together]
    return shared + [_text_trial(known, address, words, rate, (frame,)) for frame in ALONE]


def _text_trial(known: Known, address: str, words: Words, rate: int, frames: tuple[str, ...]) -> Trial:
    settings = Settings(rate, TWO_STOPS if frames[0] in SHARED else Frame.parse(frames[0]))
    said = burst(words.text, frames, words.end)
    airtime, wait = len(said) * settings.character_s, words.answers_within_s
    step = Step(address, settings, said, wait + airtime, quiet_s=0.1 + 4 * settings.character_s, action="ask")
    prior = sum(known.belief(rate, frame, prior_of(frame), LINE_RATES) for frame in frames)
    return Trial(step, REOPEN_S + airtime + wait, text_prior=prior, words=words, frames=frames)


class UnitPlan:
    """How the units of a bus are asked at one rate."""

    def __init__(self, known: Known, address: str, bus: Words, rate: int) -> None:
        assert bus.asks is not None, "words that ask no units have no such plan"
        self._known, self._address, self._bus, self._rate, self._asks = known, address, bus, rate, bus.asks
        low, high = known.units
        weights = {unit: _weight(unit) for unit in range(low, high + 1)}
        whole = sum(weights.values())
        self._shares = {unit: weight / whole for unit, weight in weights.items()}
        self.order = sorted(weights, key=lambda unit: -weights[unit])

    def _belief(self, unit: int, frame: str) -> float:
        usual, parts = self._asks.frames.get(frame, 0.0), self._asks.rates or RATE_PARTS
        return self._known.belief(self._rate, frame, usual, parts) * self._shares[unit]

    def _lost(self, unit: int, late: float) -> float:
        """Share of such units that a pass misses, when `late` of them lose their answer."""
        return late + (MUTE if self._asks.alike is not None and unit.bit_count() % 2 else 0.0)

    def _met(self, unit: int, opened: Frame, pressed: bool) -> float:
        """Belief that one after the other, pressed or with a short time, meets a unit when the port is opened so."""
        belief = sum(self._belief(unit, frame) for frame in reached(self._asks, unit, opened))
        if pressed:
            return belief * (1 - self._lost(unit, LATE_FULL))
        if self._known.full_duplex:
            return belief * LATE_FULL * (1 - LATE_HALF)
        return belief * (1 - self._lost(unit, LATE_HALF))

    def _pace(self, settings: Settings, pressed: bool) -> float:
        """Seconds from one request to the next."""
        airtime = len(self._asks.request(self.order[0])) * settings.character_s
        if pressed:
            return airtime + max(GAP_S, GAP_CHARACTERS * settings.character_s)
        return (
            airtime + SHORT_S + (GAP_CHARACTERS + 1) * settings.character_s
        )  # the silence that ends it, one whole character

    def _asked(self, opened: Frame, units: Sequence[int]) -> tuple[bytes, ...]:
        alike = self._asks.alike if opened == TWO_STOPS else None
        return tuple((alike or self._asks.request)(unit) for unit in units)

    def filled(self, line: Trial) -> tuple[Trial, list[int]]:
        """A trial of text whose wait is filled with the likeliest units, and the units that are left."""
        settings = line.step.settings
        pace = self._pace(settings, pressed=True)
        many = int(line.words.answers_within_s / pace)
        # A byte of a request that ends a line brings a complaint of a device of lines, and a wait for it.
        quiet = [unit for unit in self.order if not set(b"\r\n") & set(self._asked(settings.frame, (unit,))[0])]
        units = tuple(quiet[:many])
        rest = [unit for unit in self.order if unit not in units]
        if not units:
            return line, rest
        last = line.words.answers_within_s - pace * (len(units) - 1)
        step = Step(
            self._address, settings, line.step.say, last, quiet_s=line.step.quiet_s,
            action=f"ask, and {self._told(units)} meanwhile", then=self._asked(settings.frame, units), between_s=pace,
            first_s=len(line.step.say) * settings.character_s + pace,
        )  # fmt: skip
        prior = sum(self._met(unit, settings.frame, pressed=True) for unit in units)
        return Trial(step, line.seconds, line.text_prior, prior, line.words, line.frames, self._bus, units), rest

    def passes(self, shared: Sequence[int]) -> list[Trial]:
        """All of them. `shared`: units that were not asked in the shared opening yet."""
        if not self._known.full_duplex:
            return self._quick(shared, pressed=False) + self._patient()
        return self._quick(shared, pressed=True) + self._quick(self.order, pressed=False) + self._patient()

    def _quick(self, shared: Sequence[int], pressed: bool) -> list[Trial]:
        """Units in the shared opening, and in their own frame those that it does not reach."""
        if self._asks.alike is None:
            openings = [(Frame.parse(frame), self.order) for frame in self._asks.frames]
        else:
            odd = [unit for unit in self.order if unit.bit_count() % 2]
            even = [unit for unit in self.order if not unit.bit_count() % 2]
            openings = [(TWO_STOPS, list(shared)), (Frame.parse("8E1"), even), (Frame.parse("8O1"), odd)]
        many = AT_ONCE_FULL if pressed else AT_ONCE_HALF
        return [
            self._trial(opened, units[at : at + many], pressed)
            for opened, units in openings for at in range(0, len(units), many)
        ]  # fmt: skip

    def _trial(self, opened: Frame, units: Sequence[int], pressed: bool) -> Trial:
        settings = Settings(self._rate, opened)
        pace = self._pace(settings, pressed)
        asked = self._asked(opened, units)
        prior = sum(self._met(unit, opened, pressed) for unit in units)
        return self._made(settings, units, asked, pace, pace + (TAIL_S if pressed else 0.0), prior)

    def _patient(self) -> list[Trial]:
        """Each unit by itself, in each frame, with the plain request and a wait as long as units take."""
        made, late = [], LATE_HALF * (LATE_FULL if self._known.full_duplex else 1)
        for frame in self._asks.frames:
            settings = Settings(self._rate, Frame.parse(frame))
            airtime = len(self._asks.request(self.order[0])) * settings.character_s
            wait = airtime + self._asks.wait_s + PATIENT_S + GAP_CHARACTERS * settings.character_s
            for at in range(0, len(self.order), AT_ONCE_HALF):
                units = self.order[at : at + AT_ONCE_HALF]
                asked = tuple(self._asks.request(unit) for unit in units)
                prior = sum(self._belief(unit, frame) * self._lost(unit, late) for unit in units)
                made.append(self._made(settings, units, asked, wait, wait, prior))
        return made

    def _made(
        self, settings: Settings, units: Sequence[int], asked: tuple[bytes, ...], pace: float, last: float, prior: float
    ) -> Trial:
        step = Step(
            self._address, settings, asked[0], last, quiet_s=0.02 + 4 * settings.character_s,
            action=f"ask {self._told(units)}", rest_s=GAP_CHARACTERS * settings.character_s, then=asked[1:], between_s=pace,
        )  # fmt: skip
        seconds = REOPEN_S + pace * (len(units) - 1) + last
        return Trial(step, seconds, unit_prior=prior, bus=self._bus, units=tuple(units))

    def _told(self, units: Sequence[int]) -> str:
        return f"unit {units[0]}" if len(units) == 1 else f"units {min(units)} to {max(units)}"


def reached(asks: Addressed, unit: int, opened: Frame) -> tuple[str, ...]:
    """Frames in which a unit reads the request that is sent when the port is opened so."""
    if asks.alike is None or opened != TWO_STOPS:
        return (str(opened),)
    return ("8E1" if unit.bit_count() % 2 else "8O1", "8N1")  # with parity first: its answer tells itself


def _weight(unit: int) -> float:
    return next(weight for last, weight in UNIT_WEIGHTS if unit <= last)


def exhaustive(
    known: Known, settings: Settings, words: Words, unit: int | None = None, wait_s: float = 1.0
) -> tuple[int, float]:
    """Trials and seconds until a device is met when all is gone through in order: rates, frames, then ends or units.

    The order in which a person does it by hand: each trial waits `wait_s` for an answer.
    """
    frames = (*SHARED, *ALONE)
    place = sorted(known.rates).index(settings.rate) * len(frames) + frames.index(one_stop(settings.frame))
    if words.asks is not None:
        first, last = known.units
        trials = place * (last - first + 1) + (unit or first) - first + 1
    else:
        ends = 3 if words.end is None else 1
        trials = place * ends + (ends + 1) // 2
    trials *= len(known.addresses)
    return trials, trials * (wait_s + REOPEN_S + (len(words.text) + 2) * 10 / 9600)
