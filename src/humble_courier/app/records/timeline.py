"""A link over time: when it was proven and failed, and for how long each adapter, cable, setting and firmware was in use."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from humble_courier.app.records.comparing import Changed, changed, state_then
from humble_courier.documents.records import Proof

LANES = ("adapter", "socket", "cable", "settings")  # in the order in which they are drawn; what the device tells comes after


@dataclass(frozen=True)
class Span:
    """One thing that stayed as it was from a proof to the last one that showed it so. Seconds since the epoch."""

    begun: float
    ended: float
    text: str


@dataclass(frozen=True)
class Timeline:
    """`events`: when, whether it was proven, what was said. `lanes`: by name, spans in their order."""

    events: tuple[tuple[float, bool, str], ...]
    lanes: tuple[tuple[str, tuple[Span, ...]], ...]

    @property
    def begun(self) -> float:
        """The first moment that is told of."""
        return min((at for at, _, _ in self.events), default=0.0)

    @property
    def ended(self) -> float:
        """The last one."""
        return max((at for at, _, _ in self.events), default=0.0)


def timeline(proofs: Sequence[Proof], events: Iterable[tuple[float, bool, str]]) -> Timeline:
    """Out of the proofs of one link, and of what became of it."""
    ordered = sorted(proofs, key=lambda proof: proof.at)
    told: dict[str, list[Span]] = {}
    for proof in ordered:
        for lane, text in _values(proof):
            spans = told.setdefault(lane, [])
            if spans and spans[-1].text == text:
                spans[-1] = Span(spans[-1].begun, proof.at, text)
            else:
                spans.append(Span(proof.at, proof.at, text))
    lanes = sorted(told.items(), key=lambda pair: LANES.index(pair[0]) if pair[0] in LANES else len(LANES))
    return Timeline(tuple(sorted(events)), tuple((lane, tuple(spans)) for lane, spans in lanes))


def _values(proof: Proof) -> list[tuple[str, str]]:
    """What a proof says of each lane; nothing of what it does not know."""
    made = [
        ("adapter", proof.serial or (proof.adapter if proof.adapter != "none" else "")), ("socket", proof.socket),
        ("cable", " – ".join(part for part in proof.chain if part != proof.adapter)), ("settings", proof.computer_settings),
        *proof.identity.items(),
    ]  # fmt: skip
    return [(lane, text) for lane, text in made if text]


def between(proofs: Sequence[Proof], at: float) -> tuple[Proof | None, list[Changed]]:
    """The proof at a moment (or the one before it), and what it had otherwise than the proof before that one."""
    ordered = sorted(proofs, key=lambda proof: proof.at)
    number = max((n for n, proof in enumerate(ordered) if proof.at <= at), default=None)
    if number is None:
        return None, []
    chosen = ordered[number]
    return chosen, changed(state_then(ordered[number - 1]), state_then(chosen)) if number else []
