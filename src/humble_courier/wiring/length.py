"""How far and how many: capacitance, rate against length, unit loads, termination, bias, loop loss, other earths."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from humble_courier.catalog.entries import LengthEntry, RateLimit, WireEntry
from humble_courier.domain.hardware import Part, Site
from humble_courier.domain.signals import Level, Role
from humble_courier.wiring.bias import FULL_LOAD_OHM, Bus, bias_for, idle_volts, load_ohm
from humble_courier.wiring.findings import Finding, Severity
from humble_courier.wiring.paths import Paths, Segment

USUAL_RATE = 9600  # where nothing else is said
USUAL_CAN_RATE = 250_000  # the rate of the vehicle bus (SAE J1939-11), whatever the adapter's own serial rate is
DELAY_S_PER_M = 5e-9  # signals run at about two thirds of the speed of light (common practice)
ENDS = 2  # of a line, each with its terminator
ROUND_TRIPS = 3  # after three round trips an echo has died away (common practice)
EARTH_M = 50.0  # beyond this the two ends seldom share one earth (common practice)

VEHICLES = ("round-9", "round-6", "J1962")  # sockets of vehicles: their standards are stricter than those of the bus


@dataclass(frozen=True)
class Around:
    """What the lengths are judged by: rules and kinds of cable of the catalog, the site, the rate in bit/s."""

    rules: Mapping[Level, LengthEntry]
    wires: Mapping[str, WireEntry]
    site: Site = field(default_factory=Site)
    rate: int | None = None


@dataclass(frozen=True)
class Stretch:
    """Figures of the cable between two ports that speak: metres, picofarads, ohms there and back, volts when idle."""

    level: Level
    length_m: float
    capacitance_pf: float
    loop_ohm: float
    rate: int
    limit_m: float | None
    pf_per_m: float
    idle_v: float | None
    load_ohm: float | None
    loop_left_v: float | None
    terminators: int | None
    in_vehicle: bool
    findings: tuple[Finding, ...]


def stretches(paths: Paths, around: Around) -> tuple[Stretch, ...]:
    """Each stretch of passive parts with its figures and what follows from them; stretches without data are left out."""
    found = []
    for segment in paths.segments:
        level = next((s.level for _, s in paths.signals(segment.near) if s.role is Role.DATA), None)
        if level is not None and level in around.rules:
            found.append(_Run(paths, segment, level, around).judge())
    return tuple(found)


def reach(rule: LengthEntry, pf_per_m: float, rate: int, in_vehicle: bool = False) -> float | None:
    """How far a line carries at a rate in bit/s, in metres, with the latitude of slow RS-232 lines; None: no limit is known.

    In a vehicle its standard counts, which names few rates.
    """
    if rule.max_pf is not None and rule.full_rate is not None:
        return rule.max_pf * max(1.0, rule.full_rate / rate) / pf_per_m
    if rule.bit_m_per_s is not None:
        return min(rule.max_m or float("inf"), rule.bit_m_per_s / rate)
    row = table_row(rule, rate)
    if in_vehicle and row is not None:
        return row.vehicle_m if row.rate == rate else None
    return row.max_m if row is not None else rule.max_m


def table_row(rule: LengthEntry, rate: int) -> RateLimit | None:
    """Of the rule's table the slowest rate that is not slower than this one; beyond it the fastest. None without a table."""
    rows = sorted(rule.table, key=lambda row: row.rate)
    return next((row for row in rows if row.rate >= rate), rows[-1] if rows else None)


def _built_in(paths: Paths, segment: Segment) -> list[Part]:
    """Parts of the stretch and those that speak at its ends: what is built into them lies across its pair."""
    parts = paths.chain.parts
    return [parts[node - 1] for node in range(segment.near[0], segment.far[0] + 1) if 1 <= node <= len(parts)]


def _together(*ohms: float | None) -> float | None:
    """Bias resistors side by side, as one of each pair; None where there are none."""
    siemens = sum(1 / ohm for ohm in ohms if ohm is not None)
    return 1 / siemens if siemens else None


class _Run:
    """One stretch under its rule; lives for one call."""

    def __init__(self, paths: Paths, segment: Segment, level: Level, around: Around) -> None:
        self.rule, self.site, self.level = around.rules[level], around.site, level
        self.parts: list[tuple[int, Part]] = [
            (node, paths.chain.parts[node - 1]) for node in range(segment.near[0] + 1, segment.far[0])
        ]
        self.in_vehicle = paths.chain.device.connector.family in VEHICLES
        self.isolated = any(part.isolates for part in paths.chain.parts)
        self.length = sum(part.length_m for _, part in self.parts)
        wires = around.wires
        self.pf = sum(part.length_m * wires[part.wire].pf_per_m for _, part in self.parts)
        self.ohm = 2 * sum(part.length_m * wires[part.wire].ohm_per_m for _, part in self.parts)
        self.per_m = self.pf / self.length if self.length else wires["multicore"].pf_per_m
        usual = USUAL_CAN_RATE if level is Level.CAN else around.rate or USUAL_RATE
        self.rate = around.site.rate or usual
        longest = max(self.parts, key=lambda p: p[1].length_m, default=None)
        self.place = f"part:{longest[0]}" if longest else f"joint:{segment.far[0]}"
        self.drawn = _built_in(paths, segment)
        drawn = sum(part.terminates for part in self.drawn)
        self.terminators = self._terminators(drawn)
        self.bias_ohm = _together(around.site.bias_ohm, *(part.bias_ohm for part in self.drawn))
        across = drawn if self.terminators is None else self.terminators
        self.bus = Bus(
            around.site.nodes, around.site.unit_load, across, self.rule.terminate_ohm or 120.0, self.bias_ohm,
            around.site.supply_v,
        )  # fmt: skip

    def _terminators(self, drawn: int) -> int | None:
        """How many there are in all, if that is known: `drawn` in parts of the chain, and what somebody has said."""
        said = self.site.terminators
        return max(drawn, said) if said is not None else drawn if drawn >= ENDS else None

    def judge(self) -> Stretch:
        paired = self.rule.idle_mv is not None
        biased = paired and self.bias_ohm is not None
        findings = (*self._length(), *self._stub(), *self._ends(), *self._loads(), *self._loop(), *self._earth())
        return Stretch(
            self.level, self.length, self.pf, self.ohm, self.rate, self.limit(), self.per_m,
            idle_volts(self.bus) if biased else None, load_ohm(self.bus) if paired else None, self._left(),
            self.terminators, self.in_vehicle, findings,
        )  # fmt: skip

    def limit(self) -> float | None:
        """The longest line in metres at this rate, by the published limit."""
        rule = self.rule
        row = self._row()
        limits = [
            rule.max_m,
            rule.bit_m_per_s / self.rate if rule.bit_m_per_s else None,
            rule.max_pf / self.per_m if rule.max_pf else None,
            rule.max_m_per_node * self.site.nodes if rule.max_m_per_node else None,
            row[0] if row else None,
        ]
        return min((limit for limit in limits if limit is not None), default=None)

    def _row(self) -> tuple[float, float | None] | None:
        """Limits of trunk and stub at our rate."""
        row = table_row(self.rule, self.rate)
        if row is None:
            return None
        return (row.vehicle_m if self.in_vehicle and row.vehicle_m else row.max_m), row.stub_m

    def _find(self, code: str, severity: Severity, text: str) -> Finding:
        return Finding(code, severity, text, self.place)

    def _length(self) -> Iterator[Finding]:
        limit = self.limit()
        row = table_row(self.rule, self.rate)
        elsewhere = None if row is None or self.in_vehicle else row.vehicle_m
        if elsewhere is not None and elsewhere < self.length <= (limit or self.length):
            told = f"{self.length:g} m at {self.rate} bit/s: CiA 301 allows {limit:.0f} m, SAE J1939 in a vehicle"
            told += f" {elsewhere:g} m"
            yield self._find("too-long", Severity.NOTE, told)
        if limit is None or self.length <= limit:
            return
        told = f"{self.length:g} m is more than the {limit:.0f} m that the line carries at {self.rate} bit/s"
        stands = self.rule.max_pf
        if stands is not None and self.rule.full_rate is not None:
            told = f"{self.length:g} m make {self.pf:.0f} pF, the standard allows {stands:.0f} pF"
            stands *= max(1.0, self.rule.full_rate / self.rate)
            if self.pf <= stands:
                text = f"{told}; at {self.rate} bit/s the edges are still fast enough (up to {stands:.0f} pF), by no promise"
                yield self._find("too-long", Severity.NOTE, text)
                return
            told += f", and at {self.rate} bit/s the edges take more than 4 % of a bit beyond {stands:.0f} pF"
        yield self._find("too-long", Severity.ERROR, told)

    def _stub(self) -> Iterator[Finding]:
        row = self._row()
        if row and row[1] is not None and self.site.stub_m > row[1]:
            text = f"a stub of {self.site.stub_m:g} m; at {self.rate} bit/s a branch may be {row[1]:g} m long"
            yield self._find("too-long", Severity.NOTE, text)

    def _ends(self) -> Iterator[Finding]:
        """Termination: an echo must have died away by the middle of the bit, where it is sampled."""
        if self.rule.terminate_ohm is None:
            return
        fitted = self.terminators
        settle = 2 * ROUND_TRIPS * DELAY_S_PER_M * self.length
        late = settle > 0.5 / self.rate
        ohm = self.rule.terminate_ohm
        if self.level is Level.CAN and fitted is not None and fitted < 1:
            text = f"no terminator: a CAN pair needs {ohm:g} ohm at both ends, or it never returns to its idle state"
            yield self._find("not-terminated", Severity.ERROR, text)
        elif late and (fitted is None or fitted < 2):
            known = "nobody has said whether" if fitted is None else "not"
            echo = f"echoes last {settle * 1e6:.1f} µs, half a bit is {5e5 / self.rate:.1f} µs"
            text = f"{echo}: {known} both ends have {ohm:g} ohm"
            yield self._find("not-terminated", Severity.NOTE if fitted is None else Severity.ERROR, text)
        if fitted is not None and fitted > ENDS:
            text = f"{fitted} terminators load a driver with {ohm / fitted:.0f} ohm: one belongs at each end, no more"
            yield self._find("line-overloaded", Severity.NOTE, text)

    def _loads(self) -> Iterator[Finding]:
        nodes, most = self.site.nodes, self.rule.max_unit_loads
        loads = nodes * self.site.unit_load
        if most is not None and loads > most:
            text = f"{nodes} nodes make {loads:g} unit loads; the line carries {most}"
            yield self._find("line-overloaded", Severity.NOTE, text)
        if self.rule.idle_mv is None or self.bias_ohm is None:
            return
        load, idle = load_ohm(self.bus), idle_volts(self.bus)
        if load < FULL_LOAD_OHM:
            text = f"terminators, bias and receivers load a driver with {load:.0f} ohm; it is made for {FULL_LOAD_OHM:g} ohm"
            yield self._find("line-overloaded", Severity.NOTE, text)
        if idle * 1000 < self.rule.idle_mv:
            better = bias_for(self.bus, self.rule.idle_mv / 1000)
            advice = f"; {better:g} ohm each would do" if better else ""
            text = f"the idle pair rests at {idle * 1000:.0f} mV, a receiver needs {self.rule.idle_mv:g} mV{advice}"
            yield self._find("bias-too-weak", Severity.NOTE, text)

    def _left(self) -> float | None:
        """Volts that a 20 mA loop has left after the cable and both couplers."""
        if self.rule.loop_v is None:
            return None
        return self.rule.loop_v - (self.rule.loop_drop_v or 0.0) - 0.020 * self.ohm

    def _loop(self) -> Iterator[Finding]:
        left = self._left()
        if left is not None and left < 0:
            loss = f"20 mA through {self.ohm:.0f} ohm of cable loses {0.02 * self.ohm:.1f} V"
            text = f"{loss}: {-left:.1f} V are missing in the loop"
            yield self._find("too-long", Severity.ERROR, text)

    def _earth(self) -> Iterator[Finding]:
        galvanic = self.level not in (Level.LOOP_20MA, Level.USB)
        far = self.length > EARTH_M or self.site.between_buildings
        if galvanic and far and not self.isolated:
            why = "it runs between buildings" if self.site.between_buildings else f"it is {self.length:g} m long"
            text = f"{why}: the earths of both ends may differ by volts, in a thunderstorm by thousands; put an isolator in"
            yield self._find("ground-difference", Severity.NOTE, text)
