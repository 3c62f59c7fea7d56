"""The document `evidence/1` read, and what is said of it in the open format of `diagnose`."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from humble_courier.app.diagnose.advice import Advice
from humble_courier.app.diagnose.diagnosis import ALWAYS, Diagnosis
from humble_courier.app.wire.tracing import trace_link
from humble_courier.catalog.links import read_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.evidence import EvidenceModel
from humble_courier.documents.reader import Document, convert, parse_kind, read_text
from humble_courier.errors import BadInput
from humble_courier.wiring.findings import Verdict

PLANNED = 5  # checks of the plan: as many as follow when each brings what is likeliest


def read_evidence(path: Path, catalog: Catalog) -> Diagnosis:
    """What was seen at a link, from a file. Raises BadInput with file, line and what was expected."""
    document = parse_kind(read_text(path), str(path), "evidence/1")
    model = convert(document, EvidenceModel)
    link = read_link(path.parent / model.link, catalog) if model.link is not None else None
    hand = ALWAYS if model.at_hand is None else frozenset()
    found = Diagnosis(link, catalog, hand, proven_before=any(fact.check == "compare" for fact in model.facts))
    if link is not None:
        verdict = trace_link(link, catalog).verdict
        found.told({"trace": verdict.value if verdict in (Verdict.WILL_NOT_WORK, Verdict.MAY_DAMAGE) else "works"})
    _fill(found, model, document)
    if found.may_simulate:
        found.use(found.simulate())
    return found


def _fill(found: Diagnosis, model: EvidenceModel, document: Document) -> None:
    for i, need in enumerate(model.at_hand or ()):
        _at(document, ("at_hand", i), partial(found.with_, need))
    for i, fact in enumerate(model.facts):
        _at(document, ("facts", i), partial(found.seen, fact.check, fact.outcome))
    for i, cause in enumerate(model.mended):
        _at(document, ("mended", i), partial(found.in_vain, cause))


def _at(document: Document, where: tuple[Any, ...], act: Callable[[], None]) -> None:
    try:
        act()
    except BadInput as error:
        raise document.error(error.text, where) from None


def plan_of(diagnosis: Diagnosis) -> list[str]:
    """The checks and mends that follow when each check brings what is likeliest, and each mend no answer."""
    case, found = diagnosis.case, []
    for _ in range(PLANNED):
        act = case.acts(diagnosis.at_hand, unable=diagnosis.barred)[0]
        found.append(act.check or act.cause)
        if not act.is_check:
            break
        likely = case.belief.outcomes(case.model.index(act.check))
        case = case.seen(act.check, list(case.model.checks[act.check].outcomes)[int(likely.argmax())])
    return found


def diagnosed(diagnosis: Diagnosis, advice: Advice) -> dict[str, Any]:
    """The answer of `diagnose`."""
    first = advice.acts[0]
    return {
        "causes": [
            {
                "code": one.code, "place": one.place, "says": one.says, "probability": round(one.probability, 4),
                "because": [{"fact": text, "speaks": round(speaks, 2)} for text, speaks in one.because],
                "mend": {"act": one.mend, "minutes": one.minutes, "caution": one.caution},
            }
            for one in advice.causes
        ],
        "next": {
            "check": first.code if first.is_check else None, "mend": None if first.is_check else first.code,
            "minutes": round(first.minutes, 2), "worth": round(first.saves, 2), "ask": first.ask,
            "outcomes": [
                {"outcome": o.id, "says": o.says, "probability": round(o.chance, 4), "ends": o.ends} for o in first.outcomes
            ],
            "by": first.by, "sends": first.sends, "needs": list(first.needs), "caution": first.caution,
        },
        "plan": plan_of(diagnosis),
        "expected_minutes": round(diagnosis.outlook(), 1),
        "fits_none": advice.fits_none,
        "stands_alone": advice.alone,
        "simulated": diagnosis.simulated,
    }  # fmt: skip
