"""Search: every row that holds all words is found, none other; the index follows each change; an older database gets one."""

import sqlite3
from pathlib import Path

import msgspec
import pytest
from alembic import command
from alembic.config import Config
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import create_engine

import humble_courier.records
from humble_courier.documents.records import Word
from humble_courier.domain.facts import Fact, Provenance
from humble_courier.records.finding import HitKind, query_of
from humble_courier.records.store import FILE, Store
from tests.records.test_store import LINK, PROOF

ASKED = ("gau", "bent", "sk0001", "BAT12", "station skw", "hut")
WORDS = ["weir", "hut", "ridge", "1200", "7E1", "silent", "SKW", "Größe"]


@pytest.fixture
def store(tmp_path: Path) -> Store:
    return Store(tmp_path)


def test_it_is_found_where_it_stands_and_no_more_where_it_is_gone(store: Store) -> None:
    id_ = store.save_link(LINK, "Weir gauge house")
    store.add_facts(id_, [Fact("port", "the port is bent", Provenance.OBSERVED, "us", 2.0)])
    store.add_proof(
        id_, msgspec.structs.replace(PROOF, serial="SK0001", words=[Word(1.0, "they", "42415431322e31", "", [], "")])
    )
    kinds = {
        words: [hit.kind for hit in store.find(words)] for words in ("gau", "bent", "sk0001", "BAT12", "station skw", "hut")
    }
    assert kinds == {
        "gau": [HitKind.LINK], "bent": [HitKind.FACT], "sk0001": [HitKind.PROOF], "BAT12": [HitKind.WORDS],
        "station skw": [HitKind.PROOF], "hut": [],
    }  # fmt: skip
    assert store.find("bat12")[0].text == "BAT12.1" and store.find("bent", since=3.0) == []
    store.rename(id_, "Relay hut")
    assert store.find("weir") == [] and store.find("hut")[0].text == "Relay hut"
    kept = store.remove(id_)
    assert kept is not None and [store.find(words) for words in kinds] == [[]] * len(kinds)
    store.put_back(kept)
    assert store.find("bent") and store.damage() == []
    store.close()


@settings(max_examples=40)
@given(st.lists(st.lists(st.sampled_from(WORDS), min_size=1, max_size=4), min_size=1, max_size=6), st.sampled_from(WORDS))
def test_found_is_what_holds_every_word(names: list[list[str]], asked: str) -> None:
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        ids = {store.save_link(LINK, " ".join(name)): name for name in names}
        for words in (asked, f"{asked} {names[0][0]}"):
            wanted = {id_ for id_, name in ids.items() if set(words.lower().split()) <= {w.lower() for w in name}}
            assert {hit.link_id for hit in store.find(words)} == wanted
        store.close()


@settings(max_examples=50)
@given(st.text(max_size=40))
def test_whatever_is_typed_is_no_error(typed: str) -> None:
    import tempfile

    assert query_of('"') == ""
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        assert store.find(typed) == []
        store.close()


def test_a_database_of_the_version_before_is_brought_up_with_all_it_holds(tmp_path: Path) -> None:
    config = Config()
    config.set_main_option("script_location", str(Path(humble_courier.records.__file__).parent / "migrations"))
    config.set_main_option("path_separator", "os")
    engine = create_engine(f"sqlite:///{tmp_path / FILE}")
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "0002")
    engine.dispose()
    with sqlite3.connect(tmp_path / FILE) as old:
        document = msgspec.json.encode(LINK).decode()
        old.execute("INSERT INTO links VALUES ('a', 'Weir', ?, 7.0)", (document,))
        old.execute("INSERT INTO facts VALUES (1, 'a', 's', 'bent socket', 'observed', 'us', 8.0, 1)")
        columns = "(1, 'a', 9.0, 'p', 'ad', '[]', '1200,7E1', '1200,7E1', '{}', '[]', 'heard', 'weak', 'clean lines')"
        old.execute(f"INSERT INTO proofs VALUES {columns}")
        old.execute("INSERT INTO words VALUES (1, 1, 9.0, 'they', ?, '[]', '')", (b"\xff\x00SKW-GH-07\r\n",))
    store = Store(tmp_path)
    assert [v.updated for v in store.versions("a")] == [7.0] and store.proofs("a")[0].serial == ""
    kinds = [[hit.kind for hit in store.find(words)] for words in ("weir", "bent", "clean", "gh 07")]
    assert kinds == [[HitKind.LINK], [HitKind.FACT], [HitKind.PROOF], [HitKind.WORDS]]
    assert store.versions("a")[0].who == store.proofs("a")[0].who == "", "nobody noted then who it was"
    store.close()
