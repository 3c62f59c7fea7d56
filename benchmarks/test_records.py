"""Records of 20 000 links and 200 000 proofs: seconds against plain SQLite for the same rows, in the same run.

`COURIER_LINKS` gives how many links (20 000), each with ten proofs of one word.
"""

import json
import os
import sqlite3
import time
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import msgspec
import pytest

from humble_courier.app.records.records import Records
from humble_courier.documents.link import LinkModel, LinkPart, LinkPort
from humble_courier.documents.records import KeptLink, Proof, Version, Word
from humble_courier.records.store import FILE, Store

LINKS, PROOFS = int(os.environ.get("COURIER_LINKS", "20000")), 10
MODEL = LinkModel("link/1", LinkPort(port="usb-a"), LinkPort(device="gauge-logger"), chain=[LinkPart(part="usb-rs232")])


def kept(n: int) -> KeptLink:
    proofs = [
        Proof(
            float(at), "/dev/ttyUSB0", "USB adapter", ["USB adapter", "Crossed cable"], "1200,7E1", "1200,7E1",
            {"station": f"S{n}-{at}"}, [Word(float(at), "they", b"SN 4711".hex(), "SN 4711", [], "")], [],
        )
        for at in range(PROOFS)
    ]  # fmt: skip
    name = f"place {n} logger"
    return KeptLink(f"id-{n}", name, float(n), MODEL, [], proofs, [Version(float(n), name, MODEL)])


def seconds(act: Callable[[], object]) -> float:
    begun = time.perf_counter()
    act()
    return time.perf_counter() - begun


def plain_saved(path: Path, links: list[KeptLink]) -> None:
    """The same rows by hand: no index of words, no versions, one transaction."""
    with closing(sqlite3.connect(path)) as db, db:
        db.execute("CREATE TABLE links (id TEXT PRIMARY KEY, name TEXT, document TEXT, updated REAL)")
        columns = "link TEXT, at REAL, chain TEXT, settings TEXT, identity TEXT"
        db.execute(f"CREATE TABLE proofs (id INTEGER PRIMARY KEY, {columns})")
        db.execute("CREATE TABLE words (id INTEGER PRIMARY KEY, proof INTEGER, data BLOB)")
        db.execute("CREATE INDEX of_link ON proofs (link)")
        document = msgspec.json.encode(MODEL).decode()
        db.executemany("INSERT INTO links VALUES (?, ?, ?, ?)", [(o.id, o.name, document, o.updated) for o in links])
        proofs = [(o.id, p) for o in links for p in o.proofs]
        rows = [(id_, p.at, json.dumps(p.chain), p.computer_settings, json.dumps(p.identity)) for id_, p in proofs]
        db.executemany("INSERT INTO proofs (link, at, chain, settings, identity) VALUES (?, ?, ?, ?, ?)", rows)
        db.executemany("INSERT INTO words (proof, data) VALUES (?, ?)", [(n + 1, b"SN 4711") for n in range(len(rows))])


@pytest.mark.benchmark(group="records")
def test_many_links_and_proofs(benchmark: Callable[..., object], tmp_path: Path) -> None:
    links = [kept(n) for n in range(LINKS)]
    store = Store(tmp_path)
    merged = seconds(lambda: store.take(links))
    again = seconds(lambda: store.take(links))
    plain = seconds(lambda: plain_saved(tmp_path / "plain.sqlite3", links))
    print(f"\n{LINKS} links, {LINKS * PROOFS} proofs: taken in {merged:.1f} s, {merged / plain:.1f} of plain rows")
    print(f"taken in again {again:.1f} s")
    store.close()
    opened = seconds(lambda: benchmark.pedantic(lambda: Store(tmp_path).links(), rounds=1))  # type: ignore[attr-defined]
    with closing(sqlite3.connect(tmp_path / "plain.sqlite3")) as db:
        listed = seconds(lambda: db.execute("SELECT id, name, document FROM links ORDER BY updated DESC").fetchall())
        liked = seconds(lambda: db.execute("SELECT link FROM proofs WHERE identity LIKE '%S777-3%'").fetchall())
    records = Records(Store(tmp_path))
    told = {
        "list": seconds(records.listed), "list again": seconds(records.listed),
        "search": seconds(lambda: records.found("S777")),
        "list with words": seconds(lambda: records.listed("S777")), "what things did": seconds(records.reckon_things),
    }  # fmt: skip
    size = (tmp_path / FILE).stat().st_size >> 20
    print(f"opened in {opened:.2f} s, {size} MB; plain: list {listed:.2f} s, a LIKE over proofs {liked:.2f} s")
    print("; ".join(f"{name} {spent:.2f} s" for name, spent in told.items()))
    one = seconds(lambda: records._store.save_link(MODEL, "one more"))
    print(f"one link saved in {one * 1000:.1f} ms")
    print(f"the list after that {seconds(records.listed) * 1000:.0f} ms, all else unchanged")
    records.close()
