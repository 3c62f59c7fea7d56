"""The store: opens (and where needed upgrades) the database, reads and writes links, facts and proofs.

Each write is one transaction in WAL mode with full synchronisation: when a method returns, the data survives a killed
process and a power cut.
"""

import json
import sqlite3
import time
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict
from pathlib import Path
from typing import Any

import msgspec
from sqlalchemy import Engine, create_engine, delete, event, select
from sqlalchemy.exc import DatabaseError, OperationalError
from sqlalchemy.orm import Session

from humble_courier.documents.link import LinkModel
from humble_courier.documents.records import Export, KeptLink, KnownFact, Proof, Word
from humble_courier.domain.facts import Fact, Provenance
from humble_courier.domain.text import printable
from humble_courier.errors import MachineRefused, Refusal
from humble_courier.records.tables import FactRow, LinkRow, ProofRow, SettingRow, WordRow

HEAD = "0001"  # the newest migration; a test holds it against Alembic's own answer
FILE = "records.sqlite3"


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
}


class Store:
    """The records in one folder. Raises MachineRefused where the folder or the database cannot be used."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / FILE
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise MachineRefused(f"{folder} cannot be made: {error.strerror}", "Choose another folder: --data DIR") from None
        self._engine = _engine(self.path)
        with self._guard():
            self._upgrade()

    def close(self) -> None:
        """Let go of the file."""
        self._engine.dispose()

    @contextmanager
    def _guard(self) -> Iterator[None]:
        """Turn the database's errors into one line with a remedy."""
        try:
            yield
        except (OperationalError, DatabaseError) as error:
            # The low byte is the primary code; what stands above it only says where it happened (sqlite.org/rescode).
            number = getattr(error.orig, "sqlite_errorcode", sqlite3.SQLITE_ERROR) & 0xFF
            code = _REFUSALS.get(number, Refusal.UNWRITABLE)
            raise MachineRefused(f"{self.path}: {error.orig}", _REMEDIES[code], code) from error

    @contextmanager
    def _write(self) -> Iterator[Session]:
        with self._guard(), Session(self._engine) as session, session.begin():
            yield session

    @contextmanager
    def _read(self) -> Iterator[Session]:
        with self._guard(), Session(self._engine) as session:
            yield session

    def _upgrade(self) -> None:
        with self._engine.connect() as connection:
            found = _version(connection)
            if found == HEAD:
                return
            if found is not None and found > HEAD:
                raise MachineRefused(
                    f"{self.path} was written by a newer version of the program ({found}, this one knows {HEAD})",
                    "Update the program, or choose another folder: --data DIR. Nothing was changed",
                )
        from alembic import command
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        config.set_main_option("path_separator", "os")
        with self._engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")

    # Links

    def save_link(self, model: LinkModel, name: str, id_: str | None = None) -> str:
        """Keep a link; returns its id (a new one where none is given)."""
        id_ = id_ or str(uuid.uuid4())
        document = msgspec.json.encode(model).decode()
        with self._write() as session:
            session.merge(LinkRow(id=id_, name=name, document=document, updated=time.time()))
        return id_

    def link(self, id_: str) -> LinkModel | None:
        """The document of a link; None where there is no such link."""
        with self._read() as session:
            row = session.get(LinkRow, id_)
            return msgspec.json.decode(row.document, type=LinkModel) if row else None

    def links(self) -> list[tuple[str, str]]:
        """Id and name of all links, the newest first."""
        with self._read() as session:
            rows = session.execute(select(LinkRow.id, LinkRow.name).order_by(LinkRow.updated.desc())).all()
            return [(row[0], row[1]) for row in rows]

    # Facts

    def add_facts(self, link_id: str, facts: list[Fact]) -> None:
        """Keep facts; older ones of the same subject stay in the history."""
        with self._write() as session:
            session.add_all(FactRow(link_id=link_id, **asdict(fact)) for fact in facts)

    def facts(self, link_id: str) -> list[Fact]:
        """All facts of a link, oldest first."""
        with self._read() as session:
            rows = session.scalars(select(FactRow).where(FactRow.link_id == link_id).order_by(FactRow.id))
            return [Fact(r.subject, r.text, Provenance(r.provenance), r.source, r.at, r.holds) for r in rows]

    # Proofs

    def add_proof(self, link_id: str, proof: Proof) -> int:
        """Keep a proof with all its words; returns its number."""
        row = ProofRow(
            link_id=link_id,
            at=proof.at,
            port=proof.port,
            adapter=proof.adapter,
            chain=json.dumps(proof.chain),
            computer_settings=proof.computer_settings,
            device_settings=proof.device_settings,
            identity=json.dumps(proof.identity),
            facts=msgspec.json.encode(proof.facts).decode(),
        )
        row.words = [
            WordRow(at=w.at, who=w.who, data=bytes.fromhex(w.hex), doubtful=json.dumps(w.doubtful), meaning=w.meaning)
            for w in proof.words
        ]
        with self._write() as session:
            session.add(row)
            session.flush()
            return row.id

    def proofs(self, link_id: str) -> list[Proof]:
        """All proofs of a link, oldest first."""
        with self._read() as session:
            rows = session.scalars(select(ProofRow).where(ProofRow.link_id == link_id).order_by(ProofRow.id))
            return [_proof(row) for row in rows]

    # Where the program was left

    def setting(self, key: str) -> str | None:
        """A remembered value."""
        with self._read() as session:
            row = session.get(SettingRow, key)
            return row.value if row else None

    def remember(self, key: str, value: str | None) -> None:
        """Remember a value; None forgets it."""
        with self._write() as session:
            if value is None:
                session.execute(delete(SettingRow).where(SettingRow.key == key))
            else:
                session.merge(SettingRow(key=key, value=value))

    def export(self) -> Export:
        """Everything, as the open document `records/1`."""
        with self._read() as session:
            rows = session.scalars(select(LinkRow).order_by(LinkRow.updated)).all()
            kept = [(r.id, r.name, r.updated, msgspec.json.decode(r.document, type=LinkModel)) for r in rows]
        return Export(
            "records/1",
            [
                KeptLink(id_, name, at, model, [known(f) for f in self.facts(id_)], self.proofs(id_))
                for id_, name, at, model in kept
            ],
        )


def known(fact: Fact) -> KnownFact:
    """A fact in the open format."""
    return KnownFact(fact.subject, fact.text, fact.provenance.value, fact.source, fact.at, fact.holds)


def _proof(row: ProofRow) -> Proof:
    words = [
        Word(w.at, "we" if w.who == "we" else "they", w.data.hex(), printable(w.data), json.loads(w.doubtful), w.meaning)
        for w in row.words
    ]
    return Proof(
        row.at, row.port, row.adapter, json.loads(row.chain), row.computer_settings, row.device_settings,
        json.loads(row.identity), words, msgspec.json.decode(row.facts, type=list[KnownFact]),
    )  # fmt: skip


def _engine(path: Path) -> Engine:
    engine = create_engine(f"sqlite:///{path}")

    @event.listens_for(engine, "connect")
    def prepare(connection: sqlite3.Connection, _record: Any) -> None:
        connection.execute("PRAGMA journal_mode = WAL")
        connection.execute("PRAGMA synchronous = FULL")
        connection.execute("PRAGMA foreign_keys = ON")
        connection.execute("PRAGMA busy_timeout = 2000")

    return engine


def _version(connection: Any) -> str | None:
    """The migration that the database stands at; None for an empty one."""
    tables = connection.exec_driver_sql("SELECT name FROM sqlite_master WHERE name = 'alembic_version'").all()
    if not tables:
        return None
    rows = connection.exec_driver_sql("SELECT version_num FROM alembic_version").all()
    return str(rows[0][0]) if rows else None
