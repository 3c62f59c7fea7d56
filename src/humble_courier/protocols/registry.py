"""All protocols: each module of this room that has a `SPEC` is one. Which one a stream is, where nobody says."""

from collections.abc import Mapping
from difflib import get_close_matches
from functools import cache
from importlib import import_module
from pkgutil import iter_modules

from humble_courier import protocols
from humble_courier.errors import BadInput
from humble_courier.protocols.spec import Check, Facts, ProtocolSpec

FEWEST_BYTES = 6  # of which anything is guessed
SHARE = 0.7  # of the bytes that must lie in sound messages
DAMAGED = 0.5  # what a damaged message counts against a sound one


@cache
def all_specs() -> Mapping[str, ProtocolSpec]:
    """All protocols by id."""
    modules = (import_module(f"{protocols.__name__}.{info.name}") for info in iter_modules(protocols.__path__))
    specs = [module.SPEC for module in modules if hasattr(module, "SPEC")]
    return {spec.id: spec for spec in sorted(specs, key=lambda spec: spec.id)}


def spec_named(id_: str) -> ProtocolSpec:
    """A protocol by id; raises BadInput with the nearest ids."""
    specs = all_specs()
    if id_ not in specs:
        close = get_close_matches(id_, specs, n=2, cutoff=0.5)
        hint = f"did you mean {' or '.join(close)}?" if close else f"known are {', '.join(specs)}"
        raise BadInput(f"unknown protocol “{id_}”: {hint}")
    return specs[id_]


def looks_spoken(data: bytes, facts: Facts) -> ProtocolSpec | None:
    """The protocol that most of these bytes are sound messages of; None where there is none.

    A check that fits is no accident, so protocols are guessed by their checks; lines of text fit anything that is text.
    """
    if len(data) < FEWEST_BYTES:
        return None
    best, most = None, SHARE
    guessed = [spec for spec in all_specs().values() if spec.guess is not None]
    for spec in sorted(guessed, key=lambda spec: spec.guess or 0):
        share = sound_share(data, spec, facts)
        if share > most:
            best, most = spec, share
    return best


def sound_share(data: bytes, spec: ProtocolSpec, facts: Facts) -> float:
    """Share of the bytes that lie in messages, damaged ones counted half."""
    decoder = spec.decoder(facts)
    events = [event for event in [*decoder.feed(data), *decoder.end()] if event.kind not in spec.aside]
    fewest = 2 if spec.check is Check.WEAK else 1
    if sum(event.ok for event in events) < fewest:
        return 0.0
    return sum(event.size * (1.0 if event.ok else DAMAGED) for event in events) / len(data)
