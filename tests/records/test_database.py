"""Records that are damaged, that may not be written, that another window writes too, or that are not ours."""

import os
import sqlite3
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from humble_courier.app.kit.bag import Bag
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.records.records import Records
from humble_courier.catalog.load import Catalog
from humble_courier.documents.kit import KitItem
from humble_courier.documents.link_changes import with_settings
from humble_courier.domain.facts import Fact, Provenance
from humble_courier.errors import ChangedElsewhere, MachineRefused
from humble_courier.records.database import FILE
from humble_courier.records.store import Store
from tests.records.test_store import LINK, PROOF

NOBODY = 65534


def filled(folder: Path) -> str:
    store = Store(folder)
    id_ = store.save_link(LINK, "weir")
    store.add_facts(
        id_, [Fact("port", "open", Provenance.OBSERVED, "us", 2.0), Fact("x", "y", Provenance.ASSUMED, "us", 3.0)]
    )
    store.add_proof(id_, PROOF)
    store.add_proof(id_, PROOF)
    store.save_link(LINK, "bridge")
    store.close()
    return id_


def spoil(folder: Path, change: str) -> None:
    with sqlite3.connect(folder / FILE) as database:
        database.execute(change)
    database.close()


@pytest.mark.parametrize(
    ("change", "row", "kept"),
    [
        ("UPDATE facts SET provenance = 'hearsay' WHERE id = 1", "fact 1", (2, 1, 2, 2)),
        ("UPDATE facts SET at = 'noon' WHERE id = 2", "fact 2", (2, 1, 2, 2)),
        ("UPDATE proofs SET chain = '[' WHERE id = 2", "proof 2", (2, 2, 1, 2)),
        ("UPDATE proofs SET identity = '{\"a\": 1}' WHERE id = 1", "proof 1", (2, 2, 1, 2)),
        ("UPDATE words SET doubtful = 'x' WHERE id = 1", "word 1", (2, 2, 2, 1)),
        ("UPDATE words SET data = 'text' WHERE id = 2", "word 2", (2, 2, 2, 1)),
        ("UPDATE words SET who = 'you' WHERE id = 2", "word 2", (2, 2, 2, 1)),
        ("UPDATE links SET document = '{}' WHERE name = 'bridge'", "link ", (1, 2, 2, 2)),
    ],
)
def test_a_bad_row_costs_that_row_and_is_named(
    tmp_path: Path, change: str, row: str, kept: tuple[int, int, int, int]
) -> None:
    id_ = filled(tmp_path)
    spoil(tmp_path, change)
    store = Store(tmp_path)
    found = store.export()
    mine = next(link for link in found.links if link.id == id_)
    assert (len(found.links), len(mine.facts), len(mine.proofs), len(mine.proofs[0].words)) == kept
    assert [one.row.startswith(row) for one in found.left_out] == [True] and found.left_out[0].why
    assert len(store.links()) == 2
    store.close()


def test_a_kit_and_a_profile_that_cannot_be_read_stay_as_they_are(tmp_path: Path, catalog: Catalog) -> None:
    id_ = filled(tmp_path)
    store = Store(tmp_path)
    store.remember("kit", "{]")
    store.remember(f"profile:{id_}", "{]")
    bag = Bag(store)
    assert "cannot be read" in bag.problem and bag.kit.items == []
    with pytest.raises(Exception, match="cannot be read"):
        bag.change(bag.kit)
    link = OpenLink(catalog, store, id_, bag)
    assert link.profiles.profile is None and any("profile" in row for row in store.left_out)
    link.stop()
    assert store.setting("kit") == "{]"
    store.close()


def test_two_windows_on_one_link_overwrite_nothing(tmp_path: Path, catalog: Catalog) -> None:
    id_ = filled(tmp_path)
    here, there = Records(Store(tmp_path)), Records(Store(tmp_path))
    assert (here.marks, there.marks) == ([], ["open in another window too"])
    one, other = here.open(id_, catalog), there.open(id_, catalog)
    one.change(with_settings(one.document.model, computer="9600,8N1"))
    with pytest.raises(ChangedElsewhere, match="another window"):
        other.change(with_settings(other.document.model, computer="300,7E1"))
    assert other.document.model == one.document.model and not other.document.can_undo
    other.change(with_settings(other.document.model, computer="300,7E1"))
    here.bag.change(type(here.bag.kit)("kit/1", [KitItem(part="usb-rs232")]))
    with pytest.raises(ChangedElsewhere):
        there.bag.change(there.bag.kit)
    assert there.bag.kit == here.bag.kit
    here.close()
    assert there.marks == []
    there.close()
    store = Store(tmp_path)
    model = store.link(id_)
    assert model is not None and model.settings.computer == "300,7E1"
    store.close()


@pytest.mark.parametrize(
    "tables", [["CREATE TABLE songs (id)"], ["CREATE TABLE alembic_version (version_num)", "CREATE TABLE songs (id)"]]
)
def test_a_database_of_another_program_is_not_touched(tmp_path: Path, tables: list[str]) -> None:
    for change in tables:
        spoil(tmp_path, change)
    before = (tmp_path / FILE).read_bytes()
    with pytest.raises(MachineRefused, match=r"another program.*--data DIR"):
        Store(tmp_path)
    assert (tmp_path / FILE).read_bytes() == before


def test_tables_are_made_all_or_none(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from alembic import op

    made: list[str] = []
    create: Callable[..., object] = op.create_table

    def breaks_off(name: str, *columns: object, **options: object) -> object:
        if made:
            raise KeyboardInterrupt
        made.append(name)
        return create(name, *columns, **options)

    monkeypatch.setattr(op, "create_table", breaks_off)
    with pytest.raises(KeyboardInterrupt):
        Store(tmp_path)
    monkeypatch.undo()
    Store(tmp_path).close()


@contextmanager
def as_nobody() -> Iterator[None]:
    """Without the rights of root; whoever runs the tests as somebody else is nobody already."""
    if os.geteuid() != 0:
        yield
        return
    os.seteuid(NOBODY)
    try:
        yield
    finally:
        os.seteuid(0)


@pytest.fixture
def folder() -> Iterator[Path]:
    """A folder that everybody may look into."""
    with tempfile.TemporaryDirectory() as made:
        Path(made).chmod(0o755)
        yield Path(made) / "kept"


@pytest.mark.parametrize("in_the_log", [False, True])
def test_a_folder_that_may_not_be_written_is_looked_at(folder: Path, catalog: Catalog, in_the_log: bool) -> None:
    id_ = filled(folder)
    if in_the_log:  # by a process that dies: one that ends well empties the log
        change = "UPDATE links SET name = 'late' WHERE name = 'weir'"
        code = f"import os, sqlite3; d = sqlite3.connect({str(folder / FILE)!r}); "
        code += f"d.execute({change!r}); d.commit(); os._exit(0)"
        subprocess.run([sys.executable, "-c", code], check=True)
        assert (folder / (FILE + "-wal")).stat().st_size
    for path in (*folder.iterdir(), folder):
        path.chmod(0o555 if path.is_dir() else 0o444)
    with as_nobody():
        records = Records(Store(folder))
        assert sorted(name for _, name in records.links()) == ["bridge", "late" if in_the_log else "weir"]
        assert records.marks == ["records may only be looked at"]
        link = records.open(id_, catalog)
        records.remember_place("talk")
        with pytest.raises(MachineRefused, match=r"may only be looked at.*--data DIR"):
            link.ledger.observed("port", "open", "us")
        records.close()
    folder.chmod(0o755)
