"""Silent devices drawn at random, for searches in virtual time: units of a bus, and devices of lines of many kinds.

Settings are drawn as they are met (`RATE_PARTS`, `FRAME_PRIORS`); the rest is common practice, from memory: how long
devices think, that one in ten drops an answer when another request comes, that one in thirty is mute to function 1.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from humble_courier.domain.received import Doubt, Heard
from humble_courier.domain.settings import Frame, Settings
from humble_courier.line.belief.tables import RATES
from humble_courier.line.rates import FRAME_PRIORS, RATE_PARTS
from humble_courier.procedures.device_search.plan import LINE_RATES, UNIT_WEIGHTS
from humble_courier.protocols.modbus_rtu import FRAMES as MODBUS_FRAMES
from humble_courier.protocols.modbus_rtu import RATE_PARTS as MODBUS_RATES
from humble_courier.simulator.devices.behaviour import Behaviour
from humble_courier.simulator.devices.device import Device
from humble_courier.simulator.devices.units import ModbusUnits

LONGEST = 120  # characters that a device of lines keeps


@dataclass(frozen=True)
class Silent:
    """A device, and what the search has to name. `ends`: terminators that are right for it."""

    settings: Settings
    device: Device
    unit: int | None = None
    ends: frozenset[str] = frozenset()


class Unit(ModbusUnits):
    """One unit. `mute`: it ignores function 1; `drops`: another request makes it forget the answer that it has ready."""

    def __init__(self, unit: int, settings: Settings, think_s: float, mute: bool, drops: bool) -> None:
        how = Behaviour(protocol="modbus-rtu", source="invented", units=[unit], registers=[7, 8, 9], think_s=think_s)
        super().__init__(how, settings)
        self._mute, self._drops = mute, drops

    def hear(self, t: float, heard: Heard) -> None:
        """Any character that comes while an answer waits may make it forget."""
        if self._drops:
            self.outbox.clear()
        super().hear(t, heard)
        held = self._frames._held
        if self._mute and len(held) == 8 and held[1] == 1:
            held.clear()


@dataclass(frozen=True)
class Kind:
    """A kind of device of lines. `end`: CR, LF, CR LF as a pair, or each of CR and LF; `strict`: the rest is of the word."""

    end: str
    strict: bool
    echo: bool
    prompt: bytes
    unknown: bytes
    knows: bool
    think_s: float
    forgets_s: float  # a line begun so long ago is forgotten


class LineDevice(Device):
    """Answers line after line, one at a time."""

    SAYS = b"SKERROW WORKSHOP,METER,17,1.0"

    def __init__(self, kind: Kind, rubbish: bytes) -> None:
        super().__init__()
        self._kind, self._line, self._free, self._last = kind, bytearray(rubbish), 0.0, 0.0

    def hear(self, t: float, heard: Heard) -> None:
        """A character; a damaged one is dropped."""
        if heard.doubt is not Doubt.NONE:
            return
        if self._kind.echo:
            self.outbox.put(t, bytes((heard.byte,)))
        if t - self._last > self._kind.forgets_s:
            self._line.clear()
        self._last = t
        self._line.append(heard.byte)
        line = self._ended()
        if line is not None:
            self._line.clear()
            self._answer(t, line)
        del self._line[:-LONGEST]

    def _ended(self) -> bytes | None:
        line = bytes(self._line)
        ends = {"cr": (b"\r",), "lf": (b"\n",), "crlf": (b"\r\n",), "either": (b"\r", b"\n")}[self._kind.end]
        return next((line[: -len(end)] for end in ends if line.endswith(end)), None)

    def _answer(self, t: float, line: bytes) -> None:
        word = line if self._kind.strict else line.strip(b"\r\n \0")
        if not word:
            said = b""
        elif self._kind.knows and word.endswith(b"*IDN?") and (not self._kind.strict or word == b"*IDN?"):
            said = self.SAYS + b"\r\n"
        else:
            said = self._kind.unknown
        if said or self._kind.prompt:
            self._free = max(t, self._free) + self._kind.think_s
            self.outbox.put(self._free, said + self._kind.prompt)


def drawn_rate(random: np.random.Generator, rates: Sequence[int] = RATES, parts: Mapping[int, float] = RATE_PARTS) -> int:
    """A rate, as it is met."""
    shares = np.array([parts.get(rate, 1) for rate in rates], float)
    return int(random.choice(rates, p=shares / shares.sum()))


def _frame(random: np.random.Generator, shares: dict[str, float]) -> str:
    weights = np.array(list(shares.values()))
    return str(random.choice(list(shares), p=weights / weights.sum()))


def units(draw: Callable[[np.random.Generator], int]) -> Callable[..., Silent]:
    """Units of a bus whose address is drawn by `draw`."""

    def one(random: np.random.Generator, rates: Sequence[int] = RATES) -> Silent:
        rate = drawn_rate(random, rates, MODBUS_RATES)
        settings = Settings(rate, Frame.parse(_frame(random, dict(MODBUS_FRAMES))))
        think = float(np.clip(random.lognormal(np.log(0.015), 0.9), 0.002, 0.15))
        unit = draw(random)
        return Silent(settings, Unit(unit, settings, think, random.random() < 0.03, random.random() < 0.1), unit)

    return one


def _as_met(random: np.random.Generator) -> int:
    weights = np.array([next(w for last, w in UNIT_WEIGHTS if unit <= last) for unit in range(1, 248)])
    return int(random.choice(np.arange(1, 248), p=weights / weights.sum()))


def lines(ends: Sequence[str], parts: Mapping[int, float] = LINE_RATES) -> Callable[..., Silent]:
    """Devices of lines, of 40 kinds and more: ends, strictness, echo, prompt, error texts, time-outs, rubbish.

    `parts`: how often each rate is met.
    """

    def one(random: np.random.Generator, rates: Sequence[int] = RATES) -> Silent:
        frames = {frame: FRAME_PRIORS[frame] for frame in ("8N1", "7E1", "7O1", "8E1", "8O1", "8N2", "7N2")}
        settings = Settings(drawn_rate(random, rates, parts), Frame.parse(_frame(random, frames)))
        end, errors = str(random.choice(list(ends))), bool(random.random() < 0.6)
        strict = end == "crlf" or bool(random.random() < 0.5)
        kind = Kind(
            end, strict, bool(random.random() < 0.3), b"> " if random.random() < 0.2 else b"",
            b"ERR 04 UNKNOWN\r\n" if errors else b"", not errors or bool(random.random() < 0.5),
            float(random.uniform(0.01, 0.4)), float(random.choice([2.0, 30.0, np.inf])),
        )  # fmt: skip
        rubbish = random.integers(33, 127, int(random.integers(0, 20)), np.uint8).tobytes()
        right = {"cr": {"CR"}, "lf": {"LF"}, "crlf": {"CR LF"}, "either": {"CR", "LF", "CR LF"}}[end]
        if not strict:
            right |= {"CR LF"}
        return Silent(settings, LineDevice(kind, rubbish), None, frozenset(right))

    return one


NEAR = units(lambda random: int(random.integers(1, 11)))
MET = units(_as_met)
ANY = units(lambda random: int(random.integers(1, 248)))
MIXED = lines(("cr", "lf", "crlf", "either"))
SPREAD = lines(("cr", "lf", "crlf", "either"), RATE_PARTS)
PAIR_ONLY = lines(("crlf",))
