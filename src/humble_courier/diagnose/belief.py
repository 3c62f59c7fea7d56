"""How likely each cause is, after what was seen.

Theory of operation. The hypotheses are each cause alone, and pairs of the likelier ones (a link that was never joined before
often has two faults). Under a pair the cause that comes first on the way from the program to the device shows, unless it
leaves a check untouched: then the other one does. Bayes' rule over the outcomes, which are independent given the cause.
A fact that no cause explains is carried by *something else*; when that leads, nothing that is listed fits.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from humble_courier.diagnose.model import Model, Numbers

ON_THE_WAY = ("program", "port", "adapter", "settings", "wire", "device-port", "device", "speech")  # from us to it
PAIRED = 14  # of the likelier causes, whose pairs are weighed (common practice: a third fault is not looked for at once)
TWO_SHARE = 0.12  # of links with two faults among those that do not work (common practice)
MENDED = 0.03  # belief that is left in a cause whose mend brought no answer


@dataclass(frozen=True)
class CheckFact:
    """One fact: a check with its outcome. `weight` below 1 for what is known from hearsay."""

    check: str
    outcome: str
    weight: float = 1.0


@dataclass(frozen=True)
class CauseBelief:
    """After some facts. `mended`: causes whose mend was tried, in vain."""

    model: Model
    facts: tuple[CheckFact, ...] = ()
    mended: tuple[str, ...] = ()

    @cached_property
    def _prior(self) -> Numbers:
        prior = self.model.prior.copy()
        for c, id_ in enumerate(self.model.causes):
            prior[c] *= MENDED if id_ in self.mended else 1.0
        return np.asarray(prior / prior.sum())

    @cached_property
    def likelihoods(self) -> Numbers:
        """Of each fact under each single cause, shape (F, C+1)."""
        rows = [self._row(fact) for fact in self.facts]
        return np.array(rows) if rows else np.ones((0, len(self.model.prior)))

    def _row(self, fact: CheckFact) -> Numbers:
        k, o = self.model.index(fact.check), self.model.outcome(fact.check, fact.outcome)
        return np.asarray(self.model.likely[k, o] ** fact.weight)

    @cached_property
    def _pairs(self) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """Indices of the causes of each pair, the one that comes first on the way in the first array."""
        single = self._prior[:-1] * np.prod(self.likelihoods[:, :-1], axis=0) ** 0.5
        top = [int(c) for c in np.argsort(-single, kind="stable")[:PAIRED]]
        order = [ON_THE_WAY.index(cause.place) for cause in self.model.causes.values()]
        top = sorted(top, key=lambda c: (order[c], c))
        pairs = [(i, j) for n, i in enumerate(top) for j in top[n + 1 :]]
        first, second = np.array(pairs, np.intp).reshape(-1, 2).T
        return first, second

    def pair(self, number: int) -> tuple[int, int]:
        """The two causes of a pair, in the order of the joint belief."""
        first, second = self._pairs
        return int(first[number]), int(second[number])

    def shown(self, k: int) -> Numbers:
        """What check `k` brings under each pair, shape (O, P)."""
        first, second = self._pairs
        of_first, of_second = self.model.likely[k][:, first], self.model.likely[k][:, second]
        touched = np.abs(of_first - self.model.usual[k][:, None]).max(axis=0) > 0.01
        row = np.where(touched, of_first, of_second)
        return self._both_mended(k, row, of_first, of_second) if self.model.ends[k].any() else row

    def _both_mended(self, k: int, row: Numbers, of_first: Numbers, of_second: Numbers) -> Numbers:
        """A check that mends one of two brings no answer: it works only where it mends both."""
        ends = self.model.ends[k]
        works = np.where(ends[:, None], np.minimum(of_first, of_second), row)
        rest = np.where(ends[:, None], 0.0, works)
        scale = (1 - works[ends].sum(axis=0)) / np.maximum(rest.sum(axis=0), 1e-12)
        return np.asarray(np.where(ends[:, None], works, rest * scale), np.float64)

    @cached_property
    def joint(self) -> tuple[Numbers, Numbers]:
        """Probabilities of the single causes (C+1,) and of the pairs (P,); together they sum to 1."""
        first, second = self._pairs
        single = (1 - TWO_SHARE) * self._prior * np.prod(self.likelihoods, axis=0)
        both = self._prior[first] * self._prior[second]
        both = TWO_SHARE * both / max(both.sum(), 1e-12) if len(both) else both
        for fact in self.facts:
            k, o = self.model.index(fact.check), self.model.outcome(fact.check, fact.outcome)
            both = both * self.shown(k)[o] ** fact.weight
        whole = single.sum() + both.sum()
        return single / whole, both / whole

    @cached_property
    def marginal(self) -> Numbers:
        """How likely each cause is, alone or with another; shape (C+1,). May sum to more than 1."""
        single, both = self.joint
        first, second = self._pairs
        found = single.copy()
        np.add.at(found, first, both)
        np.add.at(found, second, both)
        return found

    @cached_property
    def probabilities(self) -> dict[str, float]:
        """How likely each cause is, the likeliest first."""
        found = dict(zip(self.model.causes, self.marginal[:-1].tolist(), strict=True))
        return dict(sorted(found.items(), key=lambda pair: -pair[1]))

    @cached_property
    def places(self) -> dict[str, float]:
        """How likely something is wrong at each place; with two faults at two places these sum to more than 1."""
        single, both = self.joint
        first, second = self._pairs
        at = np.array([ON_THE_WAY.index(cause.place) for cause in self.model.causes.values()])
        found = {}
        for number, place in enumerate(ON_THE_WAY):
            here = at == number
            found[place] = float(single[:-1][here].sum() + both[here[first] | here[second]].sum())
        return found

    @property
    def unlisted(self) -> float:
        """How likely it is that none of the listed causes is the reason."""
        return float(self.marginal[-1])

    def outcomes(self, k: int) -> Numbers:
        """How likely each outcome of check `k` is now, shape (O,)."""
        single, both = self.joint
        return np.asarray(self.model.likely[k] @ single + self.shown(k) @ both)

    def because(self, cause: str) -> list[tuple[CheckFact, float]]:
        """The facts with what each speaks for (above 0) or against a cause, in nats, the weightiest first.

        Each is the logarithm of how much likelier the fact is under this cause than under all others, as these are believed
        without that fact.
        """
        c, found = list(self.model.causes).index(cause), []
        for i, fact in enumerate(self.facts):
            others = np.delete(self.joint[0] / self.likelihoods[i], c)
            rest = float(np.delete(self.likelihoods[i], c) @ others / max(others.sum(), 1e-12))
            found.append((fact, float(np.log(self.likelihoods[i, c] / max(rest, 1e-12)))))
        return sorted(found, key=lambda pair: -abs(pair[1]))

    def stands_alone(self) -> CheckFact | None:
        """The fact without which the others fit a listed cause best; None where there are fewer than two."""
        if len(self.facts) < 2:
            return None
        without = [CauseBelief(self.model, _but(self.facts, i), self.mended).unlisted for i in range(len(self.facts))]
        return self.facts[int(np.argmin(without))]


def _but(facts: Sequence[CheckFact], i: int) -> tuple[CheckFact, ...]:
    return (*facts[:i], *facts[i + 1 :])
