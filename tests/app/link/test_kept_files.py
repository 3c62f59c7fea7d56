"""Pictures and files of a link: kept by what is in them, never lost with the original, taken out and not deleted."""

from pathlib import Path

import pytest

from humble_courier.app import contents
from humble_courier.app.contents import Contents
from humble_courier.app.link.kept_files import KeptFile
from humble_courier.app.link.open_link import OpenLink
from humble_courier.errors import BadInput, MachineRefused


def test_a_picture_stays_when_the_original_goes(link: OpenLink, tmp_path: Path) -> None:
    plate = tmp_path / "plate (front).PNG"
    plate.write_bytes(b"not really a picture")
    link.keep_file(plate, "type and number")
    plate.unlink()
    (kept,) = link.ledger.files()
    assert (kept.name, kept.size, kept.note, kept.is_picture) == ("plate (front).PNG", 20, "type and number", True)
    assert link.contents.path(kept.content).read_bytes() == b"not really a picture" and link.contents.sound(kept.content)
    again = tmp_path / "same.png"
    again.write_bytes(b"not really a picture")
    link.keep_file(again)
    assert len(list(link.contents.folder.iterdir())) == 1, "the same content takes its room once"
    assert [one.name for one in link.ledger.files()] == ["same.png"]
    link.ledger.take_out(link.ledger.files()[0])
    assert link.ledger.files() == [] and link.contents.path(kept.content).is_file()


def test_what_cannot_be_kept_is_told(link: OpenLink, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(contents, "LARGEST", 10)
    (tmp_path / "long.txt").write_bytes(b"12345678901")
    with pytest.raises(BadInput, match="note where it lies"):
        link.keep_file(tmp_path / "long.txt")
    for missing in (tmp_path / "gone.png", tmp_path):
        with pytest.raises(BadInput, match="no such file"):
            link.keep_file(missing)
    assert link.ledger.files() == []


@pytest.mark.parametrize(
    "name", ["../records.sqlite3", "a" * 64 + ".", "A" * 64, "a" * 63, "a" * 64 + "/x", "a" * 64 + ".PNG"]
)
def test_a_name_from_elsewhere_leads_nowhere_else(tmp_path: Path, name: str) -> None:
    with pytest.raises(BadInput):
        Contents(tmp_path).path(name)


def test_a_folder_that_cannot_be_written_is_told(tmp_path: Path) -> None:
    (tmp_path / "files").write_text("a file in the way")
    with pytest.raises(MachineRefused, match="cannot be written"):
        Contents(tmp_path).put(b"1")


def test_a_fact_that_says_something_else_is_no_file(link: OpenLink) -> None:
    link.ledger.observed("file " + "0" * 64, "no size here", "an older program")
    assert link.ledger.files() == []
    assert not KeptFile("notes.txt", "0" * 64 + ".txt", 3, 0.0).is_picture
