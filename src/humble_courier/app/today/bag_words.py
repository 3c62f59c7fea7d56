"""The bag in sentences, and what each of its pieces is for."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from humble_courier.app.today.kept import Where
from humble_courier.app.today.packing import BagFound, Packing


@dataclass(frozen=True)
class BagState:
    """How far the packing of a day has come.

    `spare`: any one piece may fail, was asked for; `safe`: it is so for the bag as it is; `unsafe`: how many links have no
    second way; `chance`: that the day succeeds, where the surest bag was asked for, and that of the lightest one.
    """

    made: Packing
    found: BagFound | None
    solving: bool
    spare: bool
    safe: bool
    unsafe: int
    chance: tuple[float, float] | None = None
    limit_g: float | None = None


def headline(state: BagState, lost: Sequence[str], packed: int) -> tuple[str, str]:
    """What the bag does, and how sure that is. `lost`: visits with a link that is gone; `packed`: pieces that are."""
    made, found = state.made, state.found
    served, every = len(made.links), len(made.links) + len(made.lacking)
    gone = f" Not in the records any more: a link of {', '.join(lost)}." if lost else ""
    if found is None:
        why = "The pieces that meet, or that stay behind, are too few."
        if state.limit_g is not None:
            why = f"None that weighs {state.limit_g:g} g or less does: allow more, or leave a visit out."
        return "No bag of this kit serves the day", f"{'Still looking.' if state.solving else why}{gone}"
    pieces = int(found.bag.sum())
    whom = f"all {every} links" if served == every else f"{served} of {every} links"
    serve = "piece serves" if pieces == 1 else "pieces serve"
    done = not state.solving
    spare = ", and any one of them may fail" if done and state.spare and state.safe and not state.unsafe else ""
    told = [f"{made.grams(found.bag) / 1000:.1f} kg.", "Looking for a better one." if state.solving else ""]
    told += [_sure(state, found)]
    told += [f"{packed} of {pieces} packed."] if packed else []
    told += [f"{every - served} want what is bought or built first, see below."] if served < every else []
    if done and state.spare and state.chance is None:
        told += [f"{state.unsafe} of the links have no second way."] if state.unsafe else []
        told += [] if state.safe else ["No bag was found in which any one piece may fail."]
    return f"{pieces} {serve} {whom}{spare}", " ".join(filter(None, told)) + gone


def _sure(state: BagState, found: BagFound) -> str:
    if state.chance is not None:
        chance, least = state.chance
        return f"The whole day succeeds with {chance:.0%}, the best that was found; with the lightest bag it is {least:.0%}."
    if not found.bound:
        return ""
    return "Proven to be the least." if found.optimal else f"At most {found.gap:.0%} above the least."


def without(part: str, name: str, lost: Mapping[str, list[str]], ways: Sequence[str]) -> str:
    """What is lost where one piece of a part fails, or how its links are served then."""
    if part in lost:
        return f"{name} fails: “{'” and “'.join(lost[part])}” cannot be served any more."
    if ways:
        return f"{name} fails: {'; '.join(ways)}."
    return f"{name} fails: every link still has a chain out of this bag."


def ways_without(state: BagState, kind: int, names: Mapping[str, str]) -> list[str]:
    """For each link whose chain changes where one piece of a kind is lost: its next chain, in words."""
    assert state.found is not None, "only asked of a bag"
    less = state.found.bag.copy()
    less[kind] -= 1
    before, after = state.made.chosen(state.found.bag), state.made.problem.served(less)
    if after is None:
        return []
    changed = []
    for link, was, n in zip(state.made.links, before, after, strict=True):
        if link.chains[n] != was:
            chain = " + ".join(names.get(part, part) for part in link.chains[n]) or "nothing between"
            changed.append(f"{link.name} by {chain}")
    return changed


def said_of(where: Where, serves: str, lone: bool) -> str:
    """The second line of a piece: where it is, and what it is for."""
    if where is not Where.HOME:
        return f"{where.value}: {serves}"
    return f"only one: {serves}" if lone else serves
