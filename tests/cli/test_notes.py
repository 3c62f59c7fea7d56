"""`notes`, and records that travel with their pictures, as a shell sees them."""

import zipfile
from pathlib import Path

from humble_courier.app.records.merge_file import read_export
from tests.cli.test_cli import run
from tests.cli.test_records_files import folder as folder
from tests.cli.test_records_files import made as made
from tests.cli.test_records_files import told


def test_values_and_pictures_travel_to_another_laptop(folder: Path, tmp_path: Path) -> None:
    plate = tmp_path / "plate.png"
    plate.write_bytes(b"a plate")
    told(folder, "notes", "gauge", "--set", "serial number", "00417")
    found = told(folder, "notes", "Gauge house, level logger", "--set", "serial number", "00418", "--keep", str(plate))
    note = next(one for one in found["notes"] if one["name"] == "serial number")
    assert note["value"] == "00418" and [one["value"] for one in note["history"]] == ["00417", "00418"]
    assert Path(found["files"][0]["path"]).read_bytes() == b"a plate"
    packed, theirs = tmp_path / "all.zip", tmp_path / "theirs"
    told(folder, "records", "export", "--out", str(packed))
    assert told(theirs, "records", "merge", str(packed))["conflicts"] == []
    there = told(theirs, "notes", "gauge")
    assert there["notes"] == [one for one in found["notes"] if one["value"]] or there["notes"] == found["notes"]
    assert Path(there["files"][0]["path"]).read_bytes() == b"a plate" and str(theirs) in there["files"][0]["path"]
    assert told(theirs, "records", "merge", str(packed))["taken"] == 0
    copy, back = tmp_path / "copy.zip", tmp_path / "back"
    told(theirs, "records", "backup", str(copy))
    told(back, "records", "restore", str(copy))
    assert Path(told(back, "notes", "gauge")["files"][0]["path"]).read_bytes() == b"a plate"
    assert run("--data", str(back), "notes", "gauge")[1].count("plate.png") == 1


def test_what_is_not_what_it_says_stays_outside(folder: Path, tmp_path: Path) -> None:
    packed, theirs = tmp_path / "all.zip", tmp_path / "theirs"
    told(folder, "records", "export", "--out", str(packed))
    with zipfile.ZipFile(packed, "a") as archive:
        archive.writestr("files/" + "0" * 64 + ".png", b"another content")
        archive.writestr("files/../../evil", b"up")
    told(theirs, "records", "import", str(packed))
    assert not (theirs / "files").exists() and not list(tmp_path.rglob("evil"))
    (tmp_path / "short.zip").write_bytes(packed.read_bytes()[:-40])
    for bad in (tmp_path / "short.zip",):
        code, _, error = run("--data", str(tmp_path / "none"), "records", "merge", str(bad))
        assert code == 2 and "damaged" in error and not (tmp_path / "none").exists()
    assert len(read_export(packed).links) == 13


def test_a_link_is_named_so_that_one_is_meant(folder: Path) -> None:
    for name in ("nothing like it", "ridge"):
        code, _, error = run("--data", str(folder), "notes", name)
        assert code == 2 and "whole name of one link" in error
