"""What an utterance means, in a line for people, read as the protocol that the sheet names or that it looks like."""

from humble_courier.catalog.load import Catalog
from humble_courier.protocols.registry import all_specs
from humble_courier.protocols.spec import ProtocolSpec

SHOWN = 2  # messages of one utterance that are told in full
LONGEST = 160  # characters
PLAIN = ("empty", "text", "idle", "done")  # kinds of events that say no more than the bytes do


def spec_of_sheet(protocol: str) -> ProtocolSpec | None:
    """The protocol that a sheet names, where it is one that says more than its text."""
    spec = all_specs().get(protocol)
    return None if spec is None or spec.id == "text" else spec


def meaning(data: bytes, spec: ProtocolSpec | None, catalog: Catalog) -> str:
    """What bytes say in a protocol; empty where they are plain text, or none is known."""
    if spec is None:
        return ""
    decoder = spec.decoder(catalog)
    events = [e for e in [*decoder.feed(data), *decoder.end()] if e.kind not in PLAIN]
    if not any(event.ok for event in events):
        return ""
    told = [spec.told(event) for event in events[:SHOWN]]
    if len(events) > SHOWN:
        told.append(f"and {len(events) - SHOWN} more")
    return "; ".join(told)[:LONGEST]
