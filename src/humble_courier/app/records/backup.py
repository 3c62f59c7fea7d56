"""A copy of everything in one file, and back: the database as SQLite copies it, the sheets of one's own, a first line.

The copy is made by SQLite's own way of copying an open database: another window may write meanwhile.
"""

import json
import shutil
import sqlite3
import tempfile
import time
import zipfile
from contextlib import closing
from pathlib import Path

from humble_courier.app.files import unwritable
from humble_courier.errors import BadInput, MachineRefused

FORMAT = "records-copy/1"
FIRST, SHEETS, FOLDER = "courier.json", "devices", "copies"
KEPT_DAYS = 7  # copies of as many days are kept
LARGEST = 4 << 30  # bytes that a copy may unpack to


def back_up(folder: Path, to: Path) -> int:
    """Copy the records of a folder into a file; returns its bytes. Raises BadInput and MachineRefused."""
    from humble_courier.records.store import FILE

    if not (folder / FILE).exists():
        raise BadInput("there are no records yet", file=folder / FILE)
    part = to.with_name(f"{to.name}.part")
    with unwritable(to), tempfile.TemporaryDirectory() as between:
        to.parent.mkdir(parents=True, exist_ok=True)
        copy = Path(between) / FILE
        with closing(sqlite3.connect(folder / FILE)) as ours, closing(sqlite3.connect(copy)) as theirs:
            ours.backup(theirs)
        with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr(FIRST, json.dumps({"courier": FORMAT, "at": time.time()}))
            archive.write(copy, FILE)
            for sheet in sorted((folder / SHEETS).glob("*.yaml")):
                archive.write(sheet, f"{SHEETS}/{sheet.name}")
        part.replace(to)
    return to.stat().st_size


def restore(folder: Path, copy: Path) -> Path:
    """Put a copy in the place of what is there, which is moved aside; returns where to.

    Raises BadInput for what is no copy, MachineRefused where the folder cannot be written. Nothing changed then.
    """
    from humble_courier.records.store import FILE

    with tempfile.TemporaryDirectory(dir=_made(folder)) as between:
        unpacked = Path(between)
        names = _unpack(copy, unpacked, FILE)
        aside = folder / FOLDER / f"before-{time.strftime('%Y%m%d-%H%M%S')}"
        with unwritable(folder):
            aside.mkdir(parents=True, exist_ok=True)
            for old in (FILE, f"{FILE}-wal", f"{FILE}-shm", SHEETS):
                if (folder / old).exists():
                    shutil.move(folder / old, aside / old)
            for name in names:
                (folder / name).parent.mkdir(parents=True, exist_ok=True)
                (unpacked / name).replace(folder / name)
    return aside


def _made(folder: Path) -> Path:
    with unwritable(folder):
        folder.mkdir(parents=True, exist_ok=True)
    return folder


def _unpack(copy: Path, into: Path, database: str) -> list[str]:
    """The files of a copy, checked before anything is touched."""
    try:
        with zipfile.ZipFile(copy) as archive:
            entries = {entry.filename: entry for entry in archive.infolist()}
            wanted = [n for n in entries if n == database or (Path(n).parent == Path(SHEETS) and n.endswith(".yaml"))]
            first = json.loads(archive.read(FIRST)) if FIRST in entries else {}
            if first.get("courier") != FORMAT or database not in wanted:
                raise BadInput("this is no copy of records: make one with records backup", file=copy)
            if sum(entries[name].file_size for name in wanted) > LARGEST:
                raise BadInput("this copy would unpack to more than records ever hold", file=copy)
            for name in wanted:
                archive.extract(name, into)
    except OSError as error:
        raise MachineRefused(f"{copy} cannot be read: {error.strerror}", "See to its name and its permissions") from None
    except (zipfile.BadZipFile, ValueError, AttributeError, NotImplementedError, RuntimeError) as error:
        raise BadInput(f"this is no copy of records, or a damaged one: {error}", file=copy) from None
    try:
        with closing(sqlite3.connect(into / database)) as connection:
            said = connection.execute("PRAGMA integrity_check").fetchone()[0]
    except sqlite3.DatabaseError as error:
        said = str(error)
    if said != "ok":
        raise BadInput(f"the database in this copy is damaged: {said}", file=copy)
    return wanted


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
