"""What each check of the program brings under each cause: tried on the simulated bench of this very link.

Theory of operation. For every cause that the bench can produce the check's own steps run in virtual time, against the same
receivers that predict garbling elsewhere, and their outcome is put into its class. One run decides where the fault is always
the same; noise gets several with a seed of their own. The row of a cause is compared with the healthy row (`model`): where
they are the same for each check, this cause cannot act here.
"""

from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace

from humble_courier.catalog.diagnose_entries import CauseEntry
from humble_courier.diagnose.bench_link import TEXT_SHARE, BenchLink
from humble_courier.diagnose.model import HEALTHY, Rows
from humble_courier.domain.clock import ManualClock
from humble_courier.domain.settings import Frame, Handshake, Settings
from humble_courier.domain.text import Terminator, share_of_text
from humble_courier.port.permit import Permit
from humble_courier.port.port import OpenLines
from humble_courier.procedures.device_search.probes import echoed
from humble_courier.procedures.runner import Runner
from humble_courier.procedures.steps import Outcome, Step
from humble_courier.simulator.bench import Bench
from humble_courier.simulator.devices.make import DEAD
from humble_courier.simulator.faults import APART, NOISE, REFUSED
from humble_courier.simulator.virtual_port import VirtualPort

BEGIN = 10_000.0  # of the clock; any time is as good
LISTENS_S, ASKS_S, WAITS_S = 3.0, 1.2, 8.0
ENOUGH = 200  # characters that tell what somebody says by himself
BUNDLE_S = 0.1  # what comes is looked at so often: only its class counts
SEEDS = 5  # runs of a fault that is not always the same
FRAMES = ("8N1", "7E1", "7O1", "8E1", "8O1")
RATES = (9600, 1200, 2400, 19200, 115200)
BEFORE_THE_LINE = {*REFUSED, "vanish", "loses-large", "slow-adapter"}  # of which nothing is seen there
ENDS = (Terminator.CR, Terminator.LF, Terminator.CRLF)


def rows_of(link: BenchLink, causes: Mapping[str, CauseEntry], lines: OpenLines) -> Rows:
    """The rows of all checks that can be tried; empty where the device cannot stand on a bench. About a second."""
    if not link.simulated:
        return {}
    faults = {id_: _alike(one.fault) for id_, one in causes.items() if one.fault and one.fault not in BEFORE_THE_LINE}
    tried = {fault: _tried(link, fault, lines) for fault in ("", *dict.fromkeys(faults.values()))}
    if all(outcome == {"nothing": 1.0} for outcome in tried[""].values()):
        return {}  # it only hears, or is asked in a way that is not tried here: silence tells nothing of it
    named = {HEALTHY: "", **faults}
    return {check: {name: tried[fault][check] for name, fault in named.items()} for check in _checks(link)}


def _alike(fault: str) -> str:
    """Of faults that are one on the bench, one: nothing passes, or a device that neither hears nor speaks."""
    if fault in APART:
        return "unplugged"
    return "no-power" if fault in DEAD else fault


def _checks(link: BenchLink) -> dict[str, Callable[["_Trial"], str]]:
    """Each check with how it is tried."""
    found: dict[str, Callable[[_Trial], str]] = {"listen": _Trial.listen, "power-cycle": _Trial.power_cycle}
    if link.question is None:
        return found
    found |= {"ask": _Trial.ask, "wait": _Trial.wait, "other-frames": _Trial.other_frames, "raise-lines": _Trial.raise_lines}
    found |= {"other-rates": _Trial.other_rates}
    if link.settings.handshake is not Handshake.NONE:
        found["handshake-off"] = _Trial.handshake_off
    return found | ({"other-endings": _Trial.other_endings} if link.question.text else {})


def _tried(link: BenchLink, fault: str, lines: OpenLines) -> dict[str, dict[str, float]]:
    seeds = range(SEEDS) if fault in NOISE else (1,)
    found = {}
    for check, tried in _checks(link).items():
        counts = Counter(tried(_Trial(link, fault, seed, lines)) for seed in seeds)
        found[check] = {outcome: many / len(seeds) for outcome, many in counts.items()}
    return found


class _Trial:
    """One check on one bench."""

    def __init__(self, link: BenchLink, fault: str, seed: int, lines: OpenLines) -> None:
        self._link, self._fault, self._seed, self._lines = link, fault, seed, lines

    def _run(self, steps: Iterator[Step], power_in_s: float | None = None) -> list[Outcome]:
        """Carry steps out until one is answered."""
        clock = ManualClock(BEGIN)
        bench = self._link.bench(BEGIN, self._fault, self._seed, *([] if power_in_s is None else [power_in_s]))
        runner = Runner(clock=clock, opens=self._opens(bench, clock), permit=Permit("a trial on the bench"))  # type: ignore[arg-type]
        found = []
        for step in steps:
            found.append(runner.carry_out(step))
            if self._answers(found[-1]):
                break
        runner.close()
        return found

    def _opens(self, bench: Bench, clock: ManualClock) -> Callable[[str, Settings, OpenLines], VirtualPort]:
        def opened(address: str, settings: Settings, _: OpenLines) -> VirtualPort:
            port = VirtualPort(bench, clock, address, deaf_beyond=12.0, bundle_s=BUNDLE_S)
            port.set_lines(self._lines.dtr, self._lines.rts, Permit("as the port is opened"))
            port.set(settings)
            return port

        return opened

    def _answers(self, outcome: Outcome) -> bool:
        question = self._link.question
        return question is not None and not outcome.doubtful and question.answered(outcome.data)

    def _asked(self, settings: Settings, words: tuple[bytes, ...] = (), seconds: float = ASKS_S) -> Iterator[Step]:
        assert self._link.question is not None, "only who is asked is tried so"
        for said in words or self._link.question.words:
            wait = seconds + len(said) * settings.character_s
            yield Step("bench", settings, said, wait, quiet_s=0.3 + 4 * settings.character_s)

    def _class(self, outcome: Outcome, said: bytes) -> str:
        data = outcome.data
        if not data:
            return "nothing"
        if self._answers(outcome):
            return "answer"
        if data == said or echoed(data, said):
            return "echo"
        damaged = outcome.doubtful * 4 > len(data) or (self._is_text and share_of_text(data) < TEXT_SHARE)
        return "garbled" if damaged else "part"

    @property
    def _is_text(self) -> bool:
        return self._link.question is not None and bool(self._link.question.text)

    def listen(self) -> str:
        """What comes by itself."""
        (outcome,) = self._run(
            iter([Step("bench", self._link.settings, seconds=LISTENS_S, quiet_s=LISTENS_S, enough=ENOUGH)])
        )
        return self._heard(outcome)

    def power_cycle(self) -> str:
        """What comes when it is switched on."""
        wait = self._link.power_up_s + LISTENS_S
        (outcome,) = self._run(
            iter([Step("bench", self._link.settings, seconds=wait, quiet_s=wait, enough=ENOUGH)]), power_in_s=0.5
        )
        return self._heard(outcome)

    def _heard(self, outcome: Outcome) -> str:
        if not outcome.data:
            return "nothing"
        return "clean" if outcome.doubtful * 8 <= len(outcome.data) and self._link.reads(outcome.data) else "garbled"

    def ask(self) -> str:
        """What comes when it is asked."""
        outcome = self._run(self._asked(self._link.settings))[-1]
        assert self._link.question is not None, "only who is asked is tried so"
        return self._class(outcome, self._link.question.words[-1])

    def wait(self) -> str:
        """Whether the answer comes later."""
        return self._whether(self._asked(self._link.settings, seconds=WAITS_S))

    def other_endings(self) -> str:
        """Whether it is answered with another end of line."""
        assert self._link.question is not None, "only lines have an end"
        words = tuple(word for end in ENDS for word in self._link.question.ended(end))
        return self._whether(self._asked(self._link.settings, words))

    def other_frames(self) -> str:
        """Whether it is answered in another frame."""
        at = [self._link.settings.with_frame(Frame.parse(frame)) for frame in FRAMES]
        return self._whether(step for settings in at for step in self._asked(settings, self._link.question_anew))

    def other_rates(self) -> str:
        """Whether it is answered at another rate."""
        rate = self._link.settings.rate
        rates = dict.fromkeys((rate // 2, rate * 2, *RATES))
        at = [replace(self._link.settings, rate=one) for one in rates if one != rate]
        return self._whether(step for settings in at for step in self._asked(settings, self._link.question_anew))

    def raise_lines(self) -> str:
        """Whether it is answered with DTR and RTS up."""
        return self._whether(replace(step, lines=(True, True)) for step in self._asked(self._link.settings))

    def handshake_off(self) -> str:
        """Whether it works without handshake."""
        settings = replace(self._link.settings, handshake=Handshake.NONE)
        return "works" if self._whether(self._asked(settings)) == "answer" else "same"

    def _whether(self, steps: Iterator[Step]) -> str:
        return "answer" if self._answers(self._run(steps)[-1]) else "nothing"
