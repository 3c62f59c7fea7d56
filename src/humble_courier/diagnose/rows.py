"""What each check of the program brings under each cause: tried on the simulated bench of this very link.

Theory of operation. For every cause that the bench can produce the check's own procedure (`asking`) runs in virtual time,
against the same receivers that predict garbling elsewhere, and its outcome is put into its class. One run decides where the
fault is always the same; noise gets several with a seed of their own. The row of a cause is compared with the healthy row
(`model`): where they are the same for each check, this cause cannot act here.
"""

from collections import Counter
from collections.abc import Callable, Mapping

from humble_courier.catalog.diagnose_entries import CauseEntry
from humble_courier.diagnose.asking import OwnCheck
from humble_courier.diagnose.bench_link import BenchLink
from humble_courier.diagnose.model import HEALTHY, Rows
from humble_courier.domain.clock import ManualClock
from humble_courier.domain.settings import Settings
from humble_courier.port.permit import Permit
from humble_courier.port.port import OpenLines
from humble_courier.procedures.runner import Runner
from humble_courier.simulator.bench import Bench
from humble_courier.simulator.devices.make import DEAD
from humble_courier.simulator.faults import APART, NOISE, REFUSED
from humble_courier.simulator.virtual_port import VirtualPort

BEGIN = 10_000.0  # of the clock; any time is as good
BUNDLE_S = 0.1  # what comes is looked at so often: only its class counts
SEEDS = 5  # runs of a fault that is not always the same
DEAF_BEYOND = 12.0  # ratio of rates from which on a device makes nothing of what comes
BEFORE_THE_LINE = {*REFUSED, "vanish", "loses-large", "slow-adapter"}  # of which nothing is seen there
SWITCHED_ON_S = 0.5


def rows_of(link: BenchLink, causes: Mapping[str, CauseEntry], lines: OpenLines) -> Rows:
    """The rows of all checks that can be tried; empty where the device cannot stand on a bench. About a second.

    `lines`: what DTR and RTS do when the port is opened.
    """
    if not link.simulated:
        return {}
    faults = {id_: _alike(one.fault) for id_, one in causes.items() if one.fault and one.fault not in BEFORE_THE_LINE}
    tried = {fault: _tried(link, fault, lines) for fault in ("", *dict.fromkeys(faults.values()))}
    if all(outcome == {"nothing": 1.0} for outcome in tried[""].values()):
        return {}  # it only hears, or is asked in a way that is not tried here: silence tells nothing of it
    named = {HEALTHY: "", **faults}
    return {check: {name: tried[fault][check] for name, fault in named.items()} for check in link.asking.checks()}


def _alike(fault: str) -> str:
    """Of faults that are one on the bench, one: nothing passes, or a device that neither hears nor speaks."""
    if fault in APART:
        return "unplugged"
    return "no-power" if fault in DEAD else fault


def _tried(link: BenchLink, fault: str, lines: OpenLines) -> dict[str, dict[str, float]]:
    seeds = range(SEEDS) if fault in NOISE else (1,)
    found = {}
    for check in link.asking.checks():
        counts = Counter(tried_once(link, fault, check, lines, seed) for seed in seeds)
        found[check] = {outcome: many / len(seeds) for outcome, many in counts.items()}
    return found


def tried_once(link: BenchLink, fault: str, check: str, lines: OpenLines, seed: int = 1) -> str:
    """The outcome of one check on a fresh bench with this fault."""
    clock, procedure = ManualClock(BEGIN), OwnCheck(link.asking, check)
    on = {"power_in_s": SWITCHED_ON_S} if check == "power-cycle" else {}
    bench = link.bench(BEGIN, fault, seed, **on)
    opens = _opens(bench, clock, lines)
    Runner(clock=clock, opens=opens, permit=Permit("a trial on the bench")).run(procedure)  # type: ignore[arg-type]
    return procedure.outcome


def _opens(bench: Bench, clock: ManualClock, lines: OpenLines) -> Callable[[str, Settings, OpenLines], VirtualPort]:
    def opened(address: str, settings: Settings, _: OpenLines) -> VirtualPort:
        port = VirtualPort(bench, clock, address, deaf_beyond=DEAF_BEYOND, bundle_s=BUNDLE_S)
        port.set_lines(lines.dtr, lines.rts, Permit("as the port is opened"))
        port.set(settings)
        return port

    return opened
