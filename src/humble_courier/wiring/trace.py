"""Trace and verdict: each net judged, each mistake with its place on the line, and whether the link can work.

Theory of operation. `nets` joins all contacts of a chain that are one conductor, `paths` tells for each input who
drives it and whether that can be read. This module only puts that into words: it goes over the joints, what may do damage
(`harm`), the grounds of each segment, and each net in turn (levels, senders, listeners, legs of pairs), and writes a
`Finding` with a published code, a severity and the place where a person has to act. The verdict is the worst severity that
was found. What follows from a mistake is not told again: ports behind a joint that does not mate are `dead`, and their
open inputs are its fault alone.
"""

from dataclasses import dataclass

from humble_courier.domain.settings import Handshake
from humble_courier.domain.signals import DTR_DSR, RTS_CTS, Direction, Role, Signal
from humble_courier.wiring.findings import Finding, Severity, Verdict, ordered, verdict
from humble_courier.wiring.harm import Harm
from humble_courier.wiring.length import Around, Stretch, stretches
from humble_courier.wiring.levels import LevelFit, Levels, fit, leg
from humble_courier.wiring.nets import Chain, Net, Spot
from humble_courier.wiring.pairs import judge_loop_back, loops, split_pairs
from humble_courier.wiring.paths import Carried, Paths, Segment


@dataclass(frozen=True)
class Trace:
    """The result for a chain: verdict, nets with their problem (a code, or None), findings, handshakes carried."""

    chain: Chain
    paths: Paths
    verdict: Verdict
    problems: tuple[str | None, ...]
    findings: tuple[Finding, ...]
    rts_cts: Carried
    dtr_dsr: Carried
    stretches: tuple[Stretch, ...] = ()

    @property
    def nets(self) -> tuple[Net, ...]:
        """The nets, in the order of `problems`."""
        return self.chain.nets


def trace(chain: Chain, levels: Levels, asked: frozenset[Handshake] = frozenset(), around: Around | None = None) -> Trace:
    """Judge a chain. `asked` holds the handshakes that the settings of either end want; `around` what surrounds the line.

    Hardware handshake that is not asked for is no finding. Without `around` lengths are not judged.
    """
    paths = Paths(chain, levels)
    judge = _Judge(paths, asked)
    found = judge.run()
    lengths = stretches(paths, around) if around is not None else ()
    findings = ordered(found + [finding for stretch in lengths for finding in stretch.findings])
    last = paths.segments[-1]
    return Trace(
        chain, paths, verdict(findings), tuple(judge.problems), tuple(findings),
        paths.handshake(last, RTS_CTS), paths.handshake(last, DTR_DSR), lengths,
    )  # fmt: skip


class _Judge:
    """Collects findings over one chain; lives for one call of `trace`."""

    def __init__(self, paths: Paths, asked: frozenset[Handshake]) -> None:
        self.paths, self.chain, self.levels = paths, paths.chain, paths.levels
        self.asked_lines = frozenset(
            line
            for handshake, lines in ((Handshake.RTS_CTS, RTS_CTS), (Handshake.DTR_DSR, DTR_DSR - {"DCD"}))
            if handshake in asked
            for line in lines
        )
        self.harm = Harm(self.chain, paths.levels, self._who, self._joint_before)
        self.problems: list[str | None] = [None] * len(self.chain.nets)
        self.findings: list[Finding] = []
        self.dead = {
            (node, end) for s in paths.segments if not paths.mates(s) for node, end in (s.near, s.far)
        }  # ports behind a joint that does not mate: their open inputs are its fault alone

    def run(self) -> list[Finding]:
        self._joints()
        for i, net in enumerate(self.chain.nets):
            for finding in self.harm.judge(i, net):
                self._add(finding)
            self._levels(i, net)
        if self.chain.device.loops and not self.chain.device.signals:
            return [*self.findings, *judge_loop_back(self.paths)]
        for segment in self.paths.segments:
            if self.paths.mates(segment):
                self._ground(segment)
        for i, net in enumerate(self.chain.nets):
            self._senders(i, net)
            self._listeners(i, net)
            self._legs(i, net)
        for finding in (*loops(self.paths), *split_pairs(self.paths)):
            self._add(finding)
        self._nothing_at_all()
        self._handshakes_as_a_whole()
        return self.findings

    def _joints(self) -> None:
        for joint in self.chain.joints:
            place = f"joint:{joint.index}"
            if joint.reason:
                self._find("does-not-mate", Severity.ERROR, f"does not mate: {joint.reason}", place)
            elif fixed := joint.near.why_not_fixed(joint.far):
                self._find("does-not-mate", Severity.NOTE, fixed, place)

    def _nothing_at_all(self) -> None:
        """Ports whose signals do not meet at all, as when a device's contacts are not written down."""
        last = self.paths.segments[-1]
        errors = any(f.severity in (Severity.ERROR, Severity.DAMAGE) for f in self.findings)
        if not errors and not any(self.paths.hears(last, key) for key in (last.near, last.far)):
            text = "no data conductor joins the two ends: nobody hears anybody"
            self._find("input-undriven", Severity.ERROR, text, f"joint:{self.chain.last}")

    def _handshakes_as_a_whole(self) -> None:
        """A handshake that was asked for and does not go through is told even where no single input stands out."""
        if any(f.severity is not Severity.NOTE for f in self.findings):
            return
        last = self.paths.segments[-1]
        for group in (RTS_CTS, DTR_DSR):
            if self.asked_lines & group and self.paths.handshake(last, group) is not Carried.THROUGH:
                names = " and ".join(sorted(self.asked_lines & group))
                text = f"{names} do not reach each other"
                self._find("handshake-open", Severity.HANDSHAKE, text, f"joint:{self.chain.last}")

    def _find(self, code: str, severity: Severity, text: str, where: str, net: int | None = None) -> None:
        self._add(Finding(code, severity, text, where, net))

    def _add(self, finding: Finding) -> None:
        self.findings.append(finding)
        if finding.net is not None and self.problems[finding.net] is None:
            self.problems[finding.net] = finding.code

    def _who(self, spot: Spot, signal: Signal) -> str:
        return f"{self.chain.name(spot.node)} {signal.name} (contact {spot.contact})"

    def _joint_before(self, spot: Spot) -> str:
        """The joint through which a conductor from the computer enters the port of `spot`."""
        return f"joint:{max(1, spot.node if spot.end == 0 else spot.node + 1)}"

    def _ground(self, segment: Segment) -> None:
        if self.paths.grounded(segment):
            return
        kinds = {self.levels[s.level].signalling for key in (segment.near, segment.far) for _, s in self.paths.signals(key)}
        if kinds & {"single-ended", "packet"}:
            text, severity = "no signal ground between the two ends: no level has a meaning", Severity.ERROR
        elif kinds & {"differential", "dominant"}:
            text, severity = "no signal ground: the pair may drift out of the common-mode range", Severity.NOTE
        else:
            return
        self._find("no-signal-ground", severity, text, f"joint:{segment.far[0]}")

    def _levels(self, i: int, net: Net) -> None:
        drivers = [(p, s) for p, s in net.signals if s.drives and s.role in (Role.DATA, Role.HANDSHAKE)]
        for place, driver in drivers:
            for spot, signal in net.signals:
                if spot == place or signal.role not in (Role.DATA, Role.HANDSHAKE):
                    continue
                result = fit(self.levels, driver.level, signal.level)
                out, into = self.levels[driver.level], self.levels[signal.level]
                where = self._joint_before(max(place, spot))
                if result is LevelFit.DAMAGE:
                    text = f"{self._who(place, driver)} sends {out.name}, more than {self._who(spot, signal)} stands"
                    limit = f" ({into.survives.low:g} to {into.survives.high:g} V)"
                    self._find("level-damage", Severity.DAMAGE, text + limit, where, i)
                elif result is LevelFit.MISMATCH and signal.hears and self._matters(signal):
                    text = f"{self._who(spot, signal)} reads {into.name}, but {out.name} arrives"
                    self._find("level-mismatch", self._weight(signal), text, where, i)

    def _matters(self, signal: Signal) -> bool:
        return signal.role is Role.DATA or signal.name.upper() in self.asked_lines

    def _weight(self, signal: Signal) -> Severity:
        return Severity.ERROR if signal.role is Role.DATA else Severity.HANDSHAKE

    def _senders(self, i: int, net: Net) -> None:
        outputs = [(p, s) for p, s in net.signals if s.direction is Direction.OUT and s.role is not Role.POWER]
        grounds = [p for p, s in net.signals if s.role is Role.GROUND]
        if len(outputs) < 2 and not (outputs and grounds):
            return
        self.problems[i] = self.problems[i] or "output-meets-output"
        mattering = sorted((s for _, s in outputs if self._matters(s)), key=lambda s: s.role is not Role.DATA)
        if not mattering:
            return
        worst = mattering[0]
        if len(outputs) < 2:
            text = f"{self._who(*outputs[0])} is tied to ground"
        else:
            text = "two senders meet: " + " and ".join(self._who(p, s) for p, s in outputs[:2])
        where = self._joint_before(max(p for p, _ in outputs))
        self._find("output-meets-output", self._weight(worst), text, where, i)

    def _listeners(self, i: int, net: Net) -> None:
        told = False  # two listeners on one net lack the same sender: told once
        for spot, signal in net.signals:
            if not signal.hears or signal.role not in (Role.DATA, Role.HANDSHAKE) or (spot.node, spot.end) in self.dead:
                continue
            drivers = self.paths.drivers(spot)
            foreign = [(p, s) for p, s in drivers if (p.node, p.end) != (spot.node, spot.end)]
            if signal.role is Role.DATA and not any(s.role is Role.DATA for _, s in foreign):
                told = told or self._undriven(i, spot, signal, drivers)
            elif signal.role is Role.HANDSHAKE and signal.name.upper() in self.asked_lines:
                self._handshake(i, spot, signal, drivers, foreign)
            elif not drivers:
                self.problems[i] = self.problems[i] or "input-undriven"

    def _undriven(self, i: int, spot: Spot, signal: Signal, drivers: list[tuple[Spot, Signal]]) -> bool:
        others = self._other_ports(spot)
        if not any(s.role is Role.DATA for key in others for _, s in self.paths.signals(key) if s.drives):
            return False  # the far end has no sender at all: nothing is missing in the wiring
        if (spot, signal) not in self.paths.data_inputs((spot.node, spot.end), others):
            return False  # another bus of the same socket
        why = "nobody sends to it"
        if drivers:
            why = f"it is joined with {self._who(*drivers[0])} instead of a sender"
        self._find(
            "input-undriven", Severity.ERROR, f"{self._who(spot, signal)} listens, but {why}", self._end_of(i, spot), i
        )
        return True

    def _other_ports(self, spot: Spot) -> list[tuple[int, int]]:
        key = (spot.node, spot.end)
        return [s.far if s.near == key else s.near for s in self.paths.segments if key in (s.near, s.far)]

    def _end_of(self, i: int, spot: Spot) -> str:
        """The place where the conductor that begins at `spot` goes no further."""
        nodes = [s.node for s in self.chain.nets[i].spots]
        backwards = spot.end == 0 and spot.node > 0
        end = min(nodes) if backwards else max(nodes)
        if end == spot.node:
            return self._joint_before(spot)
        holds_port = any(e.signals for e in self.chain.ends(end))
        if not holds_port:
            return self.chain.place(end)
        return f"joint:{end + 1 if backwards else end}"

    def _handshake(
        self, i: int, spot: Spot, signal: Signal, drivers: list[tuple[Spot, Signal]], foreign: list[tuple[Spot, Signal]]
    ) -> None:
        place = self._end_of(i, spot)
        if not drivers:
            text = f"{self._who(spot, signal)} is open: nobody can say “go on”"
            self._find("handshake-open", Severity.HANDSHAKE, text, place, i)
        elif not foreign:
            text = f"{self._who(spot, signal)} is looped to its own end: it always says “go on”"
            self._find("handshake-looped", Severity.HANDSHAKE, text, place, i)

    def _legs(self, i: int, net: Net) -> None:
        legs = {(leg(self.levels, s), p) for p, s in net.signals if leg(self.levels, s)}
        if len({name for name, _ in legs}) > 1:
            text = "the two wires of a pair are swapped: A meets B"
            self._find("pair-swapped", Severity.ERROR, text, self._joint_before(max(p for _, p in legs)), i)
