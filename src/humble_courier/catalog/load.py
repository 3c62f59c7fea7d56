"""The catalog: the data files, read when first asked for, turned into values and looked up by id."""

from dataclasses import replace
from functools import cached_property
from pathlib import Path
from typing import TypeVar

from humble_courier.catalog import resolve
from humble_courier.catalog.diagnose_entries import CauseEntry, CheckEntry, SymptomEntry, WordsEntry
from humble_courier.catalog.entries import (
    AdviceEntry,
    BusProtocolEntry,
    CautionEntry,
    ColourEntry,
    LengthEntry,
    LevelEntry,
    LogEntry,
    NamesEntry,
    PartEntry,
    PlanEntry,
    PortEntry,
    SentenceEntry,
    TakerEntry,
    WaitEntry,
    WireEntry,
)
from humble_courier.catalog.entry_file import EntryFile, Shapes
from humble_courier.catalog.sheets import consented, sheet_from_text
from humble_courier.documents.base import Sourced
from humble_courier.documents.device import DeviceEntry
from humble_courier.documents.reader import Document, read_text
from humble_courier.domain.hardware import Part, Port
from humble_courier.domain.signals import Level
from humble_courier.errors import BadInput

DATA = Path(__file__).parent / "data"
DEMO = Path(__file__).parent / "demo_devices"  # of the Skerrow Valley, an invented place
E = TypeVar("E", bound=Sourced)


class Catalog:
    """All that is known of the trade, read from one folder of data files; `own`: a folder of a person's own device sheets.

    Kinds of device are offered to everybody. The sheets of the demo are found by their id, since its links and the
    simulator name them, and offered only where `demo`.
    Raises BadInput with file and line where a file is malformed, and where an id is not known.
    """

    def __init__(self, folder: Path = DATA, own: Path | None = None, demo: bool = False) -> None:
        self.folder, self.own, self.demo = folder, own, demo

    def _plain(self, file: str, kind: type[E]) -> dict[str, E]:
        return EntryFile(self.folder / file, kind).all()

    @cached_property
    def shapes(self) -> Shapes:
        """Connector families by family and number of contacts."""
        own = self.own_connectors
        return Shapes(self.folder / "connectors.yaml", *([own] if own is not None and own.is_file() else []))

    @property
    def own_connectors(self) -> Path | None:
        """The file of a person's own connectors, beside the folder of the own sheets; None where there is no such place."""
        return self.own.parent / "connectors.yaml" if self.own is not None else None

    def look_again(self) -> None:
        """A connector of one's own was made: the shapes are read anew."""
        self.__dict__.pop("shapes", None)

    @cached_property
    def levels(self) -> dict[Level, LevelEntry]:
        """Electrical limits by level."""
        return {Level(id_): entry for id_, entry in self._plain("levels.yaml", LevelEntry).items()}

    @cached_property
    def wires(self) -> dict[str, WireEntry]:
        """Kinds of cable by id."""
        return self._plain("wires.yaml", WireEntry)

    @cached_property
    def lengths(self) -> dict[Level, LengthEntry]:
        """How far each family carries."""
        entries = self._plain("lengths.yaml", LengthEntry).values()
        return {Level(level): entry for entry in entries for level in entry.levels}

    @cached_property
    def colours(self) -> dict[str, ColourEntry]:
        """Orders of conductor colours by id."""
        return self._plain("colours.yaml", ColourEntry)

    @cached_property
    def log_lines(self) -> dict[str, LogEntry]:
        """Lines of the kernel's log by id, in the order in which they are tried."""
        return self._plain("kernel_log.yaml", LogEntry)

    @cached_property
    def driver_plan(self) -> dict[str, PlanEntry]:
        """Steps of the driver plan by id, in their order."""
        return self._plain("driver_plan.yaml", PlanEntry)

    @cached_property
    def port_takers(self) -> dict[str, TakerEntry]:
        """Programs that take ports for themselves, by the name that the system gives them."""
        return {entry.program: entry for entry in self._plain("port_takers.yaml", TakerEntry).values()}

    @cached_property
    def hand_over(self) -> dict[str, AdviceEntry]:
        """How a port is handed into a program that accepts low numbers only."""
        return self._plain("hand_over.yaml", AdviceEntry)

    @cached_property
    def bus_protocols(self) -> dict[str, BusProtocolEntry]:
        """What buses allow, by id."""
        return self._plain("bus_protocols.yaml", BusProtocolEntry)

    def names(self, id_: str) -> dict[int, str]:
        """What the numbers of a protocol are called (`j1939-groups`, `j1587-parameters`, …)."""
        return {int(number): name for number, name in self.numbered_names[id_].names.items()}

    @cached_property
    def numbered_names(self) -> dict[str, NamesEntry]:
        """Lists of names by id."""
        return self._plain("numbered_names.yaml", NamesEntry)

    def carries(self) -> dict[str, list[str]]:
        """What a listener can take from a sentence, by its formatter."""
        return {formatter: entry.carries for formatter, entry in self.sentences.items()}

    @cached_property
    def sentences(self) -> dict[str, SentenceEntry]:
        """NMEA 0183 sentences by formatter."""
        return self._plain("sentences.yaml", SentenceEntry)

    @cached_property
    def visa_side_by_side(self) -> dict[str, AdviceEntry]:
        """What to do where two VISA libraries stand side by side, in order."""
        return self._plain("visa_side_by_side.yaml", AdviceEntry)

    @cached_property
    def waits(self) -> dict[str, WaitEntry]:
        """How long protocols wait, by id."""
        return self._plain("waits.yaml", WaitEntry)

    @cached_property
    def cautions(self) -> dict[str, CautionEntry]:
        """Cautions by id."""
        return self._plain("cautions.yaml", CautionEntry)

    @cached_property
    def causes(self) -> dict[str, CauseEntry]:
        """Why a link does not work, by id."""
        return self._plain("diagnose/causes.yaml", CauseEntry)

    @cached_property
    def checks(self) -> dict[str, CheckEntry]:
        """What can be looked at, by id, in the order of the file."""
        return self._plain("diagnose/checks.yaml", CheckEntry)

    @cached_property
    def symptoms(self) -> dict[str, SymptomEntry]:
        """What people see when a link does not work, by id."""
        return self._plain("diagnose/symptoms.yaml", SymptomEntry)

    @cached_property
    def usual_words(self) -> dict[str, str]:
        """For words that people use, the word that the checks use."""
        entries = self._plain("diagnose/words.yaml", WordsEntry).values()
        return {word: entry.id for entry in entries for word in entry.words}

    @property
    def port_entries(self) -> dict[str, PortEntry]:
        """The port entries as they stand in the file, with their sources."""
        return self._ports.all()

    @property
    def part_entries(self) -> dict[str, PartEntry]:
        """The part entries as they stand in the file, with their sources."""
        return self._parts.all()

    @cached_property
    def _ports(self) -> EntryFile[PortEntry]:
        return EntryFile(self.folder / "ports.yaml", PortEntry)

    @cached_property
    def _parts(self) -> EntryFile[PartEntry]:
        return EntryFile(self.folder / "parts.yaml", PartEntry)

    def port(self, id_: str) -> Port:
        """A port by id; raises BadInput with the nearest ids where it is unknown."""
        document, entry = _lookup(self._ports, id_, "port")
        return resolve.catalog_port(document, (0,), entry, self.shapes)

    def part(self, id_: str) -> Part:
        """A part by id; raises BadInput with the nearest ids where it is unknown."""
        document, entry = _lookup(self._parts, id_, "part")
        return resolve.part(document, (0,), entry, self.shapes)

    def device_ids(self) -> list[str]:
        """Ids of the device sheets that are offered: a person's own, the demo's where it is one, then kinds of device."""
        folders = [folder for folder in self._sheet_folders if self.demo or folder != DEMO]
        listed = [sorted(path.stem for path in folder.glob("*.yaml")) for folder in folders]
        return list(dict.fromkeys(id_ for ids in listed for id_ in ids))

    def is_kind(self, id_: str) -> bool:
        """Whether a sheet is a kind of device, from published conventions, and not one device."""
        return self.has_sheet(id_) and self.sheet_file(id_).parent == self.folder / "kinds"

    @property
    def _sheet_folders(self) -> list[Path]:
        return [*([self.own] if self.own else []), DEMO, self.folder / "kinds"]

    def has_sheet(self, id_: str) -> bool:
        """Whether a device sheet has this id, offered or not."""
        return any((folder / f"{id_}.yaml").is_file() for folder in self._sheet_folders)

    def sheet_file(self, id_: str) -> Path:
        """The file of a device sheet; a person's own stands before a shipped one. Raises BadInput where there is none."""
        found = next((folder for folder in self._sheet_folders if (folder / f"{id_}.yaml").is_file()), None)
        if found is not None:
            return found / f"{id_}.yaml"
        raise BadInput(f"unknown device “{id_}”{nearest(id_, self.device_ids())}")

    def device(self, id_: str) -> DeviceEntry:
        """A device sheet by id; raises BadInput where there is none."""
        path = self.sheet_file(id_)
        sheet = sheet_from_text(read_text(path), str(path), self.cautions)
        if sheet.id != id_:
            raise BadInput(f"id “{sheet.id}” differs from the file's name", file=path)
        return consented(sheet) if path.parent == self.own else sheet

    def device_port(self, sheet: DeviceEntry) -> Port:
        """The port of a device sheet as a value."""
        document = Document(f"device {sheet.id}", None)
        port = sheet.port
        made = resolve.port(document, (), sheet.id, port.name, port.connector, port.signals, self.shapes)
        return replace(made, supplies_loop=port.supplies_loop, leave_open=frozenset(map(str.upper, sheet.leave_open)))


def _lookup(file: EntryFile[E], id_: str, what: str) -> tuple[Document, E]:
    if id_ not in file.texts:
        raise BadInput(f"unknown {what} “{id_}”{nearest(id_, list(file.texts))}")
    return file.entry(id_)


def nearest(word: str, known: list[str]) -> str:
    """A hint with the most similar known words, or with the way to list them."""
    from difflib import get_close_matches

    close = get_close_matches(word, known, n=2, cutoff=0.5)
    return f": did you mean {' or '.join(close)}?" if close else f": known are {', '.join(sorted(known)[:8])}, …"
