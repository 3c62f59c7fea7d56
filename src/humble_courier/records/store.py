"""The store: reads and writes links, facts and proofs. When a method returns, the data survives a kill and a power cut."""

import getpass
import socket
import uuid
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import asdict
from functools import partial
from pathlib import Path
from typing import Any, TypeVar

import msgspec
from sqlalchemy import delete, func, select, update
from sqlalchemy.dialects import sqlite
from sqlalchemy.orm import Session

from humble_courier.documents.link import LinkModel
from humble_courier.documents.records import Export, KeptLink, KnownFact, LeftOut, Proof, Version
from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.domain.facts import Fact
from humble_courier.errors import ChangedElsewhere
from humble_courier.records import reading
from humble_courier.records.database import FILE as FILE
from humble_courier.records.database import Database
from humble_courier.records.finding import Hit as Hit
from humble_courier.records.finding import find
from humble_courier.records.in_step import IN_STEP as IN_STEP
from humble_courier.records.in_step import Marks as Marks
from humble_courier.records.in_step import marks, touched
from humble_courier.records.merging import BothChanged as BothChanged
from humble_courier.records.merging import Merged as Merged
from humble_courier.records.merging import Taking, document_text, proof_values, proof_words
from humble_courier.records.tables import ContentRow, FactRow, LinkRow, ProofRow, SettingRow, VersionRow, WordRow
from humble_courier.records.taking_back import take_back
from humble_courier.records.team_database import TeamDatabase

S = TypeVar("S")
IDENTITY = "identity"  # the setting that holds it


class Store:
    """The records in one folder, or of a team. Every method raises MachineRefused where the database cannot be used.

    `url` names a database on a server; logs and files stay in the folder. `who` writes: by default whoever is logged in.
    """

    def __init__(
        self, folder: Path, url: str = "", who: str | None = None, clock: Clock = SystemClock()
    ) -> None:  # fmt: skip
        self._clock = clock
        self._database = TeamDatabase(folder, url) if url else Database(folder)
        self.path, self._reader = self._database.path, reading.Reader()
        self.who = me() if who is None else who

    @property
    def read_only(self) -> bool:
        """Whether the records may only be looked at."""
        return self._database.read_only

    @property
    def left_out(self) -> dict[str, str]:
        """Rows that could not be read so far, with the reason."""
        return self._reader.left_out

    def close(self) -> None:
        """Let go of the file."""
        self._database.close()

    @contextmanager
    def _write(self) -> Iterator[Session]:
        self._database.may_write()
        with self._database.guard(), Session(self._database.engine) as session, session.begin():
            self._database.begin(session)
            yield session

    @contextmanager
    def _read(self) -> Iterator[Session]:
        with self._database.guard(), Session(self._database.engine) as session:
            yield session

    # Links

    def save_link(self, model: LinkModel, name: str, id_: str | None = None) -> str:
        """Keep a link; returns its id (a new one where none is given)."""
        id_ = id_ or str(uuid.uuid4())
        document = document_text(model)
        now = self._clock.wall()
        with self._write() as session:
            session.merge(LinkRow(id=id_, name=name, document=document, updated=now))
            session.add(VersionRow(link_id=id_, name=name, document=document, updated=now, who=self.who))
        return id_

    def replace_link(self, id_: str, model: LinkModel, name: str, was: float) -> float:
        """Keep another version of a link that was last written at `was`; returns when this one was.

        Raises ChangedElsewhere where somebody else has written it meanwhile; then nothing changed.
        """
        now, document = self._clock.wall(), document_text(model)
        with self._write() as session:
            here = update(LinkRow).where(LinkRow.id == id_, LinkRow.updated == was)
            if not _rows(session.execute(here.values(name=name, document=document, updated=now))):
                raise ChangedElsewhere("this link")
            session.add(VersionRow(link_id=id_, name=name, document=document, updated=now, who=self.who))
        return now

    def link(self, id_: str) -> LinkModel | None:
        """The document of a link; None where there is no such link, or it cannot be read (see `left_out`)."""
        kept = self.kept(id_)
        return kept[0] if kept is not None else None

    def kept(self, id_: str) -> tuple[LinkModel, float] | None:
        """The document of a link, and when it was last written."""
        with self._read() as session:
            row = session.get(LinkRow, id_)
            model = self._reader.one(f"link {id_}", lambda: reading.model(row.document)) if row else None
            return (model, row.updated) if row and model else None

    def links(self) -> list[tuple[str, str]]:
        """Id and name of all links, the newest first."""
        with self._read() as session:
            rows = session.execute(select(LinkRow.id, LinkRow.name).order_by(LinkRow.updated.desc())).all()
            return [(row[0], row[1]) for row in rows]

    def rename(self, id_: str, name: str) -> None:
        """Another name; the document stays."""
        with self._write() as session:
            row = session.get(LinkRow, id_)
            if row is not None:
                row.name = name
                session.add(
                    VersionRow(link_id=id_, name=name, document=row.document, updated=self._clock.wall(), who=self.who)
                )

    def versions(self, id_: str) -> list[Version]:
        """A link as it was from time to time, oldest first."""
        with self._read() as session:
            rows = session.scalars(select(VersionRow).where(VersionRow.link_id == id_).order_by(VersionRow.updated))
            return self._reader.all(rows, "version", reading.version)

    def find(self, words: str, since: float = 0.0) -> list[Hit]:
        """Where all these words stand, in links, facts, proofs and what was heard; the best first."""
        with self._read() as session:
            return find(session, words, since)

    def remove(self, id_: str) -> KeptLink | None:
        """Take a link out with all its facts and proofs, and hand it over; None where there is none that can be read."""
        kept = self.whole(id_)
        if kept is not None:
            with self._write() as session:
                session.execute(delete(LinkRow).where(LinkRow.id == id_))
                # Numbers of rows that are gone may be given out again: whoever is in step looks at everything once more.
                session.execute(delete(SettingRow).where(SettingRow.key.startswith(IN_STEP)))
        return kept

    def put_back(self, kept: KeptLink) -> None:
        """A link that was taken out, under its own id, as it was."""
        self.take([kept])

    def take(self, links: Sequence[KeptLink]) -> Merged:
        """Take in what another copy of the records holds; nothing that is here is lost, and nothing of it stands twice."""
        with self._write() as session:
            merged = Taking(session).take(links)
            session.flush()
            self._database.end(session)
            return merged

    # In step with another copy

    def identity(self) -> str:
        """By which these very records are known: another database under the same name has another one."""
        found = self.setting(IDENTITY)
        if found is None:
            self.remember(IDENTITY, str(uuid.uuid4()))
            found = self.setting(IDENTITY) or ""
        return found

    def marks(self) -> Marks:
        """How far these records go by now."""
        with self._read() as session:
            return marks(session)

    def take_back(self, before: Marks, after: Marks) -> int:
        """What was added between two marks goes again; returns how many rows."""
        with self._write() as session:
            return take_back(session, before, after)

    def count(self) -> int:
        """How many links there are."""
        with self._read() as session:
            return session.scalar(select(func.count()).select_from(LinkRow)) or 0

    def touched(self, since: Marks) -> list[str]:
        """Links of which something came after that."""
        with self._read() as session:
            return touched(session, since)

    def news(self, since: Marks) -> list[KeptLink]:
        """Links of which something came after that, whole."""
        with self._read() as session:
            ids = touched(session, since)
        return [kept for id_ in ids if (kept := self.whole(id_)) is not None]

    def contents(self) -> set[str]:
        """Names of the contents that the database itself holds."""
        with self._read() as session:
            return set(session.scalars(select(ContentRow.id)))

    def content(self, id_: str) -> bytes | None:
        """One of them."""
        with self._read() as session:
            row = session.get(ContentRow, id_)
            return bytes(row.data) if row else None

    def add_content(self, id_: str, data: bytes) -> None:
        """Put one in; what is there under this name is the same."""
        with self._write() as session:
            session.merge(ContentRow(id=id_, data=data))

    def last_proofs(self, ids: Sequence[str] | None = None) -> dict[str, float]:
        """When each link (or each of these) was proven last, in seconds since the epoch."""
        asked = select(ProofRow.link_id, func.max(ProofRow.at)).group_by(ProofRow.link_id)
        with self._read() as session:
            rows = session.execute(asked if ids is None else asked.where(ProofRow.link_id.in_(ids))).all()
            return {row[0]: row[1] for row in rows}

    # Facts

    def add_facts(self, link_id: str, facts: list[Fact]) -> None:
        """Keep facts; older ones of the same subject stay in the history."""
        with self._write() as session:
            session.add_all(FactRow(link_id=link_id, **asdict(fact)) for fact in facts)

    def facts(self, link_id: str) -> list[Fact]:
        """All facts of a link, oldest first."""
        with self._read() as session:
            rows = session.scalars(select(FactRow).where(FactRow.link_id == link_id).order_by(FactRow.id))
            return self._reader.all(rows, "fact", reading.fact)

    # Proofs

    def add_proof(self, link_id: str, proof: Proof) -> int:
        """Keep a proof with all its words; returns its number."""
        row = ProofRow(link_id=link_id, **proof_values(msgspec.structs.replace(proof, who=proof.who or self.who)))
        row.words = [WordRow(**word) for word in proof_words(proof)]
        with self._write() as session:
            session.add(row)
            session.flush()
            return row.id

    def proofs(self, link_id: str) -> list[Proof]:
        """All proofs of a link, oldest first."""
        with self._read() as session:
            rows = session.scalars(select(ProofRow).where(ProofRow.link_id == link_id).order_by(ProofRow.id))
            return self._reader.all(rows, "proof", self._reader.proof)

    # Where the program was left

    def setting(self, key: str) -> str | None:
        """A remembered value."""
        with self._read() as session:
            row = session.get(SettingRow, key)
            return row.value if row else None

    def struct(self, key: str, kind: type[S]) -> S | None:
        """A remembered value of some kind; None where there is none, or it cannot be read (see `left_out`)."""
        text = self.setting(key)
        return self._reader.one(f"setting {key}", lambda: msgspec.json.decode(text, type=kind)) if text else None

    def remember(self, key: str, value: str | None) -> None:
        """Remember a value; None forgets it."""
        with self._write() as session:
            if value is None:
                session.execute(delete(SettingRow).where(SettingRow.key == key))
            else:  # in one statement: another window may write the same key at this moment
                row = self._insert(SettingRow).values(key=key, value=value)
                session.execute(row.on_conflict_do_update(index_elements=[SettingRow.key], set_={"value": value}))

    @property
    def _insert(self) -> Callable[..., Any]:
        """The database's own way of putting in what may be there."""
        if self._database.engine.dialect.name != "postgresql":
            return sqlite.insert
        from sqlalchemy.dialects import postgresql  # a team's: read where there is one

        return postgresql.insert

    def replace(self, key: str, value: str, was: str | None) -> None:
        """Remember a value in place of the one that was read; raises ChangedElsewhere where it is another by now."""
        with self._write() as session:
            if was is None:
                there = session.get(SettingRow, key) is not None
                session.merge(SettingRow(key=key, value=value))
            else:
                here = update(SettingRow).where(SettingRow.key == key, SettingRow.value == was)
                there = not _rows(session.execute(here.values(value=value)))
            if there:
                raise ChangedElsewhere("this")

    def failing(self) -> tuple[int, int]:
        """How many proofs, and facts that stand against a link: another pair where one came or went."""
        with self._read() as session:
            proofs = session.scalar(select(func.count()).select_from(ProofRow)) or 0
            against = session.scalar(select(func.count()).select_from(FactRow).where(FactRow.holds.is_(False))) or 0
            return proofs, against

    def past(self) -> list[KeptLink]:
        """All links with what came of them, in few questions: without words and versions, and facts only against them."""
        with self._read() as session:
            facts, proofs = defaultdict[str, list[KnownFact]](list), defaultdict[str, list[Proof]](list)
            against = select(FactRow).where(FactRow.holds.is_(False)).order_by(FactRow.id)
            for fact_row in session.scalars(against):
                facts[fact_row.link_id] += [known(one) for one in self._reader.all([fact_row], "fact", reading.fact)]
            # Columns in place of objects, which take a while for 200 000 rows.
            alone = [column for column in ProofRow.__table__.columns if column.name != "facts"]
            for row in session.execute(select(*alone).order_by(ProofRow.id)):
                proofs[row.link_id] += self._reader.all([row], "proof", reading.proof_alone)
        models = self.models()
        return [KeptLink(id_, name, 0.0, one, facts[id_], proofs[id_]) for id_, name, one in models if one is not None]

    def models(self) -> list[tuple[str, str, LinkModel | None]]:
        """Id, name and document of all links, the newest first; None for one that cannot be read."""
        return [(id_, name, model) for id_, name, _, model in self.rows()]

    def rows(self, ids: Sequence[str] | None = None) -> list[tuple[str, str, float, LinkModel | None]]:
        """Id, name, last change and document of all links (or of these), the newest first."""
        asked = select(LinkRow.id, LinkRow.name, LinkRow.updated, LinkRow.document).order_by(LinkRow.updated.desc())
        with self._read() as session:
            rows = session.execute(asked if ids is None else asked.where(LinkRow.id.in_(ids))).all()
        return [
            (id_, name, at, self._reader.one(f"link {id_}", partial(reading.model, text))) for id_, name, at, text in rows
        ]

    def stamps(self, ids: Sequence[str]) -> list[tuple[str, str, float]]:
        """Id, name and last change of these links: others where one of them was changed."""
        with self._read() as session:
            found = session.execute(select(LinkRow.id, LinkRow.name, LinkRow.updated).where(LinkRow.id.in_(ids))).all()
        return sorted((row[0], row[1], row[2]) for row in found)

    def damage(self) -> list[str]:
        """What the database finds wrong with itself: pages, rows without their link, the index of the search."""
        if self._database.engine.dialect.name != "sqlite":
            return []  # a server keeps its pages whole, and lets no row stand without its link
        with self._read() as session:
            connection = session.connection()
            found = [str(row[0]) for row in connection.exec_driver_sql("PRAGMA integrity_check") if row[0] != "ok"]
            loose = connection.exec_driver_sql("PRAGMA foreign_key_check").all()
            found += [f"a row of {row[0]} belongs to no {row[2]}" for row in loose]
        return found

    def whole(self, id_: str) -> KeptLink | None:
        """A link with all that is known of it; None where there is none that can be read."""
        with self._read() as session:
            name = session.scalar(select(LinkRow.name).where(LinkRow.id == id_))
        kept = self.kept(id_)
        if name is None or kept is None:
            return None
        model, at = kept
        return KeptLink(id_, name, at, model, [known(f) for f in self.facts(id_)], self.proofs(id_), self.versions(id_))

    def export(self) -> Export:
        """Everything that can be read, as the open document `records/1`, and the names of the rows that cannot."""
        with self._read() as session:
            ids = session.scalars(select(LinkRow.id).order_by(LinkRow.updated)).all()
        links = [kept for id_ in ids if (kept := self.whole(id_)) is not None]
        return Export("records/1", links, [LeftOut(row, why) for row, why in self.left_out.items()])


def _rows(result: object) -> int:
    """How many rows an update has met."""
    return int(getattr(result, "rowcount", 0))


def me() -> str:
    """The person who is logged in, at this computer."""
    try:
        return f"{getpass.getuser()}@{socket.gethostname()}"
    except (KeyError, OSError):  # a number without a name in the system's list
        return socket.gethostname()


def known(fact: Fact) -> KnownFact:
    """A fact in the open format."""
    return KnownFact(fact.subject, fact.text, fact.provenance.value, fact.source, fact.at, fact.holds)
