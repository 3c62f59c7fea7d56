"""What an utterance means, in a line for people, read as the protocol that the sheet names or that it looks like."""

from humble_courier.catalog.load import Catalog
from humble_courier.protocols.framer import Event
from humble_courier.protocols.kinds import Spoken, decoder

SHOWN = 2  # messages of one utterance that are told in full
LONGEST = 160


def spoken_named(protocol: str) -> Spoken | None:
    """The protocol that a sheet names, where it is one that can be read."""
    known = {one.value for one in Spoken} - {Spoken.TEXT.value}
    return Spoken(protocol) if protocol in known else None


def meaning(data: bytes, spoken: Spoken | None, catalog: Catalog) -> str:
    """What bytes say in a protocol; empty where they are plain text, or none is known."""
    if spoken is None:
        return ""
    machine = decoder(spoken, catalog.names)
    events = [e for e in [*machine.feed(data), *machine.end()] if e.kind not in ("empty", "idle", "done", "text")]
    if not any(event.ok for event in events):
        return ""
    told = [sentence(event) for event in events[:SHOWN]]
    if len(events) > SHOWN:
        told.append(f"and {len(events) - SHOWN} more")
    return "; ".join(told)[:LONGEST]


def sentence(event: Event) -> str:
    """One message in a few words."""
    f = event.fields
    if not event.ok:
        return event.why or event.kind
    match event.kind:
        case "sentence":
            rest = [
                f"{k.replace('_', ' ')} {v}" for k, v in f.items() if k not in ("sentence", "text", "talker", "formatter")
            ]
            return f"{f['sentence']}: {', '.join(rest)}" if rest else str(f["sentence"])
        case "answer" if "values" in f:
            return f"unit {f['unit']}: {', '.join(map(str, f['values']))}"
        case "request":
            return f"asks unit {f['unit']} to {f['what']}" if "unit" in f else f"asks: {f.get('what', '')}"
        case "packet" if "text" in f:
            return f"{f['from']} to {f['to']}: {f['text']}"
        case "group":
            return f"{f['controller']}: {f['group']}"
        case "message" if "parameters" in f:
            return f"{f['sender']}: {', '.join(p['name'] for p in f['parameters'])}"
        case "message" | "frame" if "what" in f:
            return f"{f.get('from', '')} to {f.get('to', '')}: {f['what']}".strip()
        case "numbers":
            return ", ".join(f"{value:g}" for value in f["values"])
        case "identity":
            return f"it is {f['maker']} {f['model']}, serial {f['serial']}, firmware {f['firmware']}"
    return event.why or " ".join(f"{k} {v}" for k, v in f.items() if k != "hex") or event.kind
