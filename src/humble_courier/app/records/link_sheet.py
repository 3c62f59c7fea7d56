"""The link sheet as data: what goes on paper."""

import time
from collections.abc import Sequence
from dataclasses import dataclass

from humble_courier.app.link.kept_files import kept_files
from humble_courier.app.link.notes import of_facts
from humble_courier.app.prepare.sheet_acts import acts
from humble_courier.app.wire.tracing import trace_link
from humble_courier.app.wire.wire_map import WireMap, wire_map
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.device import DeviceEntry
from humble_courier.documents.records import Proof, Word
from humble_courier.domain.facts import Fact
from humble_courier.domain.text import Terminator
from humble_courier.wiring.trace import Trace


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


def sheet(link: Link, catalog: Catalog, proof: Proof | None = None, name: str = "", facts: Sequence[Fact] = ()) -> Sheet:
    """What goes on paper for a link; with a proof, what was measured and when. `facts`: of the link, for what was noted."""
    trace = trace_link(link, catalog)
    rows = [*_of_the_chain(link, trace, proof), *(_of_the_sheet(link.sheet) if link.sheet else [])]
    if proof and proof.reason:
        rows.append(SheetRow("Proof", proof.reason, proof.grade))
    if proof:
        rows += [
            SheetRow(what.capitalize(), value, f"measured: {proof.kind} on the line")
            for what, value in proof.identity.items()
        ]
    rows += _noted(facts)
    wiring = wire_map(trace)
    cautions = tuple(act.caution for act in acts(link.sheet, catalog.cautions) if act.caution) if link.sheet else ()
    when = time.strftime("%Y-%m-%d %H:%M", time.localtime(proof.at)) if proof else "not proven yet"
    conductors = tuple(
        (text, wiring.nets[i].label or wiring.nets[i].state)
        for i, net in enumerate(trace.nets)
        if len(net.signals) > 1 and (text := wiring.nets[i].story)
    )
    return Sheet(
        title=name or link.model.name or (link.sheet.name if link.sheet else link.name),
        subtitle=f"proven {when}: {proof.kind}, {proof.grade}" if proof else f"{wiring.headline} · not proven yet",
        proven=proof is not None,
        rows=tuple(rows),
        conductors=conductors,
        words=tuple(proof.words) if proof else (),
        cautions=cautions,
        map=wiring,
    )


def _of_the_chain(link: Link, trace: Trace, proof: Proof | None) -> list[SheetRow]:
    """Port, parts, joints and settings, each with what it is known by."""
    known = {f.subject: f"{f.provenance}: {f.source}" for f in (proof.facts if proof else [])}
    port = proof.port if proof else (link.address or "not chosen").partition("?")[0]
    parts = [
        SheetRow(f"Part {i}", part.name + (f", {part.length_m:g} m" if part.length_m else ""), known.get(f"part {i}", ""))
        for i, part in enumerate(trace.chain.parts, start=1)
    ]
    joints = [
        SheetRow(f"Joint {j.index}", f"{j.near} into {j.far}", "does not mate" if j.reason else "")
        for j in trace.chain.joints
    ]
    ours, theirs = link.computer_settings, link.device_settings
    return [
        SheetRow("Port", port, known.get("port", "")),
        *parts,
        *joints,
        SheetRow("Computer set to", ours.spoken if ours else "unknown", known.get("computer settings", "")),
        SheetRow("Device set to", theirs.spoken if theirs else "unknown", known.get("device settings", "")),
    ]


def _noted(facts: Sequence[Fact]) -> list[SheetRow]:
    """Values that were noted, with the one before; names of the pictures and files."""
    rows = []
    for note in of_facts(facts).values():
        before = f"; before that {note.before[0].value}" if note.before else ""
        day = time.strftime("%Y-%m-%d", time.localtime(note.values[-1].at))
        rows.append(SheetRow(note.name[:1].upper() + note.name[1:], note.now + before, f"{note.values[-1].source}, {day}"))
    files = ", ".join(one.name for one in kept_files(facts))
    return rows + ([SheetRow("Pictures and files", files, "kept in the records")] if files else [])


def _of_the_sheet(sheet: DeviceEntry) -> list[SheetRow]:
    """Where it is set, how its lines end, and its first words."""
    return [
        SheetRow("Set by", sheet.port.set_by, sheet.edition),
        SheetRow("Lines end with", Terminator(sheet.end).spoken),
        *(SheetRow("First words", f"{words.say}: {words.means}", sheet.edition) for words in sheet.first_words),
    ]
