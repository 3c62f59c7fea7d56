"""`prove`: whether the link of a file carries meaning, and how strong that is."""

from typing import TYPE_CHECKING, Annotated, Any

import typer

from humble_courier.cli.context import catalog_of, log_of, of, records_at
from humble_courier.cli.options import Json, LinkFile
from humble_courier.cli.output import error_line, line, print_json

if TYPE_CHECKING:
    from humble_courier.app.link.proof_run import ProofRun


def prove(
    ctx: typer.Context,
    link: LinkFile,
    arm: Annotated[bool, typer.Option("--arm", help="Allow its first words. Without it nothing is sent.")] = False,
    seconds: Annotated[float, typer.Option(min=0.1, max=86_400, help="How long at most.")] = 15.0,
    keep: Annotated[bool, typer.Option("--keep", help="Keep the proof in the records.")] = False,
    json: Json = False,
) -> None:
    """Prove a link: listen, wait as its sheet says, and with --arm say its first words."""
    from humble_courier.app.link.proof_run import of_file
    from humble_courier.app.records.keeping import keep_run

    tell = error_line if json else line
    run = of_file(link, catalog_of(ctx), log_of(ctx, "prove"), arm, seconds, tell, of(ctx).authority)
    for act in run.first_done if arm else ():
        tell(f"Before that, at the device: {act}")
    if arm:
        tell(f"May send: {run.says}.")
    run.run()
    number = keep_run(records_at(ctx), link.stem, run) if keep and run.shown is not None else None
    if json:
        print_json(_document(run, number))
    else:
        _print(run, number)
    if run.shown is None:
        raise typer.Exit(1)


def _document(run: "ProofRun", number: int | None) -> dict[str, Any]:
    shown, begun = run.shown, run.utterances[0].start if run.utterances else 0.0
    return {
        "proven": shown is not None,
        "kind": None if shown is None else shown.kind,
        "grade": None if shown is None else shown.grade,
        "reason": "" if shown is None else shown.reason,
        "stronger": "" if shown is None else shown.stronger,
        "identity": {} if shown is None else dict(shown.identity),
        "settings": str(run.link.computer_settings or ""),
        "end": run.link.end,
        "words": [
            {"who": u.who.value, "text": u.text, "hex": u.data.hex(), "ms": round((u.start - begun) * 1000)}
            for u in run.utterances
        ],
        "answer_ms": run.evidence.answer_ms,
        "why_not": run.why_not,
        "proof": number,
        "log": str(run.log.path),
    }


def _print(run: "ProofRun", number: int | None) -> None:
    shown = run.shown
    for one in run.utterances:
        line(f"{'said ' if one.who.value == 'we' else 'heard'}  {one.text}" + (f"  ({one.meaning})" if one.meaning else ""))
    if shown is None:
        line(f"Not proven: {', '.join(why.value.replace('-', ' ') for why in run.why_not)}.")
    else:
        line(f"Proven, {shown.kind.value}, {shown.grade.value}: {shown.reason}.")
        for name, value in shown.identity.items():
            line(f"  {name}: {value}")
        if shown.stronger:
            line(f"Stronger: {shown.stronger}.")
    if number is not None:
        line(f"Proof {number} is in the record.")
    line(f"Kept in {run.log.path}.")


COMMANDS = {"prove": prove}
