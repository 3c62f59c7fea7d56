"""Recordings for the tests: level changes with clock error, jitter and pauses, as arrays and as files written by pyvcd."""

import io

import numpy as np
from numpy.typing import NDArray
from vcd import VCDWriter

from humble_courier.domain.settings import Settings
from humble_courier.line.edges import Edges
from humble_courier.line.wave import character_bits

TEXT = b"LEVEL LOGGER FW 3.1 READY\r\nLV +1.234 M\r\nID GAUGE7 FW3.1 SN 004711\r\n" * 3


def pauses(random: np.random.Generator, kind: str, count: int) -> NDArray[np.float64]:
    """Pauses after characters in bits."""
    return {
        "none": np.zeros(count), "steady": np.full(count, 2.0), "scattered": random.exponential(3, count),
    }[kind]  # fmt: skip


def recorded(
    random: np.random.Generator, data: bytes, settings: Settings, kind: str = "none", clock: float = 1.0,
    jitter: float = 0.0, inverted: bool = False, lean: float = 0.0,
) -> Edges:  # fmt: skip
    """Level changes of `data`; jitter (one sigma) and lean (marks longer) in bits."""
    bit, at, level, times = 1 / settings.rate / clock, 1e-3, 1, []
    for row, pause in zip(character_bits(data, settings), pauses(random, kind, len(data)), strict=True):
        for value in [*row.tolist(), 1]:
            if value != level:
                times.append(at + (lean * bit if value == 0 else 0.0))
                level = value
            at += bit
        at += bit * (settings.frame.stop_bits - 1 + pause)
    moved = np.sort(np.array(times) + random.normal(0, jitter * bit, len(times)))
    return Edges(moved, 0 if inverted else 1, at + 1e-3)


def as_vcd(signals: dict[str, Edges], unit_ns: int = 10) -> bytes:
    """The same as a file, written by pyvcd."""
    out = io.StringIO()
    with VCDWriter(out, timescale=f"{unit_ns} ns", init_timestamp=0) as writer:
        made = {name: writer.register_var("probe", name, "wire", size=1, init=e.first) for name, e in signals.items()}
        changes = []
        for name, edges in signals.items():
            level = edges.first
            for time in edges.times:
                level ^= 1
                changes.append((round(time / unit_ns * 1e9), name, level))
        for time, name, level in sorted(changes):
            writer.change(made[name], time, level)
    return out.getvalue().encode()
