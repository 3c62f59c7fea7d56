"""`diagnose`, `checks` and `causes`: why a link does not work, and which check is worth most now."""

from pathlib import Path
from typing import Annotated

import typer

from humble_courier.app.diagnose.evidence_document import diagnosed, plan_of, read_evidence
from humble_courier.cli.context import catalog_of
from humble_courier.cli.options import Json
from humble_courier.cli.output import columns, line, print_json

SHOWN = 6  # causes that are printed; all stand in the document
SPEAKS = 0.3  # nats from which a fact is named


def diagnose(
    ctx: typer.Context,
    evidence: Annotated[Path, typer.Argument(help="An evidence/1 document.")],
    json: Json = False,
) -> None:
    """Which cause is likely, why, and the check or mend with the fewest expected minutes to a working link."""
    found = read_evidence(evidence, catalog_of(ctx))
    advice = found.advice()
    if json:
        print_json(diagnosed(found, advice))
    else:
        if found.may_damage:
            line("Caution: the wiring as drawn may damage something: put that right first; nothing is sent before.")
        line(advice.headline)
        first = advice.acts[0]
        if first.sends:
            line(f"  It sends {first.sends}.")
        if first.caution:
            line(f"  Caution: {first.caution}")
        for one in first.outcomes:
            leads = "the link works" if one.ends else ", ".join(f"{says} {p:.0%}" for says, p in one.leads)
            line(f"  {one.says} ({one.chance:.0%}): {leads}")
        line(f"Expected: {found.outlook():.0f} minutes. Likely plan: {', '.join(plan_of(found))}.")
        columns([(f"{c.probability:.0%}", c.code, c.says, c.mend) for c in advice.causes[:SHOWN]])
        for text, speaks in advice.causes[0].because:
            if abs(speaks) >= SPEAKS:
                line(f"  {'for' if speaks > 0 else 'against'} {advice.causes[0].code}: {text}")
    if advice.fits_none:
        raise typer.Exit(1)


def checks(ctx: typer.Context, json: Json = False) -> None:
    """What can be looked at when a link does not work, with the outcomes of each."""
    found = list(catalog_of(ctx).checks.values())
    if json:
        print_json({"checks": found})
    else:
        columns([(one.id, one.by, f"{one.minutes:g} min", ", ".join(one.outcomes), one.ask) for one in found])


def causes(ctx: typer.Context, json: Json = False) -> None:
    """Why a link may not work: where each cause sits, what mends it."""
    found = list(catalog_of(ctx).causes.values())
    if json:
        print_json({"causes": found})
    else:
        columns([(one.id, one.place, one.says, one.mend.act) for one in found])


COMMANDS = {"diagnose": diagnose, "checks": checks, "causes": causes}
