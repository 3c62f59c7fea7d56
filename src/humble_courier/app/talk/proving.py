"""Proofs with a loop-back plug, and the timing of round trips."""

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from humble_courier import simulator
from humble_courier.app.port.opening import is_simulated
from humble_courier.app.talk.device_search import runner
from humble_courier.catalog.load import Catalog
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import printable
from humble_courier.errors import NotArmed
from humble_courier.port.authority import Authority
from humble_courier.port.log import LineLog
from humble_courier.port.permit import Permit
from humble_courier.port.port import open_port
from humble_courier.procedures.endurance import Endurance, Transfer
from humble_courier.procedures.latency import GoodFor, Latency
from humble_courier.procedures.loopback import RATES, LoopBack, LoopVerdict
from humble_courier.procedures.wake import wake
from humble_courier.protocols.iso14230 import FUNCTIONAL, RATE, FastStart

if TYPE_CHECKING:
    from humble_courier.records.store import Store

WORDS = {
    LoopVerdict.PROVEN: "Proven: port, driver and cable up to the plug carry data and both pairs of handshake lines.",
    LoopVerdict.DATA_ONLY: (
        "Proven for data: what is sent comes back. The handshake lines are not joined here, or this port has none."
    ),
    LoopVerdict.ERRORS: "It comes back with errors: a lower rate, a shorter cable, or another adapter.",
    LoopVerdict.NOTHING: "Nothing comes back: no plug there, or transmit or receive is open before it.",
    LoopVerdict.REFUSED: "The proof was broken off.",
    LoopVerdict.STOPPED: "Stopped before it was over: it proves nothing.",
}


@dataclass(frozen=True)
class Proven:
    """What a loop-back said."""

    loop: LoopBack
    endurance: Endurance | None

    @property
    def words(self) -> str:
        """The verdict in a sentence."""
        return WORDS[self.loop.verdict]

    @property
    def good(self) -> bool:
        """Whether data is proven, and the long transfer too where there was one."""
        whole = self.endurance is None or self.endurance.verdict[0] is Transfer.WHOLE
        return whole and self.loop.verdict in (LoopVerdict.PROVEN, LoopVerdict.DATA_ONLY)


def loop_back(
    address: str, armed: bool, rates: Sequence[int] | None = None, long: int = 0,
    before: Callable[[str], None] = lambda _: None, log: LineLog | None = None, authority: Authority | None = None,
) -> Proven:  # fmt: skip
    """Prove a port with a plug; `before` is told what will be sent, before it is. Raises NotArmed unless armed."""
    loop = LoopBack(address, rates or RATES)
    endurance = Endurance(address, Settings(max(loop.rates)), long) if long else None
    sends = f"{loop.says}" + (f", then {long} bytes" if long else "")
    authority = authority or Authority()
    permit = _allowed(armed, sends, before, authority)
    driver = runner([address], None, permit, log, authority, "the loop-back")
    driver.run(loop)
    loop.stopped = bool(authority.stopped)
    if (
        endurance is not None
        and not loop.stopped
        and loop.verdict in (LoopVerdict.PROVEN, LoopVerdict.DATA_ONLY, LoopVerdict.ERRORS)
    ):
        driver.run(endurance)
    return Proven(loop, endurance)


def measure(
    address: str, armed: bool, settings: Settings, say: bytes, times: int, catalog: Catalog,
    before: Callable[[str], None] = lambda _: None, log: LineLog | None = None, authority: Authority | None = None,
) -> tuple[Latency, list[GoodFor]]:  # fmt: skip
    """Time round trips, and hold them against what protocols wait for. Raises NotArmed unless armed."""
    timed = Latency(address, settings, say, times)
    authority = authority or Authority()
    permit = _allowed(armed, f"“{printable(say)}” {times} times", before, authority)
    runner([address], None, permit, log, authority, "the timing").run(timed)
    return timed, timed.good_for([(entry.name, entry.waits_ms) for entry in catalog.waits.values()])


def _allowed(armed: bool, sends: str, before: Callable[[str], None], authority: Authority) -> Permit:
    """A permit for a procedure that was asked for with --arm; what it sends is said first."""
    if not armed:
        raise NotArmed(f"listening only: would send {sends}", "Say --arm to send it; take the device off first")
    before(f"Sends {sends}.")
    return authority.permit(sends)


def answered_here(store: "Store", address: str) -> list[str]:
    """Devices that have answered at this port before, the newest last: as good as a plug, as far as port and driver go."""
    told = []
    for link_id, name in store.links():
        for proof in store.proofs(link_id)[-1:]:
            if proof.port == address.partition("?")[0]:
                told.append(
                    (proof.at, f"{name} at {proof.computer_settings}, {time.strftime('%Y-%m-%d', time.localtime(proof.at))}")
                )
    return [text for _, text in sorted(told)]


def fast_start(
    address: str, armed: bool, target: int = FUNCTIONAL, log: LineLog | None = None, authority: Authority | None = None
) -> FastStart:  # fmt: skip
    """Wake a controller on a K-line and ask it to begin; changes nothing stored. Raises NotArmed unless armed."""
    start = FastStart(target, functional=target == FUNCTIONAL)
    if not armed:
        raise NotArmed(f"listening only: would wake {target:02X} on the K-line and ask it to begin", "Say --arm to do it")
    if is_simulated(address):
        simulator.install()
    authority = authority or Authority()
    permit = authority.permit(f"the wake-up of {target:02X}")
    port = open_port(address, Settings(RATE), clock=authority.clock)
    if log is not None:
        log.begin(address.partition("?")[0], str(Settings(RATE)))
    try:
        wake(port, start, authority.clock, permit, log)
    except NotArmed:
        if not authority.stopped:
            raise
    finally:
        port.close()
        if log is not None:
            log.close()
    return start
