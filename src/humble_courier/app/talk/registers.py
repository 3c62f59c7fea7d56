"""Registers of a unit by name: one request that changes nothing, and its answer as values with their units.

Sources: MODBUS Application Protocol Specification V1.1b3, 6.3 and 6.4 (at most 125 registers in one request), 7 (exceptions:
0A and 0B come from a gateway and not from the unit, and say nothing of it); IEEE 754 for numbers of 32 bits.
"""

import struct
from collections.abc import Sequence
from dataclasses import dataclass

from humble_courier.catalog.load import Catalog
from humble_courier.documents.device import DeviceEntry, Register
from humble_courier.errors import BadInput
from humble_courier.protocols.framer import Event
from humble_courier.protocols.modbus_ascii import ascii_frame
from humble_courier.protocols.modbus_rtu import READ_HOLDING, READ_INPUT, read_request
from humble_courier.protocols.registry import spec_named

PROTOCOLS = ("modbus-rtu", "modbus-ascii")
MOST = 125
GATEWAY = {10: "the gateway has no way to that unit", 11: "behind the gateway the unit does not answer"}
BUSY = (5, 6)  # it has taken the request, and is still at it
_WIDE = {"u32": ">I", "i32": ">i", "f32": ">f"}
_TABLES = {"holding": READ_HOLDING, "input": READ_INPUT}


@dataclass(frozen=True)
class UnitAnswer:
    """What an answer says: `values` by name; `doubts` against it; `gateway`: it came from one, and not from the unit."""

    unit: int
    values: dict[str, str]
    doubts: tuple[str, ...] = ()
    refused: str = ""
    gateway: str = ""


@dataclass(frozen=True)
class RegisterPlan:
    """Which registers of a unit are asked for, in which of the two protocols."""

    protocol: str
    unit: int
    registers: tuple[Register, ...]

    @property
    def together(self) -> list[Register]:
        """The registers of the first one's table that go into one request with it."""
        first = self.registers[0]
        mine = sorted((r for r in self.registers if r.table == first.table), key=lambda r: r.first)
        return [r for r in mine if r.first + _size(r) - mine[0].first <= MOST]

    @property
    def words(self) -> bytes:
        """The words that ask for them. Raises BadInput for a unit that cannot be."""
        asked = self.together
        first, end = asked[0].first, max(r.first + _size(r) for r in asked)
        frame = read_request(self.unit, first, end - first, _TABLES[asked[0].table])
        return ascii_frame(frame[:-2]) if self.protocol == "modbus-ascii" else frame

    @property
    def says(self) -> str:
        """What is asked for, in words."""
        return f"asks unit {self.unit} for {', '.join(r.name for r in self.together)}; changes nothing"

    def read(self, data: bytes, catalog: Catalog) -> UnitAnswer | None:
        """The answer to that request; None where these bytes hold none."""
        decoder = spec_named(self.protocol).decoder(catalog)
        for event in [*decoder.feed(data), *decoder.end()]:
            if event.ok and event.fields.get("unit") == self.unit and event.kind in ("answer", "exception"):
                return _refused(self.unit, event) if event.kind == "exception" else self._values(event.fields["values"])
        return None

    def _values(self, words: Sequence[int]) -> UnitAnswer:
        asked = self.together
        values, doubts = {}, []
        for register in asked:
            at = register.first - asked[0].first
            if at + _size(register) > len(words):
                doubts.append(f"{register.name} is missing: fewer registers came than were asked for")
                continue
            value = _number(register, words[at : at + _size(register)]) * register.scale
            values[register.name] = f"{value:g} {register.unit}".strip()
            low, high = register.lowest, register.highest
            if (low is not None and value < low) or (high is not None and value > high):
                doubts.append(f"{register.name} {values[register.name]} lies outside what the sheet allows")
        return UnitAnswer(self.unit, values, tuple(doubts))


ANY_REGISTER = (Register(name="register 0", first=0),)  # of a unit that no sheet knows: any answer to it is its own


def register_plan(sheet: DeviceEntry | None, unit: int | None) -> RegisterPlan | None:
    """The registers that a sheet names; of a unit that was found and is in no sheet, the first one; else None."""
    if sheet is None:
        return RegisterPlan("modbus-rtu", unit, ANY_REGISTER) if unit is not None else None
    if not sheet.registers or sheet.port.protocol not in PROTOCOLS:
        return None
    lowest = sheet.addresses.lowest if sheet.addresses is not None else 1
    return RegisterPlan(sheet.port.protocol, unit if unit is not None else lowest, tuple(sheet.registers))


def _size(register: Register) -> int:
    return 2 if register.type in _WIDE else 1


def _refused(unit: int, event: Event) -> UnitAnswer:
    code = event.fields.get("code")
    if code in GATEWAY:
        return UnitAnswer(unit, {}, gateway=GATEWAY[code])
    return UnitAnswer(unit, {}, refused=event.why)


def _number(register: Register, words: Sequence[int]) -> float:
    if register.type in _WIDE:
        high, low = (words[1], words[0]) if register.low_first else (words[0], words[1])
        return float(struct.unpack(_WIDE[register.type], high.to_bytes(2, "big") + low.to_bytes(2, "big"))[0])
    value = words[0]
    return float(value - 0x10000 if register.type == "i16" and value & 0x8000 else value)


def checked_unit(sheet: DeviceEntry | None, unit: int) -> int:
    """A unit that the sheet allows. Raises BadInput."""
    bus = sheet.addresses if sheet is not None else None
    low, high = (bus.lowest, bus.highest) if bus is not None else (1, 247)
    if not low <= unit <= high:
        raise BadInput(f"unit {unit}: expected {low} to {high}")
    return unit
