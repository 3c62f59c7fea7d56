"""The least bag, proven, as an integer program.

Theory of operation. For each kind i and each u up to how many there are, z[i,u] is 1 where at least u of the kind are in the
bag; y[l,j] is the share of choice j of link l. Σ w·z is made least. For each link, kind and u the choices that need u or
more weigh no more than z[i,u]. Links that meet, and pieces that stay behind, want besides that what is used in a slot, with
all that stayed before it, is no more than Σ z[i,u]. Where links do not meet y may stay a fraction: with z whole, one of the
choices is as good (`whole` makes all of them whole).

A *loss* (a piece of a kind less, for links that have to go on without it) is a block of its own: other y against a z that is
moved by one. What each link wants at least to outlive any loss may be given too (`robust`), which no bag can do without.

The solver is HiGHS: it tells each better bag, and stops within a fraction of a second when it is asked to.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

import highspy
import numpy as np

from humble_courier.plan.problem import BagChoice, BagProblem, Pieces

GAP = 1e-6  # of the objective, below which a bag is the least
# Trying branches out and beginning anew take most of the time here and save little (measured: benchmarks/test_plan.py).
QUICK = (("mip_allow_restart", False), ("mip_pscost_minreliable", 0))


@dataclass(frozen=True)
class BagLoss:
    """These links must be served though one piece of this kind is lost."""

    kind: int
    links: tuple[int, ...]


@dataclass(frozen=True)
class BagFound:
    """A bag with its weight. `bound`: no bag can weigh less than this; `gap`: how much the bag is above it, as a share."""

    bag: Pieces
    weight: float
    bound: float

    @property
    def gap(self) -> float:
        """Share by which it may be heavier than the least."""
        return max(0.0, (self.weight - self.bound) / self.weight) if self.weight else 0.0

    @property
    def optimal(self) -> bool:
        """Whether it is proven to be the least."""
        return self.gap <= GAP


@dataclass
class _BoundRows:
    """Rows of a program as they come, with all bounds from below (`at least`)."""

    lower: list[float] = field(default_factory=list)
    start: list[int] = field(default_factory=lambda: [0])
    index: list[int] = field(default_factory=list)
    value: list[float] = field(default_factory=list)

    def add(self, terms: Sequence[tuple[int, float]], least: float) -> None:
        """Σ value · column ≥ least."""
        self.index += [column for column, _ in terms]
        self.value += [value for _, value in terms]
        self.start.append(len(self.index))
        self.lower.append(least)


class _Quiet(highspy.Highs):
    """The solver without its greeting, which would stand in the midst of our output: it is told before it says it."""

    def enableCallbacks(self) -> None:
        self.silent()
        super().enableCallbacks()  # type: ignore[no-untyped-call]


class BagProgram:
    """One solving. `stop` from another thread ends it with the best bag so far."""

    def __init__(
        self, problem: BagProblem, losses: Sequence[BagLoss] = (),
        robust: Sequence[Sequence[BagChoice]] = (), whole: bool = False,
    ) -> None:  # fmt: skip
        """`robust`: sets of which each link wants one in the bag; `whole`: no choice is left a fraction."""
        self._problem = problem
        self._costs: list[float] = []
        self._whole: list[bool] = []
        self._rows = _BoundRows()
        self._z = self._pieces()
        self._all_whole = whole
        self._day(range(len(problem.links)), None)
        for loss in losses:
            self._day(loss.links, loss.kind)
        for sets in robust:
            columns = self._shares(sets, whole=False)
            self._alone(sets, columns, None)
        self._solver = _Quiet()  # type: ignore[no-untyped-call]
        self._stopped = False

    def _column(self, cost: float, whole: bool) -> int:
        self._costs.append(cost)
        self._whole.append(whole)
        return len(self._costs) - 1

    def _pieces(self) -> list[list[int]]:
        made = []
        for count, weight in zip(self._problem.counts, self._problem.weights, strict=True):
            columns = [self._column(weight, whole=True) for _ in range(count)]
            for more, less in zip(columns[1:], columns, strict=False):
                self._rows.add([(less, 1.0), (more, -1.0)], 0.0)
            made.append(columns)
        return made

    def _shares(self, choices: Sequence[BagChoice], whole: bool) -> list[int]:
        """A share for each choice, one in all."""
        columns = [self._column(0.0, whole or any(choice.stays)) for choice in choices]
        self._rows.add([(column, 1.0) for column in columns], 1.0)
        return columns

    def _day(self, links: Sequence[int], lost: int | None) -> None:
        """Rows that serve these links, with one piece of `lost` less."""
        at, stayed = set(links), list[tuple[int, BagChoice]]()
        for slot in self._problem.slots:
            inside = [link for link in slot if link in at]
            here: list[tuple[int, BagChoice]] = []
            for link in inside:
                choices = self._problem.links[link].choices
                columns = self._shares(choices, self._all_whole or len(inside) > 1)
                self._alone(choices, columns, lost)
                here += zip(columns, choices, strict=True)
            if len(inside) > 1 or stayed:
                self._together(here, stayed, lost)
            stayed = stayed + [(column, choice) for column, choice in here if any(choice.stays)]

    def _alone(self, choices: Sequence[BagChoice], y: list[int], lost: int | None) -> None:
        needs = np.array([choice.needs for choice in choices]).reshape(len(choices), -1)
        for kind in np.flatnonzero(needs.max(axis=0) if len(choices) else []):
            for many in range(1, int(needs[:, kind].max()) + 1):
                users = [(column, -1.0) for column, need in zip(y, needs[:, kind], strict=True) if need >= many]
                held = many + (kind == lost)
                z = [(self._z[kind][held - 1], 1.0)] if held <= len(self._z[kind]) else []
                self._rows.add([*z, *users], 0.0)

    def _together(self, here: list[tuple[int, BagChoice]], stayed: list[tuple[int, BagChoice]], lost: int | None) -> None:
        for kind, columns in enumerate(self._z):
            used = [(column, -float(choice.needs[kind])) for column, choice in here if choice.needs[kind]]
            used += [(column, -float(choice.stays[kind])) for column, choice in stayed if choice.stays[kind]]
            if used:
                self._rows.add([(z, 1.0) for z in columns] + used, 1.0 if kind == lost else 0.0)

    def solve(self, seconds: float, better: Callable[[BagFound], None] = lambda _: None) -> BagFound | None:
        """The least bag, or the best within the time; None where there is none. `better` hears each improvement."""
        solver = self._solver
        for name, value in (("time_limit", seconds), ("mip_rel_gap", GAP / 10), *QUICK):
            solver.setOptionValue(name, value)
        solver.passModel(self._lp())
        solver.cbMipImprovingSolution.subscribe(lambda event: self._improved(event, better))
        for asked in (solver.cbMipInterrupt, solver.cbSimplexInterrupt, solver.cbIpmInterrupt):
            asked.subscribe(self._interrupted)
        solver.run()
        solution = solver.getSolution()
        if not solution.value_valid or self._unservable():
            return None
        bound = solver.getInfo().mip_dual_bound
        return self._found(solution.col_value, bound if np.isfinite(bound) else 0.0)

    def _unservable(self) -> bool:
        return self._solver.getModelStatus() == highspy.HighsModelStatus.kInfeasible

    def stop(self) -> None:
        """End the solving soon."""
        self._stopped = True

    def _interrupted(self, event: Any) -> None:
        event.data_in.user_interrupt = self._stopped

    def _improved(self, event: Any, better: Callable[[BagFound], None]) -> None:
        better(self._found(event.data_out.mip_solution, event.data_out.mip_dual_bound))

    def _found(self, values: Sequence[float], bound: float) -> BagFound:
        bag = np.array([sum(round(values[z]) for z in columns) for columns in self._z], np.int64)
        return BagFound(bag, self._problem.weight(bag), bound)

    def _lp(self) -> highspy.HighsLp:
        lp, rows, many = highspy.HighsLp(), self._rows, len(self._costs)
        lp.num_col_, lp.num_row_ = many, len(rows.lower)
        lp.col_cost_, lp.col_lower_, lp.col_upper_ = np.array(self._costs), np.zeros(many), np.ones(many)
        lp.row_lower_, lp.row_upper_ = np.array(rows.lower), np.full(len(rows.lower), highspy.kHighsInf)
        kinds = highspy.HighsVarType
        lp.integrality_ = [kinds.kInteger if whole else kinds.kContinuous for whole in self._whole]
        lp.a_matrix_.format_ = highspy.MatrixFormat.kRowwise
        lp.a_matrix_.start_, lp.a_matrix_.index_ = np.array(rows.start), np.array(rows.index)
        lp.a_matrix_.value_ = np.array(rows.value)
        return lp


class LeastBag:
    """One solving of the plain day; `stop` from another thread ends it with the best bag so far.

    All choices are whole here: that is exact at once, and takes half the time where links meet.
    """

    def __init__(self, problem: BagProblem) -> None:
        self._problem, self._program = problem, BagProgram(problem, whole=True)

    def solve(self, seconds: float, better: Callable[[BagFound], None] = lambda _: None) -> BagFound | None:
        """The least bag, or the best within the time; None where there is none. `better` hears only bags that serve."""

        def told(found: BagFound) -> None:
            if self._problem.served(found.bag) is not None:
                better(found)

        return self._program.solve(seconds, told)

    def stop(self) -> None:
        """End it soon."""
        self._program.stop()
