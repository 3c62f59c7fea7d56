"""The causes and the checks of one link as arrays: how often each cause is met, what each check brings under each.

Theory of operation. `likely[k, o, c]` is the probability that check `k` has outcome `o` when cause `c` is the reason. It
comes from the table of the data, or, for checks that the program does, from the simulated bench of this very link (`rows`);
no outcome is ever impossible (`FLOOR`), since people slip and tables are tables. The last column is *something else*: a
cause that nobody has listed, under which every outcome is alike. It is what remains when nothing fits.
"""

from collections.abc import Collection, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from humble_courier.catalog.diagnose_entries import CauseEntry, CheckEntry

Numbers = NDArray[np.float64]
FLOOR = 0.02  # of each outcome under each cause: slips of people, and of tables (common practice)
ENDS_FLOOR = 0.003  # the same of a device's answer: it comes by no slip, only by a cause that went away (common practice)
ELSE_SHARE = 0.01  # of all links that do not work, those whose cause stands in no list (common practice)
FETCH_MINUTES = 30.0  # for what a mend needs and is not at hand (common practice)
ELSE_MINUTES = 90.0  # until somebody else has found what is in no list (common practice)
VERIFY_MINUTES = 0.2  # after a mend: to ask the device once
NEEDS = {
    "meter": "a meter", "loop-plug": "a loop-back plug", "crossing": "a crossing adapter", "second-cable": "a second cable",
    "second-adapter": "a second adapter", "second-lead": "a second USB lead", "known-device": "a device known to work",
    "other-computer": "another computer", "terminator": "a terminator", "other-level": "an adapter of the other level",
    "isolator": "an isolating adapter",
}  # fmt: skip
Rows = Mapping[str, Mapping[str, Mapping[str, float]]]  # by check, by cause (or HEALTHY), shares of outcomes
HEALTHY = ""


@dataclass(frozen=True)
class Model:
    """Of one link. `causes` and `checks` by id, in the order of the arrays; `something else` has the index `len(causes)`.

    `prior`: shapes (C+1,), sums to 1. `likely`: (K, O, C+1), sums to 1 over o; O is the most that a check has, the rest 0.
    `usual`: (K, O), what each check brings where no cause touches it. `minutes`: (K,); `mend_minutes`: (C+1,), with what
    has to be fetched. `ends`: (K, O), whether the link works with that outcome.
    """

    causes: dict[str, CauseEntry]
    checks: dict[str, CheckEntry]
    prior: Numbers
    likely: Numbers
    usual: Numbers
    minutes: Numbers
    mend_minutes: Numbers
    ends: NDArray[np.bool_]
    simulated: frozenset[str]

    def index(self, check: str) -> int:
        """The row of a check; raises KeyError for one that this link does not have."""
        return self._rows[check]

    def outcome(self, check: str, outcome: str) -> int:
        """The column of an outcome; raises KeyError for one that the check does not have."""
        return {one: i for i, one in enumerate(self.checks[check].outcomes)}[outcome]

    @property
    def _rows(self) -> dict[str, int]:
        return {id_: i for i, id_ in enumerate(self.checks)}


def holds(when: Collection[str], tags: Collection[str]) -> bool:
    """Whether all conditions are met."""
    return set(when) <= set(tags)


def model_of(
    causes: Mapping[str, CauseEntry], checks: Mapping[str, CheckEntry], tags: Collection[str], at_hand: Collection[str],
    rows: Rows | None = None, met: Mapping[str, float] | None = None,
) -> Model:  # fmt: skip
    """The model of a link with these tags. `at_hand`: what can be used; `met`: a factor for causes that were met before."""
    rows = rows or {}
    possible = {id_: cause for id_, cause in causes.items() if holds(cause.when, tags) and _acts(id_, cause, rows)}
    usable = {id_: check for id_, check in checks.items() if holds(check.when, tags)}
    met = met or {}
    weights = np.array([_weight(cause, tags) * met.get(id_, 1.0) for id_, cause in possible.items()])
    prior = np.append((1 - ELSE_SHARE) * weights / weights.sum(), ELSE_SHARE)
    widest = max((len(check.outcomes) for check in usable.values()), default=1)
    likely = np.zeros((len(usable), widest, len(possible) + 1))
    usual = np.zeros((len(usable), widest))
    ends = np.zeros((len(usable), widest), bool)
    for k, (id_, check) in enumerate(usable.items()):
        many = len(check.outcomes)
        own = rows.get(id_, {})
        usual[k, :many] = _shares(check, own.get(HEALTHY) or check.otherwise)
        for c, (name, cause) in enumerate(possible.items()):
            likely[k, :many, c] = _shares(check, own[name] if name in own else _told(check, name, cause))
        likely[k, :many, -1] = 1 / many
        ends[k, :many] = [outcome in check.ends for outcome in check.outcomes]
    fetched = [FETCH_MINUTES * bool(set(cause.mend.needs) - set(at_hand)) for cause in possible.values()]
    mends = np.array([cause.mend.minutes + VERIFY_MINUTES for cause in possible.values()]) + np.array(fetched)
    minutes = np.array([check.minutes for check in usable.values()])
    return Model(
        possible, usable, prior, likely, usual, minutes, np.append(mends, ELSE_MINUTES), ends, frozenset(rows),
    )  # fmt: skip


def _weight(cause: CauseEntry, tags: Collection[str]) -> float:
    factor = 1.0
    for tag, times in cause.more.items():
        factor *= times if tag in tags else 1.0
    return cause.weight * factor


def _acts(id_: str, cause: CauseEntry, rows: Rows) -> bool:
    """Whether a cause can be what it is at this link: one whose fault changes nothing on its bench cannot.

    What happens now and then (noise) may have spared the bench.
    """
    seen = [row for row in rows.values() if id_ in row]
    return not seen or cause.effect == "lossy" or any(row[id_] != row[HEALTHY] for row in seen)


def _told(check: CheckEntry, id_: str, cause: CauseEntry) -> Mapping[str, float]:
    """What the table says: the first line that names the cause, else its effect."""
    named = next((one.gives for one in check.under if id_ in one.causes), None)
    return named or next((one.gives for one in check.under if cause.effect in one.effects), check.otherwise)


def _shares(check: CheckEntry, given: Mapping[str, float]) -> Numbers:
    """Shares of all outcomes: what is not given is shared out, and nothing is impossible."""
    values = np.array([given.get(outcome, ENDS_FLOOR if outcome in check.ends else np.nan) for outcome in check.outcomes])
    open_ = np.isnan(values)
    if open_.any():
        values[open_] = max(0.0, 1 - np.nansum(values)) / open_.sum()
    floors = np.array([ENDS_FLOOR if outcome in check.ends else FLOOR for outcome in check.outcomes])
    values = np.maximum(values, floors)
    return np.asarray(values / values.sum(), np.float64)
