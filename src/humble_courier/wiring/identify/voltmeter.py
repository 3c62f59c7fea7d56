"""Naming a port by voltmeter: from idle voltages DTE or DCE, the family of levels, which contact talks, is it alive."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from math import exp, log, pi, sqrt
from typing import TypeVar

from humble_courier.catalog.entries import Volts
from humble_courier.domain.hardware import Port
from humble_courier.domain.signals import Direction, Level, Role, Signal
from humble_courier.wiring.levels import Levels

SURE = 0.9  # of the belief in a living port: below that another reading is asked for
STRAY = 0.01  # share of readings that fit nothing: a probe on the wrong contact
SPAN_V = 60.0  # over which a stray reading may lie
METER_V = 0.15  # what a meter and its leads are off by (common practice)
DEAD_V = 0.3  # what is met on the contacts of a device without power
PULLED_V = 0.7  # an RS-232 input rests near ground: 3 to 7 kohm to it (TIA-232-F clause 2.1.1)
UNDEFINED_V = 3.0  # TIA-232-F clause 2.1.3: between −3 and +3 V neither mark nor space
# A loaded driver, or one that is fed by a battery or by the line itself, may give less than 5 V and is still read
# (TIA-232-F clause 2.1.3 reads from 3 V on; that such drivers are met: common practice).
WEAK_MARK, WEAK_SPACE = Volts(-15.0, -3.0), Volts(3.0, 15.0)
WEAK = 0.25  # share of such drivers (common practice)
NEGATIVE_V = -1.0  # no logic output goes below that: its input diodes would conduct
NEVER = 500.0  # nepers that a reading takes from a guess that cannot make it: more than all others together can give
ALIVE = 0.8  # before anything is measured (common practice)
LOGIC = (Level.TTL_5V, Level.CMOS_3V3, Level.CMOS_1V8)
DIFFERENTIAL_IDLE = {"A": 1.2, "B": 3.2}  # volts of the wires of a driven pair at rest (common practice)


@dataclass(frozen=True)
class VoltReading:
    """A voltage in volts on a contact, against another one; None where it was signal ground as the standard has it."""

    contact: str
    volts: float
    against: str | None = None


@dataclass(frozen=True)
class Guess:
    """A port that would explain the readings: `role` is `dte`, `dce` or None, `alive` false without power."""

    port: Port
    role: str | None
    family: Level
    alive: bool


@dataclass(frozen=True)
class Remark:
    """Something to be said about one reading or all: a code, the contact, a sentence."""

    code: str
    contact: str
    text: str


@dataclass(frozen=True)
class PortNamed:
    """What the voltages say. `use` is `straight` or `crossed` for a DTE computer; None where the role is not certain."""

    role: str
    family: Level | None
    probability: float
    use: str | None
    talks: tuple[str, ...]
    alive: float
    remarks: tuple[Remark, ...]
    shares: tuple[tuple[str | None, Level, float], ...] = ()  # role, family, probability of each living guess


UNNAMED = "unknown"
USE = {"dte": "crossed", "dce": "straight"}  # the cable that leads there from a DTE computer
LIVES = 0.5  # of the belief: more than that says that the port has power


def guesses(ports: Iterable[tuple[Port, str | None]]) -> list[Guess]:
    """All guesses for the ports that a connector may be: as in the catalog, and RS-232 ports with logic levels instead."""
    found = []
    for port, role in ports:
        families = {s.level for s in port.signals.values() if s.role in (Role.DATA, Role.HANDSHAKE)}
        if not families:
            continue
        family = sorted(families)[0]
        variants = [(family, port)]
        if family is Level.RS232:
            variants += [(level, _with_level(port, level)) for level in LOGIC]
        found += [Guess(p, role, level, alive) for level, p in variants for alive in (True, False)]
    return found


def _with_level(port: Port, level: Level) -> Port:
    signals = {c: replace(s, level=level) if s.level is Level.RS232 else s for c, s in port.signals.items()}
    return replace(port, signals=signals)


def name_port(levels: Levels, candidates: Sequence[Guess], readings: Sequence[VoltReading]) -> PortNamed:
    """Weigh the guesses against the readings."""
    weighed = list(zip(candidates, _weights(levels, candidates, readings), strict=True))
    living = [(g, w) for g, w in weighed if g.alive]
    alive = sum(w for _, w in living)
    roles = _sums((g.role or UNNAMED, w) for g, w in living)
    role, share = max(roles.items(), key=lambda item: item[1], default=(UNNAMED, 0.0))
    sure = alive > LIVES and share / alive >= SURE and role != UNNAMED
    families = _sums((g.family, w) for g, w in living)
    family = max(families, key=lambda f: families[f]) if alive > LIVES else None
    joint = _sums(((g.role, g.family), w) for g, w in living)
    best = joint.get((role, family), 0.0) if sure and family is not None else 0.0
    likeliest = max(living, key=lambda one: one[1])[0].port if sure else None
    remarks = (*_remarks(readings, family, alive), *_clash(readings))
    supplies = _supplies(max(living, key=lambda one: one[1], default=None))
    talks = tuple(c for c in _talks(levels, readings, family, likeliest) if c not in supplies)
    shares = tuple((r, f, share) for (r, f), share in joint.items())
    named = role if sure else UNNAMED
    return PortNamed(named, family, best, USE.get(named), talks, alive, remarks, shares)


def _weights(levels: Levels, candidates: Sequence[Guess], readings: Sequence[VoltReading]) -> list[float]:
    """Posterior of each guess by Bayes; sums in logarithms, so that many readings do not vanish."""
    logs = [_prior(g, candidates) + sum(_log(levels, g, r) for r in readings) for g in candidates]
    top = max(logs, default=0.0)
    raw = [exp(value - top) for value in logs]
    total = sum(raw) or 1.0
    return [value / total for value in raw]


K = TypeVar("K")


def _sums(pairs: Iterable[tuple[K, float]]) -> dict[K, float]:
    found: dict[K, float] = {}
    for key, weight in pairs:
        found[key] = found.get(key, 0.0) + weight
    return found


def _prior(guess: Guess, candidates: Sequence[Guess]) -> float:
    alive = [g for g in candidates if g.alive == guess.alive]
    return log((ALIVE if guess.alive else 1 - ALIVE) / len(alive))


def _log(levels: Levels, guess: Guess, reading: VoltReading) -> float:
    """Log of how likely the reading is under the guess."""
    if guess.alive and guess.family in LOGIC and reading.volts < NEGATIVE_V:
        return log(STRAY / SPAN_V) - NEVER
    ground = reading.against is None or _is_ground(guess.port, reading.against)
    likely = _density(levels, guess, reading) if ground else 1 / SPAN_V
    return log((1 - STRAY) * likely + STRAY / SPAN_V)


def _is_ground(port: Port, contact: str) -> bool:
    return contact == "shell" or (contact in port.signals and port.signals[contact].role in (Role.GROUND, Role.SHIELD))


def _density(levels: Levels, guess: Guess, reading: VoltReading) -> float:
    volts, signal = reading.volts, guess.port.signals.get(reading.contact)
    if not guess.alive:
        return _bell(volts, 0.0, DEAD_V)
    if signal is None or signal.role in (Role.GROUND, Role.SHIELD):
        return _bell(volts, 0.0, METER_V if signal else 2 * DEAD_V)
    entry = levels[signal.level]
    if entry.supply_v is not None:
        given = _bell(volts, entry.supply_v, METER_V + 0.05 * entry.supply_v)
        return given if signal.direction is Direction.OUT else 0.5 * given + 0.5 * _bell(volts, 0.0, DEAD_V)
    if entry.signalling == "differential":
        return _bell(volts, DIFFERENTIAL_IDLE["B" if signal.name.upper().endswith(("B", "+", "P")) else "A"], 1.0)
    if signal.direction is Direction.IN:
        return _resting(signal, entry.sends_mark, volts)
    return _driven(signal, entry.sends_mark, entry.sends_space, volts)


def _resting(signal: Signal, mark: Volts | None, volts: float) -> float:
    """An open input: RS-232 pulls it to ground; a logic input is pulled up, pulled down or floats."""
    if signal.level is Level.RS232 or mark is None:
        return _bell(volts, 0.0, PULLED_V)
    return 0.4 * _flat(volts, mark) + 0.4 * _bell(volts, 0.0, DEAD_V) + 0.2 * _flat(volts, Volts(0.0, mark.high))


def _driven(signal: Signal, mark: Volts | None, space: Volts | None, volts: float) -> float:
    """A driven line at rest: data in mark, a handshake line in either state."""
    if mark is None or space is None:
        return 1 / SPAN_V
    rests, other = _flat(volts, mark), _flat(volts, space)
    if signal.level is Level.RS232:
        rests = (1 - WEAK) * rests + WEAK * _flat(volts, WEAK_MARK)
        other = (1 - WEAK) * other + WEAK * _flat(volts, WEAK_SPACE)
    share = 0.97 if signal.role is Role.DATA else 0.5
    return share * rests + (1 - share) * other


def _bell(volts: float, middle: float, width: float) -> float:
    return exp(-0.5 * ((volts - middle) / width) ** 2) / (width * sqrt(2 * pi))


def _flat(volts: float, within: Volts) -> float:
    """Even over the range, with soft edges as wide as the meter's error."""
    outside = max(within.low - volts, volts - within.high, 0.0)
    return exp(-0.5 * (outside / METER_V) ** 2) / (within.high - within.low + METER_V * sqrt(2 * pi))


def _supplies(best: tuple[Guess, float] | None) -> frozenset[str]:
    """Contacts that carry a supply in the likeliest port: they stand as high as a logic transmitter at rest."""
    signals = best[0].port.signals if best is not None else {}
    return frozenset(contact for contact, signal in signals.items() if signal.role is Role.POWER)


def _talks(levels: Levels, readings: Sequence[VoltReading], family: Level | None, port: Port | None) -> tuple[str, ...]:
    """Contacts that rest in mark, as a transmitter does; where the port is known, its transmitter alone."""
    mark = levels[family].sends_mark if family is not None else None
    if mark is None or family is None or levels[family].signalling != "single-ended":
        return ()
    low, high = (-15.0, -UNDEFINED_V) if family is Level.RS232 else (mark.low, mark.high)
    resting = (r.contact for r in readings if low <= r.volts <= high)
    return tuple(c for c in resting if port is None or (c in port.signals and port.signals[c].role is Role.DATA))


def _remarks(readings: Sequence[VoltReading], family: Level | None, alive: float) -> list[Remark]:
    found = []
    if readings and alive < 0.5:
        text = "no contact is driven: the device has no power, the port is off, or the ground contact is another one"
        found.append(Remark("no-sign-of-life", "", text))
    for r in readings:
        if family is Level.RS232 and 1.0 < abs(r.volts) < UNDEFINED_V:
            text = f"{r.volts:g} V on contact {r.contact}: between −3 and +3 V RS-232 is undefined; a weak or loaded driver"
            found.append(Remark("undefined-level", r.contact, text))
        if abs(r.volts) > 25:
            text = f"{r.volts:g} V on contact {r.contact} is beyond what any serial input stands (25 V): join nothing"
            found.append(Remark("too-high", r.contact, text))
        elif abs(r.volts) > 15:
            text = f"{r.volts:g} V on contact {r.contact}: more than an RS-232 driver gives; a supply, perhaps"
            found.append(Remark("above-the-standard", r.contact, text))
    return found


def _clash(readings: Sequence[VoltReading]) -> list[Remark]:
    """One contact read twice with values far apart."""
    seen: dict[str, float] = {}
    found = []
    for r in readings:
        if r.contact in seen and abs(seen[r.contact] - r.volts) > 1.0:
            both = f"contact {r.contact} was read as {seen[r.contact]:g} V and as {r.volts:g} V"
            text = f"{both}: the line is busy, or one is wrong"
            found.append(Remark("read-both-ways", r.contact, text))
        seen[r.contact] = r.volts
    return found
