"""The history of things: adapters, cables, kinds of device, places; what each did, out of the proofs and failures."""

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from itertools import pairwise

from humble_courier.app.records.comparing import Changed, changed, state_then
from humble_courier.documents.records import KeptLink, Proof

FAILURE, CAUSE = "failure", "cause "  # subjects of the facts that tell of one
WEAK_SHARE, WEAK_LEAST = (
    0.25,
    2,
)  # failures of all uses, and how many, from which on it is weak (common practice)


@dataclass
class Thing:
    """One thing. `rates`: settings of the computer with which it served; `places`: links in which; each once, in order."""

    name: str
    kind: str
    served: int = 0
    failed: int = 0
    last: float = 0.0
    rates: dict[str, None] = field(default_factory=dict)
    places: dict[str, None] = field(default_factory=dict)

    @property
    def weak(self) -> bool:
        """Whether it fails more than a thing should."""
        uses = self.served + self.failed
        return self.failed >= WEAK_LEAST and self.failed / uses > WEAK_SHARE


@dataclass(frozen=True)
class ThingUse:
    """One time that a link was made, or failed: with what."""

    at: float
    link: str
    works: bool
    told: str
    parts: tuple[str, ...]
    serial: str
    settings: str
    device: str


def uses(links: Iterable[KeptLink]) -> Iterator[ThingUse]:
    """All of them, link by link, oldest first in each."""
    for kept in links:
        device = kept.document.device.device or kept.document.device.port or ""
        found = [_of_proof(kept.name, device, proof) for proof in kept.proofs]
        for fact in kept.facts:
            if not fact.holds and (fact.subject == FAILURE or fact.subject.startswith(CAUSE)):
                near = max((p for p in kept.proofs if p.at <= fact.at), key=lambda p: p.at, default=None)
                parts = tuple(near.chain) if near is not None else ()
                serial = near.serial if near is not None else ""
                found.append(ThingUse(fact.at, kept.name, False, fact.text, parts, serial, "", device))
        yield from sorted(found, key=lambda use: use.at)


def _of_proof(link: str, device: str, proof: Proof) -> ThingUse:
    told = ", ".join(f"{name} {value}" for name, value in proof.identity.items()) or proof.reason
    return ThingUse(proof.at, link, True, told, tuple(proof.chain), proof.serial, proof.computer_settings, device)


def things(found: Iterable[ThingUse]) -> list[Thing]:
    """What each thing did; the one that was used most comes first."""
    made: dict[tuple[str, str], Thing] = {}
    for use in found:
        names = [("part", part) for part in use.parts] + [("adapter", use.serial), ("device", use.device)]
        for kind, name in names:
            if name:
                _note(made.setdefault((kind, name), Thing(name, kind)), use)
    return sorted(made.values(), key=lambda thing: (-(thing.served + thing.failed), thing.name))


def _note(thing: Thing, use: ThingUse) -> None:
    thing.served += use.works
    thing.failed += not use.works
    thing.last = max(thing.last, use.at)
    if use.settings:
        thing.rates.setdefault(use.settings)
    thing.places.setdefault(use.link)


def changes(links: Iterable[KeptLink]) -> list[tuple[str, float, Changed]]:
    """From each proof to the next one of its link, what was another: link, when, what; oldest first."""
    found = []
    for kept in links:
        proofs = sorted(kept.proofs, key=lambda proof: proof.at)
        for before, after in pairwise(proofs):
            found += [(kept.name, after.at, one) for one in changed(state_then(before), state_then(after))]
    return sorted(found, key=lambda one: one[1])


def by_place(found: Iterable[ThingUse]) -> dict[str, list[ThingUse]]:
    """The uses of each link."""
    made: dict[str, list[ThingUse]] = defaultdict(list)
    for use in found:
        made[use.link].append(use)
    return made
