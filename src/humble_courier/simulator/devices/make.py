"""Which device stands on a simulated bench, with the faults that it was given."""

from collections.abc import Collection

import msgspec

from humble_courier.domain.settings import Settings
from humble_courier.simulator.devices.behaviour import Behaviour, Talk, behaviour, revised
from humble_courier.simulator.devices.can_adapter import CanAdapter
from humble_courier.simulator.devices.device import Device, silent
from humble_courier.simulator.devices.df1 import Df1Station
from humble_courier.simulator.devices.kline import KLineUnits
from humble_courier.simulator.devices.talkers import PacketRadio, TalkingDevice, TokenBus
from humble_courier.simulator.devices.text import TextDevice
from humble_courier.simulator.devices.units import ModbusAsciiUnits, ModbusUnits

SLOW_S = 4.0  # what a slow device takes for an answer: more than most programs wait
LAST_UNIT = 247
DEAD = ("no-power", "key-off", "other-mode")  # of the device itself; an adapter before it still answers


def device(
    id_: str, settings: Settings, faults: Collection[str] = (), revision: str | None = None, unit: int | None = None
) -> Device:
    """A simulated device by id, fresh from power-up at time 0; `unit`: its address on a bus, where its switches say one.

    Raises BadInput for an id without a behaviour.
    """
    return made_of(revised(behaviour(id_), revision), settings, faults, unit)


def made_of(how: Behaviour, settings: Settings, faults: Collection[str] = (), unit: int | None = None) -> Device:
    """The same for a behaviour at hand."""
    if unit is not None and how.units:
        how = msgspec.structs.replace(how, units=[unit])
    how = _changed(how, faults)
    think_s = how.think_s + SLOW_S if "slow" in faults else None
    if how.protocol == "can-ascii":
        adapter = CanAdapter(how, key_on=not set(DEAD) & set(faults))
        adapter.on_unplugged = "" if set(DEAD) & set(faults) else how.unplugged
        return adapter
    if set(DEAD) & set(faults):
        return silent()
    if "chatters" in faults:
        return TalkingDevice(_chatter(how))
    made = _sound(how, settings, think_s, "two-alike" in faults)
    made.on_unplugged = how.unplugged
    return made


def _changed(how: Behaviour, faults: Collection[str]) -> Behaviour:
    """The behaviour with what the faults change in it."""
    replace = msgspec.structs.replace
    if "wrong-end" in faults:
        how = replace(how, end={"crlf": "lf", "lf": "cr", "cr": "lf"}[how.end])
    if "other-words" in faults:
        how = replace(how, commands=[])
    if "boot-stopped" in faults:
        how = replace(how, commands=[], talks=[], power_up=None, boot=None, unknown=how.unknown or "?")
    if "echo-off" in faults:
        how = replace(how, echo=False)
    if "wrong-unit" in faults:
        how = replace(how, units=[unit % LAST_UNIT + 1 for unit in how.units])
    return how


def _sound(how: Behaviour, settings: Settings, think_s: float | None, alike: bool) -> Device:
    """A protocol whose devices do more than talk has a class here; all others talk, framed as their protocol says."""
    match how.protocol:
        case "text" | "scpi" if not how.talks:
            return TextDevice(how, settings, think_s)
        case "modbus-rtu":
            return ModbusUnits(how, settings, how.units[-1] if alike else None, think_s)
        case "modbus-ascii":
            return ModbusAsciiUnits(how, settings, None, think_s)
        case "df1":
            return Df1Station(how, how.think_s if think_s is None else think_s)
        case "mstp":
            return TokenBus(how, how.masters[-1] if alike else None)
        case "iso14230":
            return KLineUnits(how.control_units, how.think_s if think_s is None else think_s)
        case "kiss":
            return PacketRadio(how)
    return TalkingDevice(how)


def _chatter(how: Behaviour) -> Behaviour:
    talk = Talk(every_s=0.4, text="ALARM {n} ACKNOWLEDGE AT PANEL\r\n")
    return msgspec.structs.replace(how, protocol="text", talks=[talk], power_up=None)
