"""`trace`: the wiring of a link file."""

import typer

from humble_courier.app.wire.trace_document import traced
from humble_courier.app.wire.tracing import Traced, trace_file
from humble_courier.cli.context import catalog_of
from humble_courier.cli.options import Json, LinkFile
from humble_courier.cli.output import line, print_json


def trace(ctx: typer.Context, link: LinkFile, json: Json = False) -> None:
    """Trace each conductor of a link and say whether it can work."""
    found = trace_file(link, catalog_of(ctx))
    if json:
        print_json(traced(found.trace))
    else:
        _print(found)
    if not found.trace.verdict.usable:
        raise typer.Exit(1)


def _print(found: Traced) -> None:
    result = found.trace
    line(f"{found.link.name}: {result.verdict}")
    line(found.headline)
    line(found.reason)
    for finding in result.findings:
        line(f"  {finding.where}: {finding.text} [{finding.code}]")
    line()
    for net, problem in zip(result.nets, result.problems, strict=True):
        if len(net.signals) > 1 or problem:
            line("  " + " – ".join(result.chain.spot_name(s) for s in net.spots) + (f"  [{problem}]" if problem else ""))
    line(f"  handshake lines: RTS/CTS {result.rts_cts}, DTR/DSR {result.dtr_dsr}")


COMMANDS = {"trace": trace}
