"""Pairs and loops: both wires of a pair in one twist, who supplies a current loop, and what a loop-back plug returns."""

from collections.abc import Iterator

from humble_courier.domain.signals import Direction, Level, Role, Signal
from humble_courier.wiring.findings import Finding, Severity
from humble_courier.wiring.levels import leg
from humble_courier.wiring.nets import Spot
from humble_courier.wiring.paths import Paths, PortKey


def split_pairs(paths: Paths) -> Iterator[Finding]:
    """Differential signals whose two wires run in different twisted pairs of a part: what couples in no longer cancels."""
    for segment in paths.segments:
        if not paths.mates(segment):
            continue
        for name, (a, b) in _pairs(paths, segment.near).items():
            for node in range(segment.near[0] + 1, segment.far[0]):
                if paths.chain.parts[node - 1].pairs and _split(paths, node, a, b):
                    text = f"the wires of {name} run in two different twisted pairs of the {paths.chain.name(node)}"
                    yield Finding("pair-split", Severity.NOTE, text, paths.chain.place(node), paths.net_number(a))


def _pairs(paths: Paths, key: PortKey) -> dict[str, tuple[Spot, Spot]]:
    """The differential signals of a port: common name, spots of the A and the B wire."""
    legs: dict[str, dict[str, Spot]] = {}
    for spot, signal in paths.signals(key):
        which = leg(paths.levels, signal)
        if which is not None:
            legs.setdefault(signal.name[:-1].upper() or "the pair", {})[which] = spot
    return {name: (found["A"], found["B"]) for name, found in legs.items() if len(found) == 2}


def _split(paths: Paths, node: int, a: Spot, b: Spot) -> bool:
    part = paths.chain.parts[node - 1]
    inside = [{(s.end, s.contact) for s in paths.net(spot).spots if s.node == node} for spot in (a, b)]
    if not all(inside):
        return False
    together = any(
        (x.end, x.contact) in inside[i] and (y.end, y.contact) in inside[1 - i] for x, y in part.pairs for i in (0, 1)
    )
    return not together


def loops(paths: Paths) -> Iterator[Finding]:
    """Current loops that nobody supplies, or that both ends supply."""
    for segment in paths.segments:
        looped = [s for key in (segment.near, segment.far) for _, s in paths.signals(key) if s.level is Level.LOOP_20MA]
        if not looped or not paths.mates(segment):
            continue
        sources = [key for key in (segment.near, segment.far) if paths.supplies_loop(key)]
        place = f"joint:{segment.far[0]}"
        if not sources:
            text = "no end supplies the current loop: a 12 to 24 V source is missing in it"
            yield Finding("input-undriven", Severity.ERROR, text, place)
        elif len(sources) > 1:
            text = "both ends supply the current loop: make one of them passive"
            yield Finding("output-meets-output", Severity.ERROR, text, place)


def judge_loop_back(paths: Paths) -> Iterator[Finding]:
    """With a loop-back plug at the end every data input must hear its own port."""
    last = paths.segments[-1]
    if paths.mates(last) and not paths.hears_itself(last.near):
        wanted = _first_input(paths, last.near)
        text = f"{wanted} does not get back what the port sends: the loop is not closed"
        yield Finding("input-undriven", Severity.ERROR, text, f"joint:{paths.chain.last}")


def _first_input(paths: Paths, key: PortKey) -> str:
    def listens(signal: Signal) -> bool:
        return signal.role is Role.DATA and signal.direction is Direction.IN

    return next((s.name for _, s in paths.signals(key) if listens(s)), "the port")
