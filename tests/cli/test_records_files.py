"""`records`, `history`, `compare` as a shell sees them, on the demo's records and on damaged files."""

import json
import shutil
import sqlite3
from pathlib import Path
from typing import Any

import jsonschema
import pytest

from humble_courier.app.demo.records import demo_store
from humble_courier.app.trade import open_catalog
from tests.cli.test_cli import run

LINK = """courier: link/1
name: Ridge mast, wind sensor
computer: {port: usb-a}
device: {device: wind-sensor}
chain: [{part: usb-rs232}]
settings: {computer: "9600,8N1"}
"""


@pytest.fixture(scope="module")
def made(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("demo")
    catalog = open_catalog()
    catalog.demo = True
    demo_store(folder, catalog, fresh=True).close()
    return folder


@pytest.fixture
def folder(made: Path, tmp_path: Path) -> Path:
    shutil.copytree(made, tmp_path / "records")
    return tmp_path / "records"


def told(folder: Path, *words: str, code: int = 0) -> dict[str, Any]:
    got, out, err = run("--data", str(folder), *words, "--json")
    assert got == code, err
    found: dict[str, Any] = json.loads(out)
    return found


def test_search_check_and_history(folder: Path) -> None:
    found = told(folder, "records", "search", "wind")["found"]
    assert found and {one["link"] for one in found} >= {"Ridge mast, wind sensor"}
    assert told(folder, "records", "check")["ok"]
    whole = told(folder, "history")
    assert whole["served"] == len(whole["proofs"]) == 22 and whole["failed"] == len(whole["failures"]) == 7
    assert whole["last"] == max(one["at"] for one in whole["proofs"] + whole["failures"])
    one = told(folder, "history", "--part", "usb-rs485")
    assert 0 < one["served"] < 22 and all("USB adapter to two-wire RS-485" in proof["parts"] for proof in one["proofs"])
    assert {proof["link"] for proof in told(folder, "history", "--place", "ridge")["proofs"]} <= {
        name["link"] for name in whole["proofs"] if "Ridge" in name["link"]
    }
    code, out, _ = run("--data", str(folder), "history", "--place", "snow field")
    assert code == 0 and "Units 3 and 4 answered at once" in out
    code, _, err = run("--data", str(folder), "history", "--adapter", "NONE")
    assert code == 2 and "no use of NONE" in err
    code, _, err = run("--data", str(folder), "records", "search", "nothing-like-this")
    assert code == 1 and "stands nowhere" in err


def test_compare_with_the_last_proof_and_with_a_file(folder: Path, tmp_path: Path) -> None:
    (tmp_path / "now.yaml").write_text(LINK)
    found = told(folder, "compare", str(tmp_path / "now.yaml"))
    what = {one["what"]: (one["before"], one["now"]) for one in found["changed"]}
    assert what["settings of the computer"][1] == "9600,8N1" and found["last_proof"] > 0
    assert any(one["place"] == "part:1" and one["now"] == "USB adapter to RS-232, DTE" for one in found["changed"])
    (tmp_path / "before.yaml").write_text(LINK.replace("9600,8N1", "4800,8N1"))
    found = told(folder, "compare", str(tmp_path / "now.yaml"), "--to", str(tmp_path / "before.yaml"))
    assert [(one["before"], one["now"]) for one in found["changed"]] == [("4800,8N1", "9600,8N1")]
    code, out, _ = run("--data", str(folder), "compare", "Ridge mast, wind sensor", "--demo")
    assert code == 0 and out.strip() == "Nothing differs."
    (tmp_path / "now.yaml").write_text(
        LINK.replace("Ridge mast, wind sensor", "Elsewhere").replace("wind-sensor", "gauge-logger")
    )
    code, _, err = run("--data", str(folder), "compare", str(tmp_path / "now.yaml"))
    assert code == 2 and "hold no proof" in err
    nowhere = tmp_path / "nowhere"
    code, _, err = run("--data", str(nowhere), "compare", str(tmp_path / "now.yaml"))
    assert code == 2 and "hold no proof" in err and not nowhere.exists(), "a question makes no records"
    assert told(nowhere, "compare", str(tmp_path / "now.yaml"), "--to", str(tmp_path / "before.yaml"))["changed"]


def test_export_merge_and_the_schema(folder: Path, tmp_path: Path) -> None:
    file, other = tmp_path / "all.json", tmp_path / "other"
    assert told(folder, "records", "export", "--out", str(file))["links"] == 13
    _, out, _ = run("schema", "records")
    jsonschema.Draft202012Validator(json.loads(out)).validate(json.loads(file.read_text()))
    first = told(other, "records", "merge", str(file))
    assert first["links"] == 13 and first["taken"] > 13 and not first["conflicts"]
    assert told(other, "records", "import", str(file)) == {**first, "taken": 0, "same": 13}
    theirs = json.loads(file.read_text())
    word = {"at": 1.0, "who": "we", "hex": "0g", "text": "", "doubtful": [], "meaning": ""}
    hostile = json.loads(file.read_text())
    next(link for link in hostile["links"] if link["proofs"])["proofs"][0]["words"] = [word]
    (tmp_path / "hostile.json").write_text(json.dumps(hostile))
    code, _, err = run("--data", str(other), "records", "merge", str(tmp_path / "hostile.json"))
    assert code == 2 and "no file of records" in err
    changed = next(link for link in theirs["links"] if link["name"].startswith("Ridge mast"))
    changed["document"]["end"] = "cr"
    changed["versions"] = [{"updated": changed["updated"] + 1, "name": "Mast", "document": changed["document"]}]
    file.write_text(json.dumps(theirs))
    found = told(other, "records", "merge", str(file), "--take", "ours")
    assert {"what": "Ridge mast, wind sensor: end", "ours": "", "theirs": "cr"} in found["conflicts"]
    nowhere = tmp_path / "nowhere"
    (tmp_path / "bad.json").write_text("{")
    code, _, _ = run("--data", str(nowhere), "records", "merge", str(tmp_path / "bad.json"))
    assert code == 2 and not nowhere.exists()
    names = {link["name"] for link in told(other, "records", "export")["links"]}
    assert "Ridge mast, wind sensor" in names and "Mast" not in names


@pytest.mark.parametrize("text", ["", "{}", "[1, 2]", '{"courier": "kit/1"}', "\x00\x01", "[" * 100_000])
def test_what_is_no_file_of_records_is_said(text: str, folder: Path, tmp_path: Path) -> None:
    (tmp_path / "bad.json").write_text(text)
    for command in ("merge", "restore"):
        code, _, err = run("--data", str(folder), "records", command, str(tmp_path / "bad.json"))
        assert code == 2 and "bad.json" in err and "Traceback" not in err
    assert told(folder, "records", "check")["links"] == 13


def test_a_copy_brings_everything_back_and_moves_aside_what_was_there(folder: Path, tmp_path: Path) -> None:
    copy = tmp_path / "copy.zip"
    (folder / "devices").mkdir()
    (folder / "devices" / "mine.yaml").write_text("courier: device/1\n")
    assert told(folder, "records", "backup", str(copy))["bytes"] == copy.stat().st_size
    before = told(folder, "records", "export")
    with sqlite3.connect(folder / "records.sqlite3") as database:
        database.execute("UPDATE links SET document = '{' WHERE rowid = 3")
        database.execute("PRAGMA foreign_keys = OFF")
        database.execute("INSERT INTO facts VALUES (999, 'nobody', 's', 't', 'observed', 'us', 1.0, 1)")
    damaged = told(folder, "records", "check", code=1)
    assert len(damaged["problems"]) >= 2 and not damaged["ok"]
    aside = Path(told(folder, "records", "restore", str(copy))["moved_aside"])
    assert told(folder, "records", "export") == before and told(folder, "records", "check")["ok"]
    assert (aside / "records.sqlite3").exists() and (aside / "devices" / "mine.yaml").exists()
    assert (folder / "devices" / "mine.yaml").exists()
    code, _, err = run("--data", str(tmp_path / "none"), "records", "backup", str(copy))
    assert code == 2 and "no records yet" in err
