"""`trace`: the wiring of a link file."""

from pathlib import Path
from typing import Annotated, Any

import typer

from humble_courier.app.wire.tracing import trace_link
from humble_courier.app.wire.wire_map import sentence
from humble_courier.catalog.links import Link, read_link
from humble_courier.catalog.load import Catalog
from humble_courier.cli.output import line, print_json
from humble_courier.wiring.findings import Verdict
from humble_courier.wiring.length import Stretch
from humble_courier.wiring.paths import Carried
from humble_courier.wiring.trace import Trace

Json = Annotated[bool, typer.Option("--json", help="One JSON document on standard output.")]


def trace(link: Annotated[Path, typer.Argument(help="A link/1 document.")], json: Json = False) -> None:
    """Trace each conductor of a link and say whether it can work."""
    catalog = Catalog()
    found = read_link(link, catalog)
    result = trace_link(found, catalog)
    if json:
        print_json(document(result))
    else:
        _print(found, result)
    if result.verdict in (Verdict.WILL_NOT_WORK, Verdict.MAY_DAMAGE):
        raise typer.Exit(1)


def document(result: Trace) -> dict[str, Any]:
    """The result in the open format of `trace`."""
    names = result.chain.spot_name
    nets = [
        {
            "contacts": [names(spot) for spot in net.spots],
            "signals": [f"{result.chain.place(spot.node)} {signal.name}" for spot, signal in net.signals],
            "problem": problem,
        }
        for net, problem in zip(result.nets, result.problems, strict=True)
    ]
    findings = [{"code": f.code, "severity": f.severity, "text": f.text, "where": f.where} for f in result.findings]
    return {
        "verdict": result.verdict,
        "nets": nets,
        "findings": findings,
        "handshake": {
            "rts_cts": result.rts_cts is Carried.THROUGH,
            "dtr_dsr": result.dtr_dsr is Carried.THROUGH,
        },
        "lengths": [_length(stretch) for stretch in result.stretches],
        "handshake_wiring": {"rts_cts": result.rts_cts, "dtr_dsr": result.dtr_dsr},
    }


def _length(stretch: Stretch) -> dict[str, Any]:
    """Figures of one stretch of cable; keys end with their unit."""
    return {
        "level": stretch.level,
        "length_m": stretch.length_m,
        "limit_m": stretch.limit_m,
        "rate": stretch.rate,
        "capacitance_pf": stretch.capacitance_pf,
        "loop_ohm": stretch.loop_ohm,
        "idle_v": stretch.idle_v,
        "load_ohm": stretch.load_ohm if stretch.load_ohm != float("inf") else None,
        "loop_left_v": stretch.loop_left_v,
    }


def _print(found: Link, result: Trace) -> None:
    headline, reason = sentence(result)
    line(f"{found.name}: {result.verdict}")
    line(headline)
    line(reason)
    for finding in result.findings:
        line(f"  {finding.where}: {finding.text} [{finding.code}]")
    line()
    for net, problem in zip(result.nets, result.problems, strict=True):
        if len(net.signals) > 1 or problem:
            line("  " + " – ".join(result.chain.spot_name(s) for s in net.spots) + (f"  [{problem}]" if problem else ""))
    line(f"  handshake lines: RTS/CTS {result.rts_cts}, DTR/DSR {result.dtr_dsr}")
