"""Which protocol a stream is read as: one machine for each, all fed and asked alike."""

from collections.abc import Callable, Mapping
from enum import StrEnum
from typing import Protocol

from humble_courier.protocols import df1, kiss, modbus, mstp, nmea, slcan, text
from humble_courier.protocols.framer import Event, Framer
from humble_courier.protocols.iso14230 import Iso14230
from humble_courier.protocols.j1939 import J1939
from humble_courier.protocols.vehicle import J1708

Names = Callable[[str], Mapping[int, str]]


class Spoken(StrEnum):
    """A protocol that can be read."""

    TEXT = "text"
    SCPI = "scpi"
    NMEA = "nmea-0183"
    MODBUS_RTU = "modbus-rtu"
    MODBUS_ASCII = "modbus-ascii"
    MSTP = "mstp"
    DF1 = "df1"
    KISS = "kiss"
    J1708 = "j1708"
    J1939 = "j1939"
    CAN = "can-ascii"
    ISO14230 = "iso14230"


class Decoder(Protocol):
    """Feed bytes with the time of the piece; get what is complete. `end`: no more will come."""

    def feed(self, data: bytes, t: float = 0.0) -> list[Event]:
        """Messages that are complete."""

    def end(self) -> list[Event]:
        """What is left over."""


def decoder(spoken: Spoken, names: Names) -> Decoder:
    """A fresh machine; `names` gives what the numbers of a protocol are called."""
    match spoken:
        case Spoken.MSTP:
            return mstp.TokenWatch()
        case Spoken.J1939:
            return J1939(names("j1939-groups"), names("j1939-controllers"))
        case Spoken.J1708:
            return Framer(J1708(names("j1708-senders"), names("j1587-parameters")).cut)
        case Spoken.ISO14230:
            return Framer(Iso14230(names("iso14230-services")).cut)
    cuts = {
        Spoken.TEXT: text.line,
        Spoken.SCPI: text.scpi,
        Spoken.NMEA: nmea.cut,
        Spoken.MODBUS_RTU: modbus.rtu,
        Spoken.MODBUS_ASCII: modbus.ascii_line,
        Spoken.DF1: df1.cut,
        Spoken.KISS: kiss.cut,
        Spoken.CAN: slcan.cut,
    }
    return Framer(cuts[spoken])


# A protocol with a check of its own that fits is no accident; lines of text fit anything that is text, so they come last.
CHECKED = (
    Spoken.NMEA,
    Spoken.MODBUS_ASCII,
    Spoken.MSTP,
    Spoken.DF1,
    Spoken.J1939,
    Spoken.MODBUS_RTU,
    Spoken.ISO14230,
    Spoken.KISS,
    Spoken.J1708,
)
FEWEST_BYTES = 6
SHARE = 0.7  # of the bytes that must lie in sound messages
WEAK = (Spoken.ISO14230, Spoken.KISS, Spoken.J1708)  # eight bits of check or none: one message alone may be an accident


def looks_spoken(data: bytes, names: Names) -> Spoken | None:
    """The protocol that most of these bytes are sound messages of; None where there is none."""
    best, most = None, SHARE
    for spoken in CHECKED if len(data) >= FEWEST_BYTES else ():
        share = sound_share(data, spoken, names)
        if share > most:
            best, most = spoken, share
    return best


def sound_share(data: bytes, spoken: Spoken, names: Names) -> float:
    """Share of the bytes that lie in messages, damaged ones counted half; an adapter's own words and idle marks are none."""
    machine = decoder(spoken, names)
    idle = {"noise", "idle", "done", *({"answer", "refused"} if spoken in (Spoken.J1939, Spoken.CAN) else ())}
    events = [event for event in [*machine.feed(data), *machine.end()] if event.kind not in idle]
    if sum(event.ok for event in events) <= (spoken in WEAK):
        return 0.0
    return sum(event.size * (1.0 if event.ok else 0.5) for event in events) / len(data)
