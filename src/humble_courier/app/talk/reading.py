"""What a device that speaks a binary protocol is asked for: one request that changes nothing, and how its answer is read.

Registers of a Modbus unit, by the names of the sheet; the diagnostic status of a DF1 station, which holds its name.
"""

from dataclasses import dataclass
from typing import Protocol

from humble_courier.app.talk.registers import UnitAnswer, register_plan
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.domain.text import printable
from humble_courier.protocols import df1

OURS = 0  # our own station: computers on a DF1 line are given it (common practice)
STATION = 1  # the station of a controller on a line of its own (common practice)
HEAD = 5  # bytes before the name: mode, extender, kinds of interface and processor, revision (DF1 manual, from memory)
FEWEST = 3  # printable characters in a row that may be a name


class UnitQuestion(Protocol):
    """A request and its answer. `unit`: who is asked; `words`: what goes out; `says`: that in words."""

    @property
    def unit(self) -> int:
        """Who is asked."""

    @property
    def words(self) -> bytes:
        """What goes out. Raises BadInput for a unit that cannot be."""

    @property
    def says(self) -> str:
        """What is asked for, in words."""

    def read(self, data: bytes, catalog: Catalog) -> UnitAnswer | None:
        """The answer to that request; None where these bytes hold none."""


@dataclass(frozen=True)
class StationStatus:
    """The diagnostic status of a DF1 station (command 06, function 03; `protocols.df1`)."""

    unit: int

    @property
    def words(self) -> bytes:
        """What goes out."""
        return df1.status_request(self.unit, OURS, TRANSACTION)

    @property
    def says(self) -> str:
        """What is asked for, in words."""
        return f"asks station {self.unit} for its status and name; changes nothing"

    def read(self, data: bytes, catalog: Catalog) -> UnitAnswer | None:
        """Name and type out of the status; a refusal is the station's own."""
        decoder = df1.SPEC.decoder(catalog)
        for event in [*decoder.feed(data), *decoder.end()]:
            if not event.ok or event.kind != "answer" or event.fields.get("transaction") != TRANSACTION:
                continue
            if event.fields["status"]:
                return UnitAnswer(self.unit, {}, refused=event.why)
            told = bytes.fromhex(str(event.fields["hex"]))[6:]
            name = _name(told[HEAD:])
            values = {"name": name} if name else {}
            return UnitAnswer(self.unit, {**values, "status": told[:4].hex(" ").upper()})
        return None


TRANSACTION = 0x4843  # any number; the answer carries it back


def _name(data: bytes) -> str:
    """The longest run of printable characters: how long the name is differs from one kind of controller to another."""
    runs = "".join(chr(b) if 32 <= b < 127 else "\n" for b in data).split("\n")
    longest = max(runs, key=len, default="").strip()
    return printable(longest.encode()) if len(longest) >= FEWEST else ""


def reading_of(link: Link) -> UnitQuestion | None:
    """What this device can be asked for; None where it is spoken to in lines, or only listened to."""
    sheet, unit = link.sheet, link.model.unit
    if sheet is not None and sheet.port.protocol == "df1" and not sheet.first_words:
        lowest = sheet.addresses.lowest if sheet.addresses is not None else STATION
        return StationStatus(unit if unit is not None else lowest)
    return register_plan(sheet, unit)
