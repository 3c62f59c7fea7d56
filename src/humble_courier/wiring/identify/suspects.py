"""What an unknown cable may be: each known wiring whole, and with one fault; as labels of contacts that are joined."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from humble_courier.catalog.entries import ShapeEntry
from humble_courier.domain.hardware import Connector, EndContact, Part
from humble_courier.wiring.orientation import neighbours

Touch = tuple[EndContact, EndContact]
Joined = np.ndarray[tuple[int, int], np.dtype[np.bool_]]
Label = tuple[int, ...]  # for each contact a number; equal numbers are joined
UNKNOWN = "unknown"

# Before anything is measured (common practice: who reaches for the meter has a reason to).
WHOLE, OPEN, SWAPPED, SHORT = 0.64, 0.20, 0.10, 0.06
NEIGHBOURS = 0.97  # share of shorts that lie between neighbours
NOT_IN_CATALOG = 0.05  # assumed: one cable in twenty is of its own kind


@dataclass(frozen=True)
class CableFault:
    """One thing wrong in a cable: a published code and the place."""

    code: str
    where: str


@dataclass(frozen=True)
class Suspect:
    """A wiring, whole or with one fault. `name` is an index into the names of the line-up."""

    name: int
    fault: CableFault | None
    prior: float


@dataclass(frozen=True)
class LineUp:
    """All suspects for two connectors that are seen.

    `joined` has a row for each suspect and a column for each touch: whether those two contacts are connected.
    """

    ends: tuple[tuple[str, int], tuple[str, int]]
    contacts: tuple[EndContact, ...]
    names: tuple[str, ...]
    alike: tuple[tuple[str, ...], ...]  # parts with the same wiring: a meter cannot tell them apart
    suspects: tuple[Suspect, ...]
    touches: tuple[Touch, ...]
    joined: Joined
    wires: tuple[tuple[Touch, ...], ...]  # of each name: the touches that beep in a whole cable, one for each conductor

    @property
    def column(self) -> dict[Touch, int]:
        """The column of a touch."""
        return {touch: i for i, touch in enumerate(self.touches)}


def line_up(
    ends: tuple[Connector, Connector], parts: Iterable[Part], shapes: Mapping[tuple[str, int], ShapeEntry]
) -> LineUp:
    """The suspects among the passive parts of the catalog with these two connectors, either way about."""
    faces = [(end.family, end.contacts) for end in ends]
    contacts = tuple(EndContact(e, c) for e, face in enumerate(faces) for c in _contacts(face, shapes))
    laid, kinds = _by_wiring(parts, faces, contacts)
    beside = _beside(faces, shapes)
    labels: list[Label] = []
    suspects: list[Suspect] = []
    for name, (label, part) in enumerate(laid.items()):
        for other, fault, prior in _variants(contacts, label, part, beside):
            labels.append(other)
            suspects.append(Suspect(name, fault, prior / len(laid) * (1 - NOT_IN_CATALOG)))
    touches = tuple(_ordered(a, b) for a, b in combinations(contacts, 2))
    index = {contact: i for i, contact in enumerate(contacts)}
    table = np.array(labels, dtype=np.int16).reshape(len(labels), len(contacts))
    first, second = ([index[t[k]] for t in touches] for k in (0, 1))
    joined = table[:, first] == table[:, second]
    wires = tuple(tuple(_ordered(w.a, w.b) for w in part.conductors) for part in laid.values())
    names = tuple(ids[0] for ids in kinds.values())
    alike = tuple(tuple(ids[1:]) for ids in kinds.values())
    return LineUp((faces[0], faces[1]), contacts, names, alike, tuple(suspects), touches, joined, wires)


def _by_wiring(
    parts: Iterable[Part], faces: list[tuple[str, int]], contacts: tuple[EndContact, ...]
) -> tuple[dict["Label", Part], dict["Label", list[str]]]:
    """For each wiring that is met, one part that has it, as it lies, and the ids of all that have it."""
    laid: dict[Label, Part] = {}
    kinds: dict[Label, list[str]] = {}
    ways = [(part.id, way) for part in parts for way in (part, part.turned()) if not way.active]
    for id_, way in ways:
        if [(e.connector.family, e.connector.contacts) for e in way.ends[:2]] == faces:
            label = _labels(contacts, [(w.a, w.b) for w in way.conductors])
            ids = kinds.setdefault(label, [])
            ids += [id_] if id_ not in ids else []
            laid.setdefault(label, way)
    return laid, kinds


def _contacts(face: tuple[str, int], shapes: Mapping[tuple[str, int], ShapeEntry]) -> list[str]:
    shape = shapes.get(face)
    return [c for row in shape.rows for c in row] if shape else [str(i + 1) for i in range(face[1])]


def _beside(faces: list[tuple[str, int]], shapes: Mapping[tuple[str, int], ShapeEntry]) -> set[Touch]:
    pairs = [(e, pair) for e, face in enumerate(faces) if face in shapes for pair in neighbours(shapes[face])]
    return {_ordered(EndContact(e, a), EndContact(e, b)) for e, (a, b) in pairs}


def _ordered(a: EndContact, b: EndContact) -> Touch:
    return (a, b) if a <= b else (b, a)


def _labels(contacts: tuple[EndContact, ...], wires: list[Touch]) -> Label:
    """Equal numbers for joined contacts: each the index of the first contact of its net."""
    label = {contact: i for i, contact in enumerate(contacts)}
    for a, b in wires:
        one, two = label.get(a), label.get(b)
        if one is not None and two is not None and one != two:
            low, high = min(one, two), max(one, two)
            label = {c: low if n == high else n for c, n in label.items()}
    return tuple(label[c] for c in contacts)


Variant = tuple[Label, CableFault | None, float]


def _variants(contacts: tuple[EndContact, ...], label: Label, part: Part, beside: set[Touch]) -> list[Variant]:
    """The cable whole, then each single fault with its share of the prior."""
    wires = [_ordered(w.a, w.b) for w in part.conductors]
    found: list[Variant] = [(label, None, WHOLE)]
    found += [
        (_labels(contacts, wires[:i] + wires[i + 1 :]), CableFault("open", f"{a}-{b}"), OPEN / len(wires))
        for i, (a, b) in enumerate(wires)
    ]
    return found + _swaps(contacts, label) + _shorts(contacts, label, beside)


def _swaps(contacts: tuple[EndContact, ...], label: Label) -> list[Variant]:
    """Two conductors exchanged at end B."""
    used = [i for i, c in enumerate(contacts) if c.end == 1 and label.count(label[i]) > 1]
    pairs = [(i, j) for i, j in combinations(used, 2) if label[i] != label[j]]
    made: list[Variant] = []
    for i, j in pairs:
        other = list(label)
        other[i], other[j] = other[j], other[i]
        made.append((tuple(other), CableFault("swapped", f"{contacts[i]}, {contacts[j]}"), SWAPPED / len(pairs)))
    return made


def _shorts(contacts: tuple[EndContact, ...], label: Label, beside: set[Touch]) -> list[Variant]:
    """Two nets joined that are apart; mostly neighbours of one connector."""
    nets: dict[tuple[int, int], tuple[Touch, bool]] = {}
    for i, j in combinations(range(len(contacts)), 2):
        key = (min(label[i], label[j]), max(label[i], label[j]))
        near = (contacts[i], contacts[j]) in beside
        alone = label.count(label[i]) == 1 and label.count(label[j]) == 1
        if key[0] != key[1] and not alone and (near or key not in nets) and not nets.get(key, ((), False))[1]:
            nets[key] = ((contacts[i], contacts[j]), near)
    close = sum(near for _, near in nets.values())
    made: list[Variant] = []
    for (low, high), ((a, b), near) in nets.items():
        share = NEIGHBOURS / close if near else (1 - NEIGHBOURS) / max(1, len(nets) - close)
        joined = tuple(low if n == high else n for n in label)
        made.append((joined, CableFault("short", f"{a}-{b}"), SHORT * share))
    return made
