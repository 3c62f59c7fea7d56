"""The database file: its engine, what kind of file it is and how old; its errors as one line with a remedy.

Each write is one transaction in WAL mode with full synchronisation. A folder that may not be written is looked at in a
copy: beside a database in WAL mode SQLite needs a place for files of its own, and what its log holds must not be missed.
"""

import re
import shutil
import sqlite3
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.exc import DatabaseError, OperationalError
from sqlalchemy.orm import Session

from humble_courier.errors import MachineRefused, Refusal
from humble_courier.records.tables import Base

HEAD = "0004"  # the newest migration; a test holds it against Alembic's own answer
FILE = "records.sqlite3"
BUSY_MS = 2000  # another window's write takes a hundredth of it

_REFUSALS = {
    sqlite3.SQLITE_FULL: Refusal.DISK_FULL,
    sqlite3.SQLITE_BUSY: Refusal.LOCKED,
    sqlite3.SQLITE_LOCKED: Refusal.LOCKED,
    sqlite3.SQLITE_NOTADB: Refusal.DAMAGED,
    sqlite3.SQLITE_CORRUPT: Refusal.DAMAGED,
}
_REMEDIES = {
    Refusal.DISK_FULL: "The disk is full: make room, then do it again. What was saved before is safe",
    Refusal.LOCKED: "Another program holds it: close that one",
    Refusal.DAMAGED: "The file is damaged: move it aside, or choose another folder: --data DIR",
    Refusal.UNWRITABLE: "See that you may write there, or choose another folder: --data DIR",
    Refusal.READ_ONLY: "You may not write there: make the folder writable, or copy it and choose the copy: --data DIR",
}
_NOT_WRITABLE = (sqlite3.SQLITE_READONLY, sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_PERM)


class Database:
    """An open database; `read_only` where it is but looked at. Raises MachineRefused where it cannot be used."""

    def __init__(self, folder: Path) -> None:
        self.path, self.read_only = folder / FILE, False
        self._copy: tempfile.TemporaryDirectory[str] | None = None
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise MachineRefused(f"{folder} cannot be made: {error.strerror}", "Choose another folder: --data DIR") from None
        self.engine = _engine(self.path)
        try:
            _upgrade(self.engine, self.path)
        except DatabaseError as error:
            self.engine.dispose()
            if _code(error) not in _NOT_WRITABLE or not self.path.exists():
                raise refusal(self.path, error) from error
            self._look()

    def _look(self) -> None:
        self.read_only = True
        try:
            self._copy = tempfile.TemporaryDirectory(prefix="humble-courier-")
            copy, log = Path(self._copy.name) / FILE, self.path.with_name(f"{FILE}-wal")
            shutil.copyfile(self.path, copy)
            if log.exists():
                shutil.copyfile(log, copy.with_name(log.name))
        except OSError as error:
            self.close()
            why = f"{self.path} cannot be copied to be looked at: {error.strerror}"
            raise MachineRefused(why, _REMEDIES[Refusal.UNWRITABLE]) from None
        self.engine = _engine(copy)
        with self.guard():
            _upgrade(self.engine, self.path)

    @contextmanager
    def guard(self) -> Iterator[None]:
        """Turn the database's errors into one line with a remedy."""
        try:
            yield
        except (OperationalError, DatabaseError) as error:
            raise refusal(self.path, error) from error

    def may_write(self) -> None:
        """Raises MachineRefused where the records may only be looked at."""
        if self.read_only:
            raise MachineRefused(f"{self.path} may only be looked at", _REMEDIES[Refusal.READ_ONLY], Refusal.READ_ONLY)

    def begin(self, session: Session) -> None:
        """Before a write: the file's own lock makes writers take turns."""

    def end(self, session: Session) -> None:
        """After a write: nothing is left to do."""

    def close(self) -> None:
        """Let go of the file."""
        self.engine.dispose()
        if self._copy is not None:
            self._copy.cleanup()


def _code(error: DatabaseError) -> int:
    """The primary code: what stands above the low byte only says where it happened (sqlite.org/rescode)."""
    return int(getattr(error.orig, "sqlite_errorcode", sqlite3.SQLITE_ERROR)) & 0xFF


def refusal(path: Path, error: DatabaseError) -> MachineRefused:
    """What the database says, with what to do."""
    code = _REFUSALS.get(_code(error), Refusal.UNWRITABLE)
    return MachineRefused(f"{path}: {error.orig}", _REMEDIES[code], code)


def _engine(path: Path) -> Engine:
    engine = create_engine(f"sqlite:///{path}")

    @event.listens_for(engine, "connect")
    def prepare(connection: sqlite3.Connection, _record: Any) -> None:
        connection.execute(f"PRAGMA busy_timeout = {BUSY_MS}")
        connection.execute("PRAGMA synchronous = FULL")
        connection.execute("PRAGMA foreign_keys = ON")

    return engine


def _upgrade(engine: Engine, path: Path) -> None:
    """Bring the tables to the newest version; two windows that begin at the same moment do it one after the other."""
    with engine.connect() as connection:
        found = _version(connection, path)
        connection.exec_driver_sql("PRAGMA journal_mode = WAL")  # is kept in the file, which is ours
    if found == HEAD:
        _try_to_write(engine)
        return
    with engine.begin() as connection:
        connection.exec_driver_sql("BEGIN IMMEDIATE")  # tables too are made all or none
        if _version(connection, path) != HEAD:
            migrate(connection)


def migrate(connection: Connection) -> None:
    """Bring the tables of a connection to the newest version."""
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.set_main_option("path_separator", "os")
    config.attributes["connection"] = connection
    command.upgrade(config, "head")


def _try_to_write(engine: Engine) -> None:
    """Where another window has the file open, it can be read though not written: that is known only by trying."""
    with engine.connect() as connection:
        try:
            connection.exec_driver_sql("UPDATE alembic_version SET version_num = version_num")
        except OperationalError as error:
            if _code(error) != sqlite3.SQLITE_BUSY:  # who writes at this moment will have written soon
                raise
        connection.rollback()


def _version(connection: Connection, path: Path) -> str | None:
    """The migration that the database stands at; None for an empty one. Raises MachineRefused for what is not ours."""
    tables = {row[0] for row in connection.exec_driver_sql("SELECT name FROM sqlite_master WHERE type = 'table'")}
    if not tables:
        return None
    versions = (
        connection.exec_driver_sql("SELECT version_num FROM alembic_version").all() if "alembic_version" in tables else []
    )
    found = str(versions[0][0]) if versions else ""
    if not re.fullmatch(r"\d{4}", found) or not tables & set(Base.metadata.tables):
        raise MachineRefused(
            f"{path} is a database of another program",
            "Choose another folder: --data DIR. Nothing was changed",
            Refusal.NOT_OURS,
        )
    if found > HEAD:
        raise MachineRefused(
            f"{path} was written by a newer version of the program ({found}, this one knows {HEAD})",
            "Update the program, or choose another folder: --data DIR. Nothing was changed",
            Refusal.NEWER,
        )
    return found
