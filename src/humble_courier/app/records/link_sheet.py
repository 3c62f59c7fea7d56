"""The link sheet as data: what goes on paper."""

import time
from dataclasses import dataclass

from humble_courier.app.wire.tracing import trace_link
from humble_courier.app.wire.wire_map import WireMap, wire_map
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.records import Proof, Word


@dataclass(frozen=True)
class SheetRow:
    """A line of the sheet: what, value, and by what it is known."""

    what: str
    value: str
    known_by: str = ""


@dataclass(frozen=True)
class Sheet:
    """The link sheet as data; the window's room lays it out on paper."""

    title: str
    subtitle: str
    proven: bool
    rows: tuple[SheetRow, ...]
    conductors: tuple[tuple[str, str], ...]
    words: tuple[Word, ...]
    cautions: tuple[str, ...]
    map: WireMap


def sheet(link: Link, catalog: Catalog, proof: Proof | None = None, name: str = "") -> Sheet:
    """What goes on paper for a link; with a proof, what was measured and when."""
    trace = trace_link(link, catalog)
    known = {f.subject: f"{f.provenance}: {f.source}" for f in (proof.facts if proof else [])}
    rows = [
        SheetRow("Port", proof.port if proof else (link.address or "not chosen").partition("?")[0], known.get("port", "")),
        *(
            SheetRow(f"Part {i}", part.name + (f", {part.length_m:g} m" if part.length_m else ""),
                     known.get(f"part {i}", ""))
            for i, part in enumerate(trace.chain.parts, start=1)
        ),
        *(
            SheetRow(f"Joint {j.index}", f"{j.near} into {j.far}", "does not mate" if j.reason else "")
            for j in trace.chain.joints
        ),
        SheetRow("Computer set to", link.computer_settings.spoken if link.computer_settings else "unknown",
            known.get("computer settings", "")),
        SheetRow("Device set to", link.device_settings.spoken if link.device_settings else "unknown",
            known.get("device settings", "")),
    ]  # fmt: skip
    if link.sheet:
        rows += [
            SheetRow("Set by", link.sheet.port.set_by, link.sheet.edition),
            SheetRow("Lines end with", link.sheet.end.upper()),
        ]
        rows += [SheetRow("First words", f"{w.say}: {w.means}", link.sheet.edition) for w in link.sheet.first_words]
    if proof:
        rows += [
            SheetRow(name.capitalize(), value, "measured: answer on the line") for name, value in proof.identity.items()
        ]
    wiring = wire_map(trace)
    acts = link.sheet.preconditions if link.sheet else []
    cautions = tuple(catalog.cautions[act.caution].text for act in acts if act.caution)
    when = time.strftime("%Y-%m-%d %H:%M", time.localtime(proof.at)) if proof else "not proven yet"
    conductors = tuple(
        (text, wiring.nets[i].label or wiring.nets[i].state)
        for i, net in enumerate(trace.nets)
        if len(net.signals) > 1 and (text := wiring.nets[i].story)
    )
    return Sheet(
        title=name or link.model.name or (link.sheet.name if link.sheet else link.name),
        subtitle=f"proven {when}" if proof else f"{wiring.headline} · not proven yet",
        proven=proof is not None,
        rows=tuple(rows),
        conductors=conductors,
        words=tuple(proof.words) if proof else (),
        cautions=cautions,
        map=wiring,
    )
