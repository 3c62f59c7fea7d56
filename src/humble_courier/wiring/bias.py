"""The idle pair of an RS-485 line: what bias, termination and receivers make of it."""

from dataclasses import dataclass

UNIT_LOAD_OHM = 12_000.0  # TIA-485-A clause 3.2: one unit load, each wire to ground (from memory)
FULL_LOAD_OHM = 54.0  # TIA-485-A clause 3.1: the load into which a driver is specified (from memory)
E24 = (1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0, 3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2,
       9.1)  # fmt: skip


@dataclass(frozen=True)
class Bus:
    """A pair: terminators of `terminate_ohm` each, one resistor of `bias_ohm` from either wire to its supply rail."""

    nodes: int
    unit_load: float = 1.0
    terminators: int = 2
    terminate_ohm: float = 120.0
    bias_ohm: float | None = None
    supply_v: float = 5.0

    @property
    def leg_siemens(self) -> float:
        """Conductance of all receivers from one wire to ground."""
        return self.nodes * self.unit_load / UNIT_LOAD_OHM

    @property
    def across_siemens(self) -> float:
        """Conductance of the terminators between the wires."""
        return self.terminators / self.terminate_ohm


def idle_volts(bus: Bus) -> float:
    """Voltage of the B wire against the A wire when nobody drives, in volts (nodal analysis of two nodes).

    B: G(Vs - Vb) = gl Vb + gt (Vb - Va); A: gt (Vb - Va) = (gl + G) Va. Subtracted, the difference stands alone.
    """
    if bus.bias_ohm is None:
        return 0.0
    bias = 1.0 / bus.bias_ohm
    return bias * bus.supply_v / (bias + bus.leg_siemens + 2 * bus.across_siemens)


def load_ohm(bus: Bus) -> float:
    """What a driver sees between the wires: terminators, bias and receivers together."""
    bias = 0.0 if bus.bias_ohm is None else 1.0 / (2 * bus.bias_ohm)
    total = bus.across_siemens + bias + bus.leg_siemens / 2
    return 1.0 / total if total else float("inf")


def bias_for(bus: Bus, volts: float) -> float | None:
    """The largest bias resistor of the E24 row (ohm) that still leaves `volts` at the idle pair; None where none does."""
    best = (bus.supply_v - volts) / (volts * (bus.leg_siemens + 2 * bus.across_siemens)) if bus.supply_v > volts else 0.0
    row = [step * 10**power for power in range(1, 5) for step in E24]
    return max((value for value in row if value <= best), default=None)
