"""A person's own device sheets: begun from a blank or from a near relative, checked while they are written, saved whole."""

import re
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

import msgspec

from humble_courier.app.files import unwritable, write_whole
from humble_courier.app.prepare.sheet_acts import SheetAct, about, acts
from humble_courier.catalog import resolve
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.sheets import sheet_from_text
from humble_courier.documents import device
from humble_courier.documents.device import DeviceEntry
from humble_courier.documents.reader import Document, read_text
from humble_courier.domain.patterns import pattern
from humble_courier.errors import BadInput, MachineRefused

_ID = re.compile(r"[a-z][a-z0-9-]{0,40}")
NAME = "this sheet"
BLANK = """courier: device/1
id: my-device
name: My device
kind: instrument            # instrument, vehicle, radio, controller or legacy
edition: its manual, edition and year
port:
  name: Service port
  mark: what stands beside it
  beside: ''                # what it is mistaken for
  connector: {family: D, contacts: 9, gender: socket}
  signals:
    2: TXD out rs232        # seen from the device
    3: RXD in rs232
    5: GND
  settings: 9600,8N1
  set_by: fixed
  meant: what it is for
end: crlf                   # cr, lf, crlf or none
echo: false
first_words: []             # words that change nothing, with the answer that proves it is this device
preconditions:
  - {act: Power it, proof: lamp lit}
lamps: []
note_down: [firmware, serial number]
source: written on site
"""


def keys() -> list[str]:
    """Every key that a device sheet knows, at whatever depth."""
    found: set[str] = set()
    for kind in vars(device).values():
        if isinstance(kind, type) and issubclass(kind, msgspec.Struct):
            found.update(kind.__struct_fields__)
    return sorted(found)


@dataclass(frozen=True)
class Checked:
    """What a sheet in the making says: itself, its acts and the rest, or the one thing that is wrong with the line."""

    acts: tuple[SheetAct, ...] = ()
    about: tuple[tuple[str, str], ...] = ()
    name: str = ""
    id: str = ""
    problem: str = ""
    line: int | None = None
    sheet: DeviceEntry | None = None


class Standing(StrEnum):
    """Where a sheet is from, in a word."""

    OWN = "your own"
    KIND = "kind"
    SHEET = "sheet"
    BROKEN = "cannot be read"


@dataclass(frozen=True)
class ListedSheet:
    """A sheet in the list."""

    id: str
    name: str
    told: str
    standing: Standing


def listed(catalog: Catalog, words: str = "") -> list[ListedSheet]:
    """The sheets in which all words occur; one's own first, then those of devices, then the kinds."""
    found = []
    for id_ in catalog.device_ids():
        sheet = _read(id_, catalog)
        name, standing = sheet.name if sheet is not None else id_, _standing(id_, sheet is not None, catalog)
        told = str(standing)
        if sheet is not None:
            settings, meant = sheet.port.settings.replace(",", " "), sheet.port.meant or sheet.port.name
            told = f"{settings} · {standing} · {sheet.kind} · {meant}"
        found.append(ListedSheet(id_, name, told, standing))
    wanted = words.lower().split()
    kept = [one for one in found if all(word in f"{one.name} {one.told} {one.id}".lower() for word in wanted)]
    order = (Standing.BROKEN, Standing.OWN, Standing.SHEET, Standing.KIND)
    return sorted(kept, key=lambda one: order.index(one.standing))


def _read(id_: str, catalog: Catalog) -> DeviceEntry | None:
    """The sheet; None for one of one's own that was spoiled by hand."""
    try:
        return catalog.device(id_)
    except BadInput:
        return None


def _standing(id_: str, whole: bool, catalog: Catalog) -> Standing:
    if not whole:
        return Standing.BROKEN
    if is_own(id_, catalog):
        return Standing.OWN
    return Standing.KIND if catalog.is_kind(id_) else Standing.SHEET


def answers(sheet: DeviceEntry) -> list[tuple[str, str]]:
    """What it is asked first, and what it answers: as it came, else what can be read out of it."""
    found = []
    for words in sheet.first_words:
        fields = list(pattern(words.expect).names)
        told = words.example.strip() or (f"an answer with its {', '.join(fields)}" if fields else "an answer")
        found.append((words.say, f"{told}: {words.means}"))
    return found


def headline(sheet: DeviceEntry, standing: str) -> tuple[str, str]:
    """What the sheet says in one sentence, and where it is from."""
    port = sheet.port
    speaks = f", speaks {port.protocol}" if port.protocol != "text" else ""
    words = [words.say for words in sheet.first_words]
    proof = f" Proven by {', '.join(words)}." if words else ""
    told = f"{sheet.name}: {port.settings.replace(',', ' ')} at its {port.name}{speaks}"
    return told, f"{standing[:1].upper()}{standing[1:]}, after {sheet.edition}.{proof}"


def check(text: str, catalog: Catalog) -> Checked:
    """Judge a sheet in the making."""
    try:
        sheet = sheet_from_text(text, NAME, catalog.cautions)
        if not _ID.fullmatch(sheet.id):
            raise BadInput(f"id “{sheet.id}”: expected small letters, digits and hyphens", file=NAME, line=2)
        for port in (sheet.port, *sheet.other_ports):
            resolve.port(Document(NAME, None), (), sheet.id, port.name, port.connector, port.signals, catalog.shapes)
    except BadInput as error:
        return Checked(problem=error.text, line=error.line)
    return Checked(tuple(acts(sheet, catalog.cautions)), tuple(about(sheet)), sheet.name, sheet.id, sheet=sheet)


def begun_from(id_: str | None, catalog: Catalog) -> str:
    """The text to begin with: a blank, or the sheet of a near relative under another id."""
    if id_ is None:
        return BLANK
    text = read_text(catalog.sheet_file(id_))
    return re.sub(rf"^id: {re.escape(id_)}$", f"id: my-{id_}", text, count=1, flags=re.MULTILINE)


def is_own(id_: str, catalog: Catalog) -> bool:
    """Whether a sheet is one's own."""
    return catalog.own is not None and (catalog.own / f"{id_}.yaml").is_file()


def save(text: str, catalog: Catalog) -> Path:
    """Save a sheet under its id. Raises BadInput where it is not right yet, MachineRefused where it cannot be written."""
    found = check(text, catalog)
    if found.problem:
        raise BadInput(found.problem, file=NAME, line=found.line)
    if catalog.own is None:
        raise MachineRefused("there is no folder for sheets of one's own", "Choose one: --data DIR")
    with unwritable(catalog.own, "Choose another folder: --data DIR"):
        catalog.own.mkdir(parents=True, exist_ok=True)
    path = catalog.own / f"{found.id}.yaml"
    write_whole(path, text.encode())
    return path
