"""What a search tries, in what order: each trial with its prior, its cost in seconds, and the words that it says."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from humble_courier.domain.settings import Frame, Settings
from humble_courier.line.belief.belief import RATE_PARTS
from humble_courier.line.belief.tables import RATES
from humble_courier.procedures.device_search.probes import ALONE, Group, burst, groups
from humble_courier.procedures.steps import Step
from humble_courier.protocols.spec import Addressed

REOPEN_S = 0.03  # what an adapter takes to be set anew (common practice)
KNOWN_PARTS = 400.0  # how much a setting that a sheet or the record names outweighs a usual one
UNITS_AT_ONCE = 10  # addresses that one opening asks, one after the other
ADDRESS_TAIL = 0.04  # addresses above the first ten are met this often against the first (common practice)


@dataclass(frozen=True)
class Words:
    """Something safe to say. `end`: its terminator where known. `asks`: not a line but a request for each address.

    `protocol`: whose words these are, where an answer to them proves it.
    """

    text: bytes = b""
    end: bytes | None = None
    answers_within_s: float = 0.5
    asks: Addressed | None = None
    protocol: str = ""


@dataclass(frozen=True)
class Known:
    """What is known beforehand: settings to try first with their weight, ports, words, addresses of a bus."""

    addresses: tuple[str, ...]
    likely: tuple[tuple[Settings, float], ...] = ()
    words: tuple[Words, ...] = (Words(b"*IDN?"),)
    units: tuple[int, int] = (1, 247)
    rates: tuple[int, ...] = RATES
    armed: bool = False


@dataclass(frozen=True)
class Trial:
    """One trial: how to open, what to say, how likely it meets the device, what it costs."""

    step: Step
    prior: float
    seconds: float
    words: Words
    frames: tuple[str, ...]
    units: tuple[int, ...] = ()

    @property
    def worth(self) -> float:
        """Probability per second."""
        return self.prior / self.seconds


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


def space(known: Known, address: str) -> Space:
    """Trials of a port, sorted by what each is worth per second."""
    trials: list[Trial] = []
    for words in known.words:
        trials += _addressed(known, address, words, words.asks) if words.asks else _text(known, address, words)
    trials.sort(key=lambda trial: -trial.worth)
    return Space(trials, sum(trial.prior for trial in trials) or 1.0)


def rate_prior(rate: int, known: Known) -> float:
    """How often a rate is met."""
    parts = {one: float(RATE_PARTS.get(one, 1)) for one in known.rates}
    return parts.get(rate, 0.0) / sum(parts.values())


def _boost(rate: int, frames: Sequence[str], known: Known) -> float:
    """What sheets and the record add to a trial's prior."""
    hits = [weight for settings, weight in known.likely if settings.rate == rate and _one_stop(settings.frame) in frames]
    return sum(hits) * KNOWN_PARTS


def _one_stop(frame: Frame) -> str:
    text = str(frame)
    return text if text == "7N2" else f"{text[:2]}1"


def _text(known: Known, address: str, words: Words) -> list[Trial]:
    return [_text_trial(known, address, words, rate, group) for rate in known.rates for group in groups()]


def _text_trial(known: Known, address: str, words: Words, rate: int, group: Group) -> Trial:
    settings = Settings(rate, group.opened)
    said = burst(words.text, group, words.end)
    airtime = len(said) * settings.character_s
    step = Step(
        address, settings, said, words.answers_within_s + airtime, quiet_s=0.1 + 4 * settings.character_s, action="ask"
    )
    prior = rate_prior(rate, known) * group.prior * (1 + _boost(rate, group.frames, known))
    return Trial(step, prior, REOPEN_S + airtime + words.answers_within_s, words, group.frames)


def _addressed(known: Known, address: str, words: Words, asks: Addressed) -> list[Trial]:
    first, last = known.units
    weights = {unit: 1.0 if unit <= 10 else ADDRESS_TAIL for unit in range(first, last + 1)}
    whole = sum(weights.values())
    made = []
    for rate in known.rates:
        for frame, share in asks.frames.items():
            settings = Settings(rate, Frame.parse(frame))
            prior = rate_prior(rate, known) * share * (1 + _boost(rate, (frame,), known))
            for begin in range(first, last + 1, UNITS_AT_ONCE):
                units = tuple(range(begin, min(begin + UNITS_AT_ONCE, last + 1)))
                share_of_units = sum(weights[unit] for unit in units) / whole
                made.append(_addressed_trial(address, settings, units, prior * share_of_units, words, asks))
    return made


def _addressed_trial(
    address: str, settings: Settings, units: tuple[int, ...], prior: float, words: Words, asks: Addressed
) -> Trial:
    asked = [asks.request(unit) for unit in units]
    airtime = (len(asked[0]) + 8) * settings.character_s
    gap = 4 * settings.character_s
    each = airtime + asks.wait_s + gap
    action = f"ask units {units[0]} to {units[-1]}"
    step = Step(
        address, settings, asked[0], each * len(units), quiet_s=0.02 + gap, action=action, rest_s=gap, then=tuple(asked[1:]),
        between_s=each,
    )  # fmt: skip
    return Trial(step, prior, each * len(units), words, (str(settings.frame),), units)


def exhaustive(
    known: Known, settings: Settings, words: Words, unit: int | None = None, wait_s: float = 1.0
) -> tuple[int, float]:
    """Trials and seconds until a device is met when all is gone through in order: rates, frames, then ends or units.

    The order in which a person does it by hand: each trial waits `wait_s` for an answer.
    """
    frames = ("8N1", "7E1", "7O1", "7N2", *ALONE)
    place = sorted(known.rates).index(settings.rate) * len(frames) + frames.index(_one_stop(settings.frame))
    if words.asks is not None:
        first, last = known.units
        trials = place * (last - first + 1) + (unit or first) - first + 1
    else:
        ends = 3 if words.end is None else 1
        trials = place * ends + (ends + 1) // 2
    trials *= len(known.addresses)
    return trials, trials * (wait_s + REOPEN_S + (len(words.text) + 2) * 10 / 9600)
