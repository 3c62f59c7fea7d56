"""Readings of the meter from CSV files: strict, with file and line."""

import csv
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from humble_courier.app.typed import number
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.resolve import contact_names
from humble_courier.documents.reader import read_text
from humble_courier.domain.hardware import Connector, EndContact
from humble_courier.errors import BadInput
from humble_courier.wiring.identify.cable import OPEN_OHM, Reading
from humble_courier.wiring.identify.voltmeter import VoltReading

WORDS = {"beep": True, "beeps": True, "silent": False}
Row = tuple[int, dict[str, str]]


def _whole(reader: Any, path: Path) -> Iterator[list[str]]:
    """The rows; raises BadInput where a cell is larger than a CSV reader takes, or holds a NUL."""
    try:
        yield from reader
    except csv.Error as error:
        raise BadInput(f"not a CSV of readings: {error}", file=path, line=reader.line_num) from None


def _rows(path: Path, needed: tuple[str, ...], optional: tuple[str, ...] = ()) -> Iterator[Row]:
    """Rows of a CSV with their line numbers; the first row names the columns."""
    reader = csv.reader(read_text(path).lstrip("\ufeff").splitlines())
    head: list[str] | None = None
    for cells in _whole(reader, path):
        cells = [cell.strip() for cell in cells]
        if not any(cells) or cells[0].startswith("#"):
            continue
        if head is None:
            head = [cell.lower() for cell in cells]
            if not set(needed) <= set(head) or not set(head) <= {*needed, *optional}:
                raise BadInput(f"expected the columns {','.join(needed + optional)}", file=path, line=reader.line_num)
            continue
        if len(cells) > len(head) or len(cells) < len(needed):
            text = f"expected {len(head)} cells ({','.join(head)}), found {len(cells)}"
            raise BadInput(text, file=path, line=reader.line_num)
        yield reader.line_num, dict(zip(head, cells, strict=False))
    if head is None:
        raise BadInput(f"the file is empty: expected the columns {','.join(needed + optional)}", file=path)


def read_touches(path: Path, ends: tuple[Connector, Connector], catalog: Catalog) -> list[Reading]:
    """Readings `from,to,result`; the result is beep, silent, or a resistance in ohm. Raises BadInput with the line."""
    known = [contact_names(catalog.shapes, end.family, end.contacts) for end in ends]

    def contact(text: str, line: int) -> EndContact:
        try:
            found = EndContact.parse(text)
        except BadInput as error:
            raise BadInput(error.text, file=path, line=line) from None
        if found.end > 1:
            raise BadInput(f"contact “{text}”: a cable that is measured has the ends A and B", file=path, line=line)
        if found.contact not in known[found.end]:
            raise BadInput(f"contact “{text}”: a {ends[found.end].shape} has none so called", file=path, line=line)
        return found

    readings = []
    for line, row in _rows(path, ("from", "to", "result")):
        beep, ohm = _result(row["result"], path, line)
        reading = Reading(contact(row["from"], line), contact(row["to"], line), beep, ohm)
        if reading.a == reading.b:
            raise BadInput(f"{row['from']} against itself always beeps: two contacts are needed", file=path, line=line)
        readings.append(reading)
    return readings


def _result(word: str, path: Path, line: int) -> tuple[bool, float | None]:
    if word.lower() in WORDS:
        return WORDS[word.lower()], None
    ohm = number(word.lower().removesuffix("ohm").strip())
    if ohm is None or ohm < 0:
        raise BadInput(f"result “{word}”: expected beep, silent, or a resistance in ohm", file=path, line=line)
    return ohm <= OPEN_OHM, ohm


def read_volts(path: Path, connector: Connector, catalog: Catalog) -> list[VoltReading]:
    """Readings `contact,volts[,against]`. Raises BadInput with the line."""
    known = contact_names(catalog.shapes, connector.family, connector.contacts)
    readings = []
    for line, row in _rows(path, ("contact", "volts"), ("against",)):
        for key in ("contact", "against"):
            if row.get(key) and row[key] not in known:
                raise BadInput(f"{key} “{row[key]}”: a {connector.shape} has none so called", file=path, line=line)
        volts = number(row["volts"].removesuffix("V").strip())
        if volts is None:
            raise BadInput(f"volts “{row['volts']}”: expected a number, as in -9.6", file=path, line=line)
        readings.append(VoltReading(row["contact"], volts, row.get("against") or None))
    return readings
