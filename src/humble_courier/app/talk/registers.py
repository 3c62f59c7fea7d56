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


def readable(sheet: DeviceEntry | None) -> bool:
    """Whether a sheet names registers that can be asked for."""
    return sheet is not None and bool(sheet.registers) and sheet.port.protocol in PROTOCOLS


def unit_of(sheet: DeviceEntry, chosen: int | None) -> int:
    """The unit that is asked: the chosen one, or the first that the sheet allows."""
    return chosen if chosen is not None else sheet.addresses.lowest if sheet.addresses is not None else 1


def _together(sheet: DeviceEntry) -> list[Register]:
    """The registers of the first one's table that go into one request with it."""
    first = sheet.registers[0]
    mine = sorted((r for r in sheet.registers if r.table == first.table), key=lambda r: r.first)
    return [r for r in mine if r.first + _size(r) - mine[0].first <= MOST]


def _size(register: Register) -> int:
    return 2 if register.type in _WIDE else 1


def request(sheet: DeviceEntry, unit: int) -> bytes:
    """The words that ask for them. Raises BadInput for a unit that cannot be."""
    asked = _together(sheet)
    first, end = asked[0].first, max(r.first + _size(r) for r in asked)
    frame = read_request(unit, first, end - first, _TABLES[asked[0].table])
    if sheet.port.protocol == "modbus-ascii":
        return ascii_frame(frame[:-2])
    return frame


def said(sheet: DeviceEntry, unit: int) -> str:
    """What is asked for, in words."""
    return f"asks unit {unit} for {', '.join(r.name for r in _together(sheet))}; changes nothing"


def read_answer(sheet: DeviceEntry, unit: int, data: bytes, catalog: Catalog) -> UnitAnswer | None:
    """The answer of a unit to that request; None where these bytes hold none."""
    decoder = spec_named(sheet.port.protocol).decoder(catalog)
    for event in [*decoder.feed(data), *decoder.end()]:
        if event.ok and event.fields.get("unit") == unit and event.kind in ("answer", "exception"):
            return _refused(unit, event) if event.kind == "exception" else _values(sheet, unit, event.fields["values"])
    return None


def _refused(unit: int, event: Event) -> UnitAnswer:
    code = event.fields.get("code")
    if code in GATEWAY:
        return UnitAnswer(unit, {}, gateway=GATEWAY[code])
    return UnitAnswer(unit, {}, refused=event.why)


def _values(sheet: DeviceEntry, unit: int, words: Sequence[int]) -> UnitAnswer:
    asked = _together(sheet)
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
    return UnitAnswer(unit, values, tuple(doubts))


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
