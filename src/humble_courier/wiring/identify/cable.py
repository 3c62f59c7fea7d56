"""Naming a cable by meter: from beeps and silences the suspects with their probabilities, and what to touch next.

Bayes over the line-up, with an allowance for wrong readings; the next touch is the one that leaves the least expected
uncertainty (Shannon entropy), about the name first, then about faults.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from humble_courier.domain.hardware import EndContact
from humble_courier.wiring.identify.suspects import NOT_IN_CATALOG, UNKNOWN, CableFault, LineUp, Touch

MISSED, FALSE_BEEP = 0.02, 0.005  # a probe that slips is silent; a beep by mistake is rare (common practice)
STRAY = {True: 0.11, False: 0.03}  # how often two contacts of an uncatalogued cable are joined: across, within one end
# of the belief: the name, and that nothing else is wrong.
NAMED, PROVEN = 0.99, 0.97
RARE = 0.1  # of the likeliest short: those between neighbours are named, the others hardly happen (common practice)
HIGH_OHM = 5.0  # a conductor of a few metres has less than one ohm (0.084 ohm/m); more is a bad joint
OPEN_OHM = 10_000.0  # more than this is no connection but leakage

Array = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Reading:
    """One touch of the meter: two contacts, whether it beeped, the resistance where it was read (ohm)."""

    a: EndContact
    b: EndContact
    beep: bool
    ohm: float | None = None

    @property
    def touch(self) -> Touch:
        """The two contacts in their fixed order."""
        return (self.a, self.b) if self.a <= self.b else (self.b, self.a)


@dataclass(frozen=True)
class Named:
    """What the readings say.

    `suspects` as (name, probability), the likeliest first; `next_touch` None once the cable is named and proven whole or
    its fault found; `faults` with their probability; `contradictions` in words. `untouched`: neighbours a short between
    which nobody has looked for: that the cable is whole is a guess there, however likely.
    """

    suspects: tuple[tuple[str, float], ...]
    faults: tuple[tuple[CableFault, float], ...]
    next_touch: Touch | None
    whole: float
    contradictions: tuple[str, ...]
    connects: tuple[Touch, ...]
    untouched: tuple[str, ...] = ()

    @property
    def name(self) -> str | None:
        """The cable, once it is certain enough."""
        best, probability = self.suspects[0]
        return best if probability >= NAMED and best != UNKNOWN else None

    @property
    def proven(self) -> bool:
        """Named, whole, and every conductor touched."""
        return self.name is not None and self.whole >= PROVEN and self.next_touch is None


def identify(line_up: LineUp, readings: Sequence[Reading], choose: bool = True) -> Named:
    """Name a cable from readings; `choose` also finds the next touch."""
    tally = _tally(line_up, readings)
    weights, unknown = _posterior(line_up, tally)
    owner = np.array([s.name for s in line_up.suspects], dtype=np.int64)
    by_name = np.bincount(owner, weights, minlength=len(line_up.names)) if len(owner) else np.zeros(0)
    suspects = sorted([*zip(line_up.names, by_name.tolist(), strict=True), (UNKNOWN, unknown)], key=lambda s: -s[1])
    top = line_up.names.index(suspects[0][0]) if suspects[0][0] != UNKNOWN else None
    whole, faults = _state_of(line_up, weights, top)
    touch = _next(line_up, weights, unknown, tally, suspects[0], top) if choose else None
    bad = [(CableFault("high-resistance", f"{r.touch[0]}-{r.touch[1]}"), 1.0) for r in readings if _high(r)]
    beeps = tuple(dict.fromkeys(r.touch for r in readings if r.beep))
    return Named(
        tuple(suspects), (*dict.fromkeys(bad), *faults), touch, 0.0 if bad else whole, contradictions(readings), beeps,
        _unseen_shorts(line_up, tally, top),
    )  # fmt: skip


def _high(reading: Reading) -> bool:
    return reading.ohm is not None and HIGH_OHM < reading.ohm <= OPEN_OHM


def _tally(line_up: LineUp, readings: Sequence[Reading]) -> Array:
    """Silences and beeps of each touch: two rows."""
    tally = np.zeros((2, len(line_up.touches)))
    column = line_up.column
    for reading in readings:
        if reading.a != reading.b:
            tally[int(reading.beep), column[reading.touch]] += 1
    return tally


def _posterior(line_up: LineUp, tally: Array) -> tuple[Array, float]:
    """Probability of each suspect, and that the cable is in no catalog."""
    silent, beeps = tally
    base = beeps.sum() * np.log(FALSE_BEEP) + silent.sum() * np.log(1 - FALSE_BEEP)
    gain = beeps * np.log((1 - MISSED) / FALSE_BEEP) + silent * np.log(MISSED / (1 - FALSE_BEEP))
    used = np.flatnonzero(silent + beeps)
    logs = base + line_up.joined[:, used].astype(np.float64) @ gain[used]
    logs += np.log([s.prior for s in line_up.suspects]) if line_up.suspects else 0.0
    strange = float(np.logaddexp(*_strange(line_up, tally)).sum()) + np.log(NOT_IN_CATALOG)
    highest = max(float(logs.max(initial=-np.inf)), strange)
    weights, unknown = np.exp(logs - highest), float(np.exp(strange - highest))
    total = float(weights.sum()) + unknown
    return weights / total, unknown / total


def _strange(line_up: LineUp, tally: Array) -> tuple[Array, Array]:
    """In a cable of which nothing is known, for each touch: log of joined and so read, and of apart and so read."""
    silent, beeps = tally
    stray = np.array([STRAY[a.end != b.end] for a, b in line_up.touches])
    joined = np.log(stray) + beeps * np.log(1 - MISSED) + silent * np.log(MISSED)
    apart = np.log(1 - stray) + beeps * np.log(FALSE_BEEP) + silent * np.log(1 - FALSE_BEEP)
    return joined, apart


def _state_of(line_up: LineUp, weights: Array, top: int | None) -> tuple[float, tuple[tuple[CableFault, float], ...]]:
    """Of the likeliest cable: how likely it is whole, and the faults that are likelier than one in five."""
    if top is None:
        return 0.0, ()
    mine = [(s, float(w)) for s, w in zip(line_up.suspects, weights, strict=True) if s.name == top]
    total = sum(w for _, w in mine)
    whole = sum(w for s, w in mine if s.fault is None) / total
    faults = [(s.fault, w / total) for s, w in mine if s.fault is not None and w / total >= 0.2]
    return whole, tuple(sorted(faults, key=lambda f: -f[1]))


def _unseen_shorts(line_up: LineUp, tally: Array, top: int | None) -> tuple[str, ...]:
    """Shorts of the likeliest cable that no touch could have shown: none that was made is joined by them alone."""
    if top is None:
        return ()
    mine = [i for i, s in enumerate(line_up.suspects) if s.name == top]
    whole, touched = line_up.joined[mine[0]], tally.sum(axis=0) > 0
    shorts = [(i, s.fault.where, s.prior) for i in mine if (s := line_up.suspects[i]).fault and s.fault.code == "short"]
    near = RARE * max((prior for _, _, prior in shorts), default=0.0)  # contacts that lie apart are left out
    return tuple(
        where for i, where, prior in shorts
        if prior >= near and not ((line_up.joined[i].astype(bool) & ~whole.astype(bool)) & touched).any()
    )  # fmt: skip


def _next(
    line_up: LineUp, weights: Array, unknown: float, tally: Array, best: tuple[str, float], top: int | None
) -> Touch | None:
    """The touch that leaves the least expected entropy: about the name, then about faults, then of what is untouched."""
    if not line_up.touches:
        return None
    hits = FALSE_BEEP + (1 - MISSED - FALSE_BEEP) * line_up.joined
    joined, apart = _strange(line_up, tally)
    stray = FALSE_BEEP + (1 - MISSED - FALSE_BEEP) * np.exp(joined - np.logaddexp(joined, apart))
    if best[1] < NAMED or top is None:
        if best[0] == UNKNOWN and best[1] >= NAMED:
            return _untouched(line_up, tally)
        owner = np.zeros((len(line_up.names), len(weights)))
        owner[[s.name for s in line_up.suspects], np.arange(len(weights))] = weights
        beep = np.vstack([owner @ hits, unknown * stray])
        total = np.append(owner.sum(axis=1), unknown)[:, None]
    else:
        mine = np.array([s.name == top for s in line_up.suspects])
        share = weights[mine] / weights[mine].sum()
        whole = share[0]  # the first suspect of each name is the cable without a fault
        untouched = _untouched_wire(line_up, top, tally)
        if untouched is not None and whole >= 0.5:
            return untouched
        if share.max() >= PROVEN:
            return None
        alive = share > 1e-6
        beep = share[alive][:, None] * hits[mine][alive]
        total = share[alive][:, None]
    left = _entropy(beep) + _entropy(total - beep)
    left += 1e-6 * tally.sum(axis=0)  # of two touches that tell the same, the fresh one
    return line_up.touches[int(np.argmin(left))]


def _untouched_wire(line_up: LineUp, top: int, tally: Array) -> Touch | None:
    """A conductor of the named cable that has not beeped yet: certain or not, what is called whole was touched."""
    beeped = [t for t, count in zip(line_up.touches, tally[1], strict=True) if count]
    group: dict[EndContact, EndContact] = {}

    def root(contact: EndContact) -> EndContact:
        while group.setdefault(contact, contact) != contact:
            contact = group[contact]
        return contact

    for a, b in beeped:
        group[root(a)] = root(b)
    return next((wire for wire in line_up.wires[top] if root(wire[0]) != root(wire[1])), None)


def _entropy(masses: Array) -> Array:
    """Of each column: the mass times the entropy of its shares, in nats."""
    sums: Array = masses.sum(axis=0)
    safe = np.where(masses > 0, masses, 1.0)
    total: Array = sums * np.log(np.where(sums > 0, sums, 1.0)) - (masses * np.log(safe)).sum(axis=0)
    return total


def _untouched(line_up: LineUp, tally: Array) -> Touch | None:
    """For a cable that is in no catalog: straight across first, then the rest, each once."""
    fresh = [t for t, count in zip(line_up.touches, tally.sum(axis=0), strict=True) if not count and t[0].end != t[1].end]
    return min(fresh, key=lambda t: (t[0].contact != t[1].contact, t), default=None)


def contradictions(readings: Sequence[Reading]) -> tuple[str, ...]:
    """Readings that cannot all be right: one pair told both ways, or silence between contacts that beeps join."""
    beeped, silent = Counter(r.touch for r in readings if r.beep), Counter(r.touch for r in readings if not r.beep)
    said = [
        f"{a}–{b} was read both ways: {beeped[a, b]} times it beeped, {silent[a, b]} times it was silent"
        for a, b in beeped
        if (a, b) in silent
    ]
    group: dict[EndContact, int] = {}
    for a, b in beeped:
        one, two = group.setdefault(a, len(group)), group.setdefault(b, len(group) + 1000)
        group = {c: one if n == two else n for c, n in group.items()}
    for a, b in silent:
        if (a, b) not in beeped and a != b and a in group and group.get(a) == group.get(b):
            said.append(f"{a}–{b} was silent, yet beeps join {a} and {b} by way of other contacts: measure it again")
    return tuple(said)
