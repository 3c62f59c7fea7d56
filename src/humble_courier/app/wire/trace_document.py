"""The verdict on a wiring, in the open format of `trace`."""

from typing import Any

from humble_courier.wiring.findings import Finding
from humble_courier.wiring.length import Stretch
from humble_courier.wiring.paths import Carried
from humble_courier.wiring.trace import Trace


def findings(found: tuple[Finding, ...]) -> list[dict[str, Any]]:
    """Findings, the worst first."""
    return [{"code": f.code, "severity": f.severity, "text": f.text, "where": f.where} for f in found]


def traced(result: Trace) -> dict[str, Any]:
    """The answer of `trace`."""
    names = result.chain.spot_name
    nets = [
        {
            "contacts": [names(spot) for spot in net.spots],
            "signals": [f"{result.chain.place(spot.node)} {signal.name}" for spot, signal in net.signals],
            "problem": problem,
        }
        for net, problem in zip(result.nets, result.problems, strict=True)
    ]
    return {
        "verdict": result.verdict,
        "nets": nets,
        "findings": findings(result.findings),
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
