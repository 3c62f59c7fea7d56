"""The next act that is worth most: a check, or a mend.

Theory of operation (after Heckerman, Breese and Rommelse, "Decision-theoretic troubleshooting", 1995, from memory). For a
belief the *expected minutes of repair* are what it takes to try the mends in the order of probability over minutes until one
brings the answer. A check is worth what it saves: its own minutes, plus the expected minutes of repair after each of its
outcomes, against mending now. For the few acts that lead so, what follows is reckoned one step further: after each outcome
the best check or mending, whichever is less, as two checks that tell little each may tell much together. What the program
can look at by itself in seconds is done first, as long as it tells anything and no cause is nearly sure: a person's minutes
are dearer than the program's.
"""

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

import numpy as np

from humble_courier.diagnose.belief import CauseBelief
from humble_courier.diagnose.model import Model, Numbers

BY_ITSELF_MINUTES = 0.45  # of a check that the program does first
TELLS = 0.1  # minutes that such a check must save at least
TROUBLE = 0.1  # minutes (common practice)
SURE = 0.5  # belief in one cause from which on it is mended, and nothing is looked at for its own sake
LEAST = 1e-9
AHEAD = 6  # acts that are reckoned one step further
RARE = 0.002  # chance of an outcome below which nothing is reckoned after it


@dataclass(frozen=True)
class Act:
    """A check (`check`) or a mend (`cause`): its minutes, and what is expected in all when it is done now.

    `after`: for each outcome of a check how likely it is, and how likely each cause is then.
    """

    minutes: float
    expected: float
    worth: float
    check: str = ""
    cause: str = ""

    @property
    def is_check(self) -> bool:
        """Whether something is looked at, and not mended."""
        return bool(self.check)


def repair_minutes(belief: Numbers, minutes: Numbers) -> Numbers:
    """Expected minutes of trying mends by probability over minutes; `belief` has shape (…, C), summing to 1 over c.

    Shapes: (…, C) and (C,) to (…).
    """
    order = np.argsort(-belief / minutes, axis=-1, kind="stable")
    sorted_belief = np.take_along_axis(belief, order, axis=-1)
    left = 1 - np.cumsum(sorted_belief, axis=-1) + sorted_belief  # not mended before this one
    return np.asarray((np.maximum(left, 0.0) * minutes[order]).sum(axis=-1))


def _posteriors(belief: CauseBelief) -> tuple[Numbers, Numbers]:
    """After each check and outcome: its probability (K, O), and the causes normalised (K, O, C+1)."""
    model = belief.model
    now = belief.marginal / belief.marginal.sum()
    joint = model.likely * now
    chance = joint.sum(axis=-1)
    return chance, joint / np.maximum(chance, LEAST)[..., None]


def possible(
    model: Model, belief: CauseBelief, at_hand: Collection[str], may_send: bool, unable: Collection[str] = ()
) -> list[int]:
    """Checks that can be done now: not done yet, with what is at hand, after what they need, and none of `unable`."""
    seen = {fact.check: fact.outcome for fact in belief.facts}
    found = []
    for k, (id_, check) in enumerate(model.checks.items()):
        ready = not check.after or any(seen.get(before) == "garbled" for before in check.after)
        ready = ready and not any(seen.get(other) == outcome for other, outcome in check.moot.items())
        mute = check.by == "program" and bool(check.sends) and not may_send
        if id_ not in seen and id_ not in unable and ready and not mute and set(check.needs) <= set(at_hand):
            found.append(k)
    return found


def acts(
    belief: CauseBelief, at_hand: Collection[str], may_send: bool = True, unable: Collection[str] = (), ahead: int = AHEAD
) -> list[Act]:
    """All that can be done now, the best first: by expected minutes, what the program does by itself before.

    `ahead`: of how many of the leading acts what follows is reckoned one step further.
    """
    model = belief.model
    chance, after = _posteriors(belief)
    now = belief.marginal / belief.marginal.sum()
    mending = float(repair_minutes(now, model.mend_minutes))
    rest = np.where(model.ends, 0.0, repair_minutes(after, model.mend_minutes))
    expected = model.minutes + (chance * rest).sum(axis=-1)
    ids = list(model.checks)
    found = [
        Act(float(model.minutes[k]), float(expected[k]), mending - float(expected[k]), check=ids[k])
        for k in possible(model, belief, at_hand, may_send, unable)
    ]
    found += _mends(belief, now, mending)
    sure = float(now[:-1].max()) >= SURE

    def order(act: Act) -> tuple[bool, float]:
        return sure or not _first(model, act), act.expected + _trouble(model, act)

    found.sort(key=order)
    open_ = [model.index(act.check) for act in found if act.is_check]
    found[:ahead] = sorted((_further(model, now, act, open_) for act in found[:ahead]), key=order)
    return found


def _further(model: Model, now: Numbers, act: Act, open_: Sequence[int]) -> Act:
    """The same act, with the best next step after each of its outcomes in place of mending alone."""
    if act.is_check:
        k = model.index(act.check)
        joint = model.likely[k][~model.ends[k]] * now
        open_ = [other for other in open_ if other != k]
    else:
        joint = now[None] * (np.arange(len(now)) != list(model.causes).index(act.cause))
    chance = joint.sum(axis=-1)
    beliefs = joint[chance > RARE] / chance[chance > RARE, None]
    expected = act.minutes + float((chance[chance > RARE] * _best_next(model, beliefs, open_)).sum())
    return replace(act, expected=min(act.expected, expected), worth=act.worth + max(0.0, act.expected - expected))


def _best_next(model: Model, beliefs: Numbers, open_: Sequence[int]) -> Numbers:
    """Fewest expected minutes when one more check may be made before mending; `beliefs` (N, C+1), result (N,)."""
    mending = repair_minutes(beliefs, model.mend_minutes)
    if not open_:
        return mending
    joint = model.likely[open_] * beliefs[:, None, None, :]
    chance = joint.sum(axis=-1)
    left = np.where((chance > RARE) & ~model.ends[open_], chance, 0.0)
    at = left > 0
    rest = np.zeros_like(left)
    rest[at] = repair_minutes(joint[at] / chance[at][:, None], model.mend_minutes)
    checked = model.minutes[open_] + (left * rest).sum(axis=-1)
    return np.asarray(np.minimum(mending, checked.min(axis=-1)))


def _trouble(model: Model, act: Act) -> float:
    """Minutes that a look of a person has to save beside its own: each is an interruption."""
    return TROUBLE if act.is_check and model.checks[act.check].by == "person" else 0.0


def _first(model: Model, act: Act) -> bool:
    """Whether the program does it by itself, in seconds, and it tells something."""
    if not act.is_check:
        return False
    return model.checks[act.check].by == "program" and act.minutes <= BY_ITSELF_MINUTES and act.worth > TELLS


def _mends(belief: CauseBelief, now: Numbers, mending: float) -> list[Act]:
    """Each mend first, the others after it."""
    model, found = belief.model, []
    for c, id_ in enumerate(model.causes):
        if id_ in belief.mended:
            continue
        others = now.copy()
        others[c] = 0.0
        left = float(others.sum())
        rest = float(repair_minutes(others / max(left, LEAST), model.mend_minutes))
        minutes = float(model.mend_minutes[c])
        found.append(Act(minutes, minutes + left * rest, mending - minutes - left * rest, cause=id_))
    return found
