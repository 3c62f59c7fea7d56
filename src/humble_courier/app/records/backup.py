"""A copy of everything in one file, and back: the database as SQLite copies it, the sheets of one's own, a first line.

The copy is made by SQLite's own way of copying an open database: another window may write meanwhile.
"""

import errno
import json
import shutil
import sqlite3
import tempfile
import time
import zipfile
import zlib
from contextlib import closing, suppress
from pathlib import Path

from humble_courier.app.contents import FOLDER as FILES
from humble_courier.app.contents import is_content
from humble_courier.app.files import unwritable
from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.errors import BadInput, MachineRefused, Refusal
from humble_courier.records.in_use import InUse

FORMAT = "records-copy/1"
FIRST, SHEETS, FOLDER = "courier.json", "devices", "copies"
KEPT_DAYS = 7  # copies of as many days are kept
LARGEST = 4 << 30  # bytes that a copy may unpack to
ENCRYPTED = 1  # the flag of an entry of a zip file (APPNOTE 4.4.4, from memory)
METHODS = (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED)  # that a copy is written with


def back_up(folder: Path, to: Path, clock: Clock = SystemClock()) -> int:
    """Copy the records of a folder into a file; returns its bytes. Raises BadInput and MachineRefused."""
    from humble_courier.records.store import FILE

    if not (folder / FILE).exists():
        raise BadInput("there are no records yet", file=folder / FILE)
    part = to.with_name(f"{to.name}.part")
    try:
        with unwritable(to), tempfile.TemporaryDirectory() as between:
            to.parent.mkdir(parents=True, exist_ok=True)
            copy = Path(between) / FILE
            _copy_database(folder / FILE, copy)
            with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED) as archive:
                archive.writestr(FIRST, json.dumps({"courier": FORMAT, "at": clock.wall()}))
                archive.write(copy, FILE)
                for sheet in sorted((folder / SHEETS).glob("*.yaml")):
                    archive.write(sheet, f"{SHEETS}/{sheet.name}")
                for kept in sorted((folder / FILES).glob("*")):
                    archive.write(kept, f"{FILES}/{kept.name}")
            part.replace(to)
    except MachineRefused:
        with suppress(OSError):  # where it was never made
            part.unlink()
        raise
    return to.stat().st_size


def _copy_database(path: Path, copy: Path) -> None:
    try:
        with closing(sqlite3.connect(path)) as ours, closing(sqlite3.connect(copy)) as theirs:
            ours.backup(theirs)
    except sqlite3.DatabaseError as error:
        remedy = "Run records check; what can still be read goes out by records export"
        raise MachineRefused(f"{path} cannot be copied: {error}", remedy) from None


def restore(folder: Path, copy: Path) -> Path:
    """Put a copy in the place of what is there, which is moved aside; returns where to.

    Raises BadInput for what is no copy, MachineRefused where the folder cannot be written, or a window has the records open
    (it would go on writing into those that were moved aside). Nothing changed then.
    """
    from humble_courier.records.store import FILE

    with unwritable(folder):
        folder.mkdir(parents=True, exist_ok=True)
    in_use = InUse(folder)
    try:
        if in_use.elsewhere:
            raise MachineRefused(f"a window works on the records in {folder}", "Close it, then do it again", Refusal.LOCKED)
        with unwritable(folder), tempfile.TemporaryDirectory(dir=folder) as between:
            names = _unpack(copy, Path(between), FILE)
            aside = folder / FOLDER / f"before-{time.strftime('%Y%m%d-%H%M%S')}"
            aside.mkdir(parents=True, exist_ok=True)
            old = [name for name in (FILE, f"{FILE}-wal", f"{FILE}-shm", SHEETS) if (folder / name).exists()]
            old += [FILES] if (folder / FILES).exists() else []
            _exchange(folder, old, aside, names, Path(between))
    finally:
        in_use.close()
    return aside


def _exchange(folder: Path, old: list[str], aside: Path, names: list[str], unpacked: Path) -> None:
    """Old out, new in; where that fails, all is put back as it was. Everything lies on one disk: it is only renamed."""
    moved: list[str] = []
    try:
        for name in old:
            (folder / name).rename(aside / name)
            moved.append(name)
        for name in names:
            (folder / name).parent.mkdir(parents=True, exist_ok=True)
            (unpacked / name).replace(folder / name)
    except OSError:
        for name in moved:
            if (folder / name).is_dir():
                shutil.rmtree(folder / name)  # holds nothing but what came out of the copy
            (aside / name).rename(folder / name)
        raise


def _unpack(copy: Path, into: Path, database: str) -> list[str]:
    """The files of a copy, checked before anything is touched."""
    try:
        with zipfile.ZipFile(copy) as archive:
            entries = {entry.filename: entry for entry in archive.infolist() if not entry.flag_bits & ENCRYPTED}
            entries = {name: entry for name, entry in entries.items() if entry.compress_type in METHODS}
            wanted = [name for name in entries if name == database or _beside(Path(name))]
            first = json.loads(archive.read(FIRST)) if FIRST in entries else None
            if not isinstance(first, dict) or first.get("courier") != FORMAT or database not in wanted:
                raise BadInput("this is no copy of records: make one with records backup", file=copy)
            if sum(entries[name].file_size for name in wanted) > LARGEST:
                raise BadInput("this copy would unpack to more than records ever hold", file=copy)
            for name in wanted:
                archive.extract(name, into)
    except FileNotFoundError:
        raise BadInput("there is no such file", file=copy) from None
    except OSError as error:
        if error.errno != errno.EINVAL:  # a damaged directory that points before the begin of the file
            raise
        raise BadInput("this is a damaged copy of records: its directory points beside the file", file=copy) from None
    except (zipfile.BadZipFile, zlib.error, EOFError, ValueError) as error:  # an archive, a stream, its end, the first file
        raise BadInput(f"this is no copy of records, or a damaged one: {error}", file=copy) from None
    try:
        with closing(sqlite3.connect(into / database)) as connection:
            said = connection.execute("PRAGMA integrity_check").fetchone()[0]
    except sqlite3.DatabaseError as error:
        said = str(error)
    if said != "ok":
        raise BadInput(f"the database in this copy is damaged: {said}", file=copy)
    return wanted


def _beside(path: Path) -> bool:
    """Whether it may lie beside the database: a device sheet, or a kept file."""
    return (path.parent == Path(SHEETS) and path.suffix == ".yaml") or (path.parent == Path(FILES) and is_content(path.name))


def copy_of_the_day(folder: Path) -> Path | None:
    """Today's copy, made where there is none yet; older ones than a few days go. None where there is nothing to copy."""
    from humble_courier.records.store import FILE

    copies = folder / FOLDER
    today = copies / f"records-{time.strftime('%Y-%m-%d')}.zip"
    if today.exists() or not (folder / FILE).exists():
        return today if today.exists() else None
    back_up(folder, today)
    for old in sorted(copies.glob("records-*.zip"))[:-KEPT_DAYS]:
        old.unlink()
    return today
