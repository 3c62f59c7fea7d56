"""Chains that were found, in the open format of `plan`."""

from typing import Any

from humble_courier.app.wire import build_table
from humble_courier.app.wire.planning import Planned
from humble_courier.app.wire.trace_document import findings
from humble_courier.wiring.planner.search import Plan


def planned(found: Planned) -> dict[str, Any]:
    """The answer of `plan`."""
    outcome = found.outcome
    return {
        "chains": [_chain(plan) for plan in outcome.plans],
        "nearest": _chain(outcome.nearest) if outcome.nearest else None,
        "complete": outcome.complete,
        "buy": [part.id for part in found.buy],
        "build": build_table.document(found.build) if found.build else None,
    }


def _chain(plan: Plan) -> dict[str, Any]:
    return {
        "parts": [offer.part.id for offer in plan.offers],
        "verdict": plan.trace.verdict,
        "cost": plan.cost,
        "findings": findings(plan.trace.findings),
    }
