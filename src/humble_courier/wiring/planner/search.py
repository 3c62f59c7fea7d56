"""Chain search: from a computer port to a device port, the k best chains out of a kit.

Theory of operation. A chain is judged by what it joins, not by what it is made of. So the search goes breadth first
over *states*: the port behind (the computer's, or that of the last active part), the open connector, and the nets
laid between the two (`stencil.py`). Chains that join the same contacts are one state, which keeps the `k` best ways
to it; a kit of a thousand cables has few states. One round lays one more part on every state:

- an active part (an adapter) ends a state: what was laid is judged there, and a new state begins at its other port;
- a passive part changes the nets; a state in which an input is lost or two senders meet can never work and is
  dropped;
- a part from whose far end too many further parts lead to the device is not even tried (`_reach`).

A state whose connector mates with the device is judged twice: by masks, which rule out nearly all, then by the
tracer, whose word is final. Paths are compared by (parts, cost, doubt, conductors), sums along the path, so the first
that arrives is the best. The search ends when `k` chains work, or one part beyond the best one: nobody takes longer
ones along.
"""

from bisect import insort
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from math import log
from typing import NamedTuple

from humble_courier.domain.hardware import Connector, Gender, Part, Port
from humble_courier.domain.settings import Handshake
from humble_courier.domain.signals import DTR_DSR, RTS_CTS, Level, Role
from humble_courier.wiring.findings import Verdict
from humble_courier.wiring.length import Around
from humble_courier.wiring.levels import Levels, survives
from humble_courier.wiring.nets import Chain
from humble_courier.wiring.planner.stencil import Bits, Mask, Nets, Speaker, Stencil, as_part
from humble_courier.wiring.trace import Trace, trace

MOST_PARTS = 5  # adapter, isolator, cable, crossover, gender changer: longer chains fall apart in the hand
SLACK = 1  # an alternative may have one part more than the best chain; nobody takes a longer one along
MOST_STEPS = 40_000  # states times parts looked at before the search says that it stopped early: about a second


@dataclass(frozen=True)
class Offer:
    """A part that is at hand (or can be bought): how many, what it costs, how often it served and failed."""

    part: Part
    count: int = 1
    cost: float = 0.0
    successes: int = 0
    failures: int = 0

    @property
    def doubt(self) -> float:
        """Minus the logarithm of the chance that it serves (rule of succession, Laplace 1814): adds up along a chain."""
        return -log((self.successes + 1) / (self.successes + self.failures + 2))


@dataclass(frozen=True)
class ChainNeed:
    """What is to be joined: two ports, the handshakes wanted, what surrounds the line."""

    computer: Port
    device: Port
    levels: Levels
    asked: frozenset[Handshake] = frozenset()
    around: Around | None = None


@dataclass(frozen=True)
class Plan:
    """A chain that was found: its parts from the computer to the device, judged.

    `members` are places in the list of offers that was searched, and whether that part is turned about.
    """

    offers: tuple[Offer, ...]
    trace: Trace
    members: tuple[tuple[int, bool], ...] = ()

    @property
    def cost(self) -> float:
        """Cost of all parts."""
        return sum(offer.cost for offer in self.offers)

    @property
    def rank(self) -> tuple[int, int, float, float, int]:
        """Smaller is better: verdict, parts (joints are one more), cost, doubt, conductors."""
        wires = sum(len(offer.part.conductors) for offer in self.offers)
        doubt = sum(offer.doubt for offer in self.offers)
        return self.trace.verdict.rank, len(self.offers), round(self.cost, 6), round(doubt, 9), wires


@dataclass(frozen=True)
class FoundChains:
    """Chains that would work, best first; the nearest that would not; whether every chain was looked at."""

    plans: tuple[Plan, ...]
    nearest: Plan | None
    complete: bool


def find_chains(need: ChainNeed, offers: list[Offer], k: int = 5, most_parts: int = MOST_PARTS) -> FoundChains:
    """The `k` best chains of at most `most_parts` parts, and at most `SLACK` more than the best that works.

    Left out are chains with a part that does nothing (the same contacts lead on before and after it), and those that
    hold all the parts of a better one.
    """
    return _ChainSearch(need, offers, k, most_parts).run()


Step = tuple[int, float, float, int]  # parts, cost, doubt, conductors: adds up along a path
Face = tuple[str, int, Gender]
Member = tuple[int, bool]  # index of the offer, turned about


class _State(NamedTuple):
    speaker: int  # the port behind: the computer's, or that of the last active part
    face: Face
    nets: Nets
    rank: int  # of the worst verdict so far


class _Path(NamedTuple):
    step: Step
    members: tuple[Member, ...]
    states: tuple[int, ...]


Arrived = tuple[int, Step, _Path]  # rank of the verdict, and how the device was reached


class _ChainSearch:
    """One search; lives for one call."""

    def __init__(self, need: ChainNeed, offers: list[Offer], k: int, most_parts: int) -> None:
        self.need, self.offers, self.k, self.most_parts = need, offers, k, most_parts
        self.bits = Bits()
        self.lines = frozenset(
            line
            for handshake, group in ((Handshake.RTS_CTS, RTS_CTS), (Handshake.DTR_DSR, DTR_DSR))
            if handshake in need.asked
            for line in group
        )
        self.harmful = self._harmful()
        self.speakers: list[Speaker] = []
        self.steps_of = [(1, o.cost, o.doubt, len(o.part.conductors)) for o in offers]
        self.groups = self._group()
        self.by_face: dict[tuple[Face, int], list[Stencil]] = {}
        self.reach = self._reach()
        self.verdicts: dict[tuple[_State, int], int] = {}
        self.numbers: dict[_State, int] = {}
        self.last: dict[Face, dict[tuple[Mask, Mask], list[Stencil]]] = {}
        self.steps = 0
        self.strict = False  # enough is found that works without the handshake: only what carries it is of interest

    def _harmful(self) -> frozenset[Level]:
        """Families whose idle handshake lines could hurt a port that may be reached: those lines have to be followed."""
        active = (o.part.ends[0].signals for o in self.offers if o.part.active)
        reached = {s.level for signals in (*active, self.need.device.signals) for s in signals.values()}
        meant = [level for level in reached if level not in (Level.GROUND, Level.SHIELD)]
        levels = self.need.levels
        return frozenset(d for d in Level if any(not survives(levels, level, d) for level in meant))

    def _group(self) -> dict[Stencil, list[Member]]:
        """Offers by what they are electrically, either way about, best first."""
        groups: dict[Stencil, list[Member]] = {}
        for i, offer in enumerate(self.offers):
            stencil = Stencil.of(offer.part, self.bits, self._speaker) if offer.count > 0 else None
            if stencil is None:
                continue
            groups.setdefault(stencil, []).append((i, False))
            if stencil.speakers is None and (back := stencil.turned()) != stencil:
                groups.setdefault(back, []).append((i, True))
        for members in groups.values():
            members.sort(key=lambda m: self.steps_of[m[0]])
        return groups

    def _reach(self) -> dict[Face, int]:
        """For each face, how few parts lead from there to the device; faces from which none do are missing."""
        device = face_of(self.need.device.connector)
        near_far = {(face_of(s.near), face_of(s.far)) for s in self.groups}
        faces = {far for _, far in near_far} | {face_of(self.need.computer.connector)}
        away = {face: 0 for face in faces if mates(face, device)}
        for distance in range(1, self.most_parts + 1):
            enough = [near for near, far in near_far if away.get(far) == distance - 1]
            for face in faces - set(away):
                if any(mates(face, near) for near in enough):
                    away[face] = distance
        return away

    def _speaker(self, port: Port) -> int:
        key = next((i for i, s in enumerate(self.speakers) if s.port is port or s.port == port), None)
        if key is None:
            kinds = {self.need.levels[s.level].signalling for s in port.signals.values()}
            grounded = bool(kinds & {"single-ended", "packet"})
            self.speakers.append(Speaker.of(port, self.bits, self.lines, grounded, self.harmful))
            key = len(self.speakers) - 1
        return key

    def run(self) -> FoundChains:
        start = self._speaker(self.need.computer)
        first = _State(start, face_of(self.need.computer.connector), self.speakers[start].start(self.bits), 0)
        frontier: dict[_State, list[_Path]] = {first: [_Path((0, 0.0, 0.0, 0), (), (self._number(first),))]}
        found: list[Arrived] = []
        failed: list[Arrived] = []
        complete = True
        for depth in range(self.most_parts + 1):
            self._arrive(frontier, found, failed)
            usable = _irredundant(found, self.k)
            works = [one for one in usable if one[0] == 0]
            furthest = min(self.most_parts, works[0][1][0] + SLACK) if works else self.most_parts
            if len(works) >= self.k or depth >= furthest:
                break
            self.strict = len(usable) >= self.k
            frontier, whole = self._extend(frontier, furthest - depth - 1)
            complete = complete and whole
        plans = self._best(found)
        return FoundChains(plans, None if plans else self._nearest(failed), complete)

    def _number(self, state: _State) -> int:
        return self.numbers.setdefault(state, len(self.numbers))

    def _arrive(self, frontier: dict[_State, list[_Path]], found: list[Arrived], failed: list[Arrived]) -> None:
        """Take up the chains that reach the device."""
        device = self.need.device
        for state, paths in frontier.items():
            if mates(state.face, face_of(device.connector)):
                rank = max(state.rank, self._judge(state, device))
                goal = found if rank <= Verdict.WITHOUT_HANDSHAKE.rank else failed
                goal += [(rank, path.step, path) for path in paths]

    def _judge(self, state: _State, port: Port) -> int:
        """Rank of the verdict of what is laid between the last speaker and `port`; masks first, the tracer for the rest."""
        key = (state, self._speaker(port))
        if key not in self.verdicts:
            self.verdicts[key] = self._traced(state, port) if self._plausible(state, port) else Verdict.WILL_NOT_WORK.rank
        return self.verdicts[key]

    def _plausible(self, state: _State, port: Port) -> bool:
        """Whether each input of the port is met by a sender, and each input behind by a sender of the port."""
        if port.loops:
            return True
        near, far = self.speakers[state.speaker], self.speakers[self._speaker(port)]
        wanted, heard = far.heard_from(near), 0
        for behind, ahead in state.nets:
            there = ahead & wanted
            if there and not behind & near.sends:
                return False
            heard |= there
            if behind & near.hears and not ahead & far.sends:
                return False
        return heard == wanted

    def _traced(self, state: _State, port: Port) -> int:
        near = self.speakers[state.speaker].port
        either = Connector(near.connector.family, near.connector.contacts, Gender.EITHER)
        laid = as_part(either, Connector(*state.face), state.nets, self.bits)
        wanted = any(s.role is Role.HANDSHAKE for s in (*near.signals.values(), *port.signals.values()))
        asked = self.need.asked if wanted else frozenset()
        return trace(Chain(near, (laid,), port), self.need.levels, asked).verdict.rank

    def _extend(self, frontier: dict[_State, list[_Path]], left: int) -> tuple[dict[_State, list[_Path]], bool]:
        """All states one part further on, each with its best paths; False where the search had to stop early."""
        grown: dict[_State, list[_Path]] = {}
        whole = True
        for state, paths in sorted(frontier.items(), key=lambda item: item[1][0].step):
            for stencil in self._fitting(state.face, left) if left else self._closing(state):
                self.steps += 1
                if self.steps > MOST_STEPS:
                    whole = False
                    break
                after = self._after(state, stencil)
                if after is not None:
                    self._lengthen(paths, stencil, self._number(after), grown.setdefault(after, []))
        return {state: paths for state, paths in grown.items() if paths}, whole

    def _fitting(self, face: Face, left: int) -> list[Stencil]:
        key = (face, left)
        if key not in self.by_face:
            fits = [s for s in self.groups if mates(face, face_of(s.near))]
            self.by_face[key] = [s for s in fits if self.reach.get(face_of(s.far), 99) <= left]
        return self.by_face[key]

    def _closing(self, state: _State) -> Iterator[Stencil]:
        """Parts that may lead from here to the device: where we send it hears, where it sends we hear."""
        near, far = self.speakers[state.speaker], self.speakers[self._speaker(self.need.device)]
        sent = heard = 0
        for behind, ahead in state.nets:
            sent |= ahead if behind & near.sends else 0
            heard |= ahead if behind & near.hears else 0
        if state.face not in self.last:
            kinds: dict[tuple[Mask, Mask], list[Stencil]] = {}
            for stencil in self._fitting(state.face, 0):
                kinds.setdefault((stencil.leading_to(far.hears), stencil.leading_to(far.sends)), []).append(stencil)
            self.last[state.face] = kinds
        for (hears, sends), stencils in self.last[state.face].items():
            if (not near.sends or not far.hears or hears & sent) and (not near.hears or not far.sends or sends & heard):
                yield from stencils

    def _after(self, state: _State, stencil: Stencil) -> _State | None:
        """The state once the part is laid; None where nothing can come of it."""
        if stencil.speakers is not None:
            near, number = stencil.speakers
            rank = max(state.rank, self._judge(state, self.speakers[near].port))
            if rank > Verdict.WITHOUT_HANDSHAKE.rank:
                return None
            return _State(number, face_of(stencil.far), self.speakers[number].start(self.bits), rank)
        speaker = self.speakers[state.speaker]
        nets = stencil.after(state.nets, speaker.kept)
        return _State(state.speaker, face_of(stencil.far), nets, state.rank) if speaker.alive(nets, self.strict) else None

    def _lengthen(self, paths: list[_Path], stencil: Stencil, after: int, best: list[_Path]) -> None:
        """Each path with each part of this kind that is left, sorted into the `k` best ways to that state."""
        for path in paths:
            if after in path.states:
                continue
            for member in self.groups[stencil]:
                step = _add(path.step, self.steps_of[member[0]])
                if len(best) >= self.k and step >= best[-1].step:
                    break
                if sum(i == member[0] for i, _ in path.members) < self.offers[member[0]].count:
                    insort(best, _Path(step, (*path.members, member), (*path.states, after)), key=lambda p: p.step)
                    del best[self.k :]

    def _plan(self, members: tuple[Member, ...]) -> Plan:
        offers = tuple(self.offers[i] for i, _ in members)
        parts = tuple(self.offers[i].part.turned() if turned else self.offers[i].part for i, turned in members)
        chain = Chain(self.need.computer, parts, self.need.device)
        return Plan(offers, trace(chain, self.need.levels, self.need.asked, self.need.around), members)

    def _best(self, found: list[Arrived]) -> tuple[Plan, ...]:
        """The k best in full. Lengths may still count against a chain: then the next one takes its place."""
        plans: list[Plan] = []
        for _, _, path in _irredundant(found, len(found)):
            plan = self._plan(path.members)
            if plan.trace.verdict.usable:
                plans.append(plan)
            if len(plans) >= self.k:
                break
        return tuple(sorted(plans, key=lambda plan: plan.rank))

    def _nearest(self, failed: list[Arrived]) -> Plan | None:
        """The chain that fails by least: one that reaches the device, else one with the fewest joints that do not mate."""
        if failed:
            return self._plan(min(failed, key=lambda one: one[:2])[2].members)
        loose = [self._plan(()), *(self._plan(tuple(self.groups[stencil][:1])) for stencil in self._touching())]
        return min(loose, key=lambda plan: (sum(j.reason is not None for j in plan.trace.chain.joints), *plan.rank))

    def _touching(self) -> list[Stencil]:
        ends = (face_of(self.need.computer.connector), face_of(self.need.device.connector))
        return [s for s in self.groups if mates(ends[0], face_of(s.near)) or mates(face_of(s.far), ends[1])][:20]


def _irredundant(found: list[Arrived], most: int) -> list[Arrived]:
    """At most so many, best first, without the chains that hold all the parts of one that is as good or better."""
    kept: list[tuple[Arrived, Counter[int]]] = []
    for one in sorted(found, key=lambda one: one[:2]):
        parts = Counter(i for i, _ in one[2].members)
        if not any(other[0] <= one[0] and fewer <= parts for other, fewer in kept):
            kept.append((one, parts))
        if len(kept) >= most:
            break
    return [one for one, _ in kept]


def _add(a: Step, b: Step) -> Step:
    return a[0] + b[0], a[1] + b[1], a[2] + b[2], a[3] + b[3]


def face_of(connector: Connector) -> Face:
    """What decides whether two halves mate."""
    return connector.family, connector.contacts, connector.gender


def mates(a: Face, b: Face) -> bool:
    """Whether two faces go into each other."""
    return a[:2] == b[:2] and (Gender.EITHER in (a[2], b[2]) or a[2] is not b[2])
