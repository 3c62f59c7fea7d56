"""The build sheet in open formats: a document for programs, a CSV for the workshop."""

from typing import Any

from humble_courier.app.files import csv_bytes
from humble_courier.app.wire.planning import Build
from humble_courier.wiring.build import BuildSheet


def document(build: Build) -> dict[str, Any]:
    """The build sheet as plain data."""
    sheet = build.sheet
    return {
        "before": [part.id for part in build.before],
        "ends": [
            {"family": c.family, "contacts": c.contacts, "gender": str(c.gender)} for c in (sheet.a, sheet.b)
        ],
        "wires": [
            {"from": f"A{w.a}" if w.a.isdecimal() else f"A:{w.a}", "to": f"B{w.b}" if w.b.isdecimal() else f"B:{w.b}",
             "signals": [w.at_a, w.at_b], "colour": w.colour, "pair": w.pair}
            for w in sheet.wires
        ],
        "conductors": [str(wire) for wire in sheet.part().conductors],
        "screen": sheet.screen, "advice": list(build.advice),
        "unconnected": [{"end": o.end, "contact": o.contact, "signal": o.signal, "why": o.why} for o in sheet.open],
        "acceptance": {"beep": [list(pair) for pair in sheet.beep], "silent": [list(pair) for pair in sheet.silent]},
        "verdict": build.trace.verdict,
        "findings": [
            {"code": f.code, "severity": f.severity, "text": f.text, "where": f.where} for f in build.trace.findings
        ],
    }  # fmt: skip


def table(sheet: BuildSheet) -> bytes:
    """Wire list and acceptance table as CSV (RFC 4180); cells that a spreadsheet would compute are made harmless."""
    rows: list[tuple[object, ...]] = [("kind", "from", "to", "signal at A", "signal at B", "colour", "pair", "note")]
    rows += [("wire", f"A {w.a}", f"B {w.b}", w.at_a, w.at_b, w.colour, w.pair or "", "") for w in sheet.wires]
    rows += [("open", f"{o.end} {o.contact}", "", o.signal, "", "", "", o.why) for o in sheet.open]
    rows.append(("screen", "A shell", "", "", "", "", "", sheet.screen))
    for kind, pairs in (("must beep", sheet.beep), ("must be silent", sheet.silent)):
        rows += [(kind, a, b, "", "", "", "", "") for a, b in pairs]
    return csv_bytes(rows)
