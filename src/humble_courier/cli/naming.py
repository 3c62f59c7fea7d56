"""`identify` and `levels`: what a meter says about a cable and about a port."""

from pathlib import Path
from typing import Annotated, Any

import typer

from humble_courier.app.trade import open_catalog
from humble_courier.cli.options import Json
from humble_courier.cli.output import columns, line, print_json


def identify(
    readings: Annotated[Path, typer.Argument(help="CSV: from,to,result (beep, silent, or ohm).")],
    ends: Annotated[str, typer.Option(help="The two connectors seen.")] = "D9,D9",
    json: Json = False,
) -> None:
    """Name a cable from the beeps and silences of a meter, and say which two contacts to touch next."""
    from humble_courier.app.wire.meter import measured_cable

    bench = measured_cable(readings, ends, open_catalog())
    found, alike = bench.named(), bench.alike
    touch = found.next_touch
    document: dict[str, Any] = {
        "suspects": [
            {"cable": name, "probability": probability, "same_wiring": list(alike.get(name, ()))}
            for name, probability in found.suspects
        ],
        "next": {"from": str(touch[0]), "to": str(touch[1])} if touch else None,
        "faults": [{"code": f.code, "where": f.where, "probability": p} for f, p in found.faults],
        "named": found.name,
        "whole": found.whole,
        "readings": len(bench.readings),
        "contradictions": list(found.contradictions),
        "untouched": list(found.untouched),
        "connects": [f"{a}-{b}" for a, b in found.connects],
    }
    if json:
        print_json(document)
        return
    columns([(f"{p:7.1%}", name, *(["as " + ", ".join(alike[name])] if alike.get(name) else [""]))
             for name, p in found.suspects if p >= 0.001])  # fmt: skip
    for fault, probability in found.faults:
        line(f"{fault.code} at {fault.where} ({probability:.0%})")
    for text in found.contradictions:
        line(text)
    if touch:
        line(f"Touch {touch[0]} and {touch[1]} next.")
    elif found.proven:
        line(f"Proven whole ({found.whole:.1%}).")


def levels(
    readings: Annotated[Path, typer.Argument(help="CSV: contact,volts[,against].")],
    connector: Annotated[str, typer.Option(help="The connector that is measured.")] = "D9",
    json: Json = False,
) -> None:
    """Name a port by its idle voltages: DTE or DCE, the family of levels, and so straight or crossed."""
    from humble_courier.app.wire.meter import measured_port

    found = measured_port(readings, connector, open_catalog())
    if json:
        print_json({
            "role": found.role,
            "family": found.family,
            "probability": found.probability,
            "use": found.use,
            "talks": list(found.talks),
            "alive": found.alive,
            "findings": [{"code": r.code, "contact": r.contact, "text": r.text} for r in found.remarks],
        })  # fmt: skip
        return
    if found.role != "unknown":
        line(f"{found.role.upper()}, {found.family} ({found.probability:.0%}): use a {found.use} cable from a DTE computer.")
    else:
        line("Not certain yet: measure the data contacts against signal ground.")
    if found.talks:
        line("At rest as a transmitter is: contact " + ", ".join(found.talks))
    for remark in found.remarks:
        line(remark.text)


COMMANDS = {"identify": identify, "levels": levels}
