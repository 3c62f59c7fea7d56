"""The records: nothing that was saved is lost, newer databases are left alone, the migrations make the tables."""

import os
import signal
import sqlite3
import subprocess
import sys
from pathlib import Path

import msgspec
import pytest
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory

import humble_courier.records
from humble_courier.documents.link import LinkModel, LinkPort
from humble_courier.documents.records import Export, Proof, Word
from humble_courier.domain.facts import Fact, Provenance
from humble_courier.errors import MachineRefused
from humble_courier.records.database import FILE, HEAD
from humble_courier.records.store import Store, me
from humble_courier.records.tables import Base

LINK = LinkModel("link/1", LinkPort(port="usb-a"), LinkPort(device="gauge-logger"))
PROOF = Proof(
    1.5, "/dev/ttyUSB0", "USB adapter", ["USB adapter", "Crossed cable"], "1200,7E1", "1200,7E1",
    {"station": "SKW-GH-07"}, [Word(1.0, "we", "49440d0a", "ID", [], "asks"), Word(1.1, "they", "ff", "<FF>", [0], "")], [],
)  # fmt: skip


def test_what_is_kept_comes_back(tmp_path: Path) -> None:
    store = Store(tmp_path)
    id_ = store.save_link(LINK, "weir")
    store.add_facts(id_, [Fact("port", "open", Provenance.OBSERVED, "us", 2.0)])
    store.add_proof(id_, PROOF)
    store.remember("place", "port")
    store.close()
    again = Store(tmp_path)
    assert again.link(id_) == LINK
    assert again.links() == [(id_, "weir")]
    assert again.facts(id_) == [Fact("port", "open", Provenance.OBSERVED, "us", 2.0)]
    assert again.proofs(id_) == [msgspec.structs.replace(PROOF, who=me())]
    assert again.setting("place") == "port"
    again.remember("place", None)
    assert again.setting("place") is None
    again.close()


def test_the_export_follows_its_schema(tmp_path: Path) -> None:
    store = Store(tmp_path)
    store.add_proof(store.save_link(LINK, "weir"), PROOF)
    text = msgspec.json.encode(store.export())
    read = msgspec.json.decode(text, type=Export)
    assert read.links[0].proofs == [msgspec.structs.replace(PROOF, who=me())]
    store.close()


def test_a_killed_process_loses_nothing_that_was_saved(tmp_path: Path) -> None:
    code = f"""
import sys
from pathlib import Path
from humble_courier.records.store import Store
from tests.records.test_store import LINK, PROOF
store = Store(Path({str(tmp_path)!r}))
id_ = store.save_link(LINK, "weir")
for i in range(1000):
    print(store.add_proof(id_, PROOF), flush=True)
"""
    process = subprocess.Popen(
        [sys.executable, "-c", code], stdout=subprocess.PIPE, text=True, cwd=Path(__file__).parents[2]
    )
    assert process.stdout is not None
    saved = 0
    while saved < 20:
        saved = int(process.stdout.readline())
    os.kill(process.pid, signal.SIGKILL)
    rest = process.stdout.read().split()
    process.wait()
    process.stdout.close()
    saved = max([saved, *(int(n) for n in rest)])
    store = Store(tmp_path)
    proofs = store.proofs(store.links()[0][0])
    assert len(proofs) >= saved
    assert all(len(proof.words) == 2 for proof in proofs)
    store.close()


def test_a_newer_database_is_left_alone(tmp_path: Path) -> None:
    store = Store(tmp_path)
    store.save_link(LINK, "weir")
    store.close()
    with sqlite3.connect(tmp_path / FILE) as database:
        database.execute("UPDATE alembic_version SET version_num = '9999'")
    before = (tmp_path / FILE).read_bytes()
    with pytest.raises(MachineRefused, match="newer version"):
        Store(tmp_path)
    database.close()
    assert (tmp_path / FILE).read_bytes() == before


def test_what_is_no_database_is_told(tmp_path: Path) -> None:
    (tmp_path / FILE).write_bytes(b"no database at all " * 100)
    with pytest.raises(MachineRefused, match="damaged"):
        Store(tmp_path)
    (tmp_path / "file").write_text("x")
    with pytest.raises(MachineRefused, match="--data"):
        Store(tmp_path / "file" / "inside")


def test_a_full_disk_is_told_and_what_was_saved_stays(tmp_path: Path) -> None:
    store = Store(tmp_path)
    id_ = store.save_link(LINK, "weir")
    with store._write() as session:  # a database that may not grow stands for a disk that is full
        pages = session.connection().exec_driver_sql("PRAGMA page_count").scalar()
        session.connection().exec_driver_sql(f"PRAGMA max_page_count = {pages}")
    with pytest.raises(MachineRefused, match="full"):
        for _ in range(50):
            store.add_proof(id_, PROOF)
    kept = len(store.proofs(id_))
    store.close()
    again = Store(tmp_path)
    assert again.link(id_) == LINK
    assert len(again.proofs(id_)) == kept
    again.close()


def test_migrations_make_exactly_the_tables(tmp_path: Path) -> None:
    """Outside reference: Alembic's own comparison of the database with the models."""
    store = Store(tmp_path)
    with store._database.engine.connect() as connection:
        ours = {"include_name": lambda name, kind, _: kind != "table" or not str(name).startswith("found")}
        context = MigrationContext.configure(connection, opts=ours)  # the index of the search is SQLite's own kind of table
        assert compare_metadata(context, Base.metadata) == []
    store.close()
    config = Config()
    config.set_main_option("script_location", str(Path(humble_courier.records.__file__).parent / "migrations"))
    config.set_main_option("path_separator", "os")
    assert ScriptDirectory.from_config(config).get_current_head() == HEAD


def test_write_ahead_log_and_full_synchronisation(tmp_path: Path) -> None:
    store = Store(tmp_path)
    with store._database.engine.connect() as connection:
        assert connection.exec_driver_sql("PRAGMA journal_mode").scalar() == "wal"
        assert connection.exec_driver_sql("PRAGMA synchronous").scalar() == 2
    store.close()
