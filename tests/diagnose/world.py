"""Links with one fault or two that nobody knows, and people who look for them: for trials of the choice of checks.

The truth is drawn from the model's own weights, or from weights that are off by a factor. A check shows what the model says
of the true cause (of two: the one that comes first on the way, unless it leaves the check untouched). The link works once
all true causes are mended, by a mend or by a check that exchanges something.
"""

from collections.abc import Callable

import numpy as np

from humble_courier.diagnose.belief import ON_THE_WAY, CauseBelief
from humble_courier.diagnose.case import Case
from humble_courier.diagnose.choice import Act
from humble_courier.diagnose.model import Model
from humble_courier.diagnose.outlook import World, go

HAND = frozenset({"meter", "loop-plug", "crossing", "second-cable", "second-adapter", "second-lead"})
TELLS = 3.0  # times as likely as usual: an outcome of a list points at such causes


def drawn(model: Model, random: np.random.Generator, many: int = 1, off: float = 0.0) -> World:
    """A link with so many faults; weights wrong by a factor of e^±off."""
    weights = model.prior[:-1] * np.exp(random.uniform(-off, off, len(model.prior) - 1))
    causes = random.choice(len(weights), many, replace=False, p=weights / weights.sum())
    return World(model, [int(c) for c in causes], random)


def by_choice(world: World, tell: Callable[[CauseBelief], None] = lambda _: None) -> None:
    """As this engine says."""

    class Told(Case):
        def acts(self, *hand: object, **more: object) -> list[Act]:  # type: ignore[override]
            tell(self.belief)
            return super().acts(*hand, **more)  # type: ignore[arg-type]

    go(world, Told(world.model), HAND)
    assert world.works


def by_list(world: World, order: Callable[[int], float]) -> None:
    """A list of checks from top to bottom: where one is not as usual, what it points at is mended; then everything else."""
    model, names = world.model, list(world.model.causes)
    tried: set[int] = set()
    usable = [k for k, check in enumerate(model.checks.values()) if set(check.needs) <= HAND and not check.after]
    for k in sorted(usable, key=order):
        outcome = world.check(k)
        if world.works:
            return
        if outcome == int(np.argmax(model.usual[k])):
            continue
        points = model.likely[k, outcome, :-1] / np.maximum(model.usual[k, outcome], 1e-9)
        for c in np.argsort(-points * model.prior[:-1]):
            if points[c] >= TELLS and int(c) not in tried:
                tried.add(int(c))
                if world.mend(int(c)):
                    return
    for c in np.argsort(-(model.prior / model.mend_minutes)[:-1]):
        if (int(c) not in tried or int(c) in world.causes) and world.mend(int(c)):
            return
    assert world.works, names


def in_layers(world: World) -> None:
    """From the program to the device, place by place."""
    places = [ON_THE_WAY.index(check.place) for check in world.model.checks.values()]
    by_list(world, lambda k: places[k])


def cheapest_first(world: World) -> None:
    """What takes least first."""
    by_list(world, lambda k: float(world.model.minutes[k]))


def knowing(world: World) -> None:
    """Who knows the cause."""
    for c in list(world.causes):
        world.mend(c)
