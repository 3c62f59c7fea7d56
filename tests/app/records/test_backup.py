"""Copies: whatever a file holds is a copy or a clear error; damage is told; an open window keeps its records."""

import sqlite3
import tempfile
import zipfile
from contextlib import closing
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from humble_courier.app.records.backup import back_up, restore
from humble_courier.errors import BadInput, MachineRefused
from humble_courier.records.in_use import InUse
from humble_courier.records.store import FILE, Store
from tests.records.test_store import LINK


def made(folder: Path) -> bytes:
    """A copy of records with one link, as bytes."""
    store = Store(folder)
    store.save_link(LINK, "weir")
    store.close()
    back_up(folder, folder / "copy.zip")
    return (folder / "copy.zip").read_bytes()


with tempfile.TemporaryDirectory() as _once:
    WHOLE = made(Path(_once))


@settings(max_examples=60, deadline=None)
@given(st.integers(0, len(WHOLE) - 1), st.integers(0, 255), st.integers(0, len(WHOLE)))
def test_a_copy_with_a_damaged_byte_or_end_is_whole_or_told(at: int, byte: int, end: int) -> None:
    for damaged in (WHOLE[:at] + bytes([byte]) + WHOLE[at + 1 :], WHOLE[:end]):
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / "copy.zip").write_bytes(damaged)
            try:
                restore(Path(folder) / "records", Path(folder) / "copy.zip")
            except BadInput:
                assert not (Path(folder) / "records" / FILE).exists()
                continue
            with closing(sqlite3.connect(Path(folder) / "records" / FILE)) as found:
                assert found.execute("SELECT name FROM links").fetchall() == [("weir",)]


def test_a_directory_that_points_before_the_file_is_told(tmp_path: Path) -> None:
    end = bytearray(WHOLE[-22:])  # the end of the directory, its offset at 16 (APPNOTE 4.3.16, from memory)
    end[16:20] = (int.from_bytes(end[16:20], "little") + 5).to_bytes(4, "little")
    (tmp_path / "copy.zip").write_bytes(WHOLE[:-22] + bytes(end))
    with pytest.raises(BadInput, match="damaged copy"):
        restore(tmp_path / "records", tmp_path / "copy.zip")


def test_an_open_window_keeps_its_records(tmp_path: Path) -> None:
    (tmp_path / "c.zip").write_bytes(made(tmp_path / "records"))
    window = InUse(tmp_path / "records")
    assert not window.elsewhere
    with pytest.raises(MachineRefused, match="a window works on the records"):
        restore(tmp_path / "records", tmp_path / "c.zip")
    window.close()
    assert (restore(tmp_path / "records", tmp_path / "c.zip") / FILE).exists()


def test_where_the_exchange_fails_all_is_as_it_was(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "c.zip").write_bytes(made(tmp_path / "records"))
    before = (tmp_path / "records" / FILE).read_bytes()

    def refuse(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(Path, "replace", refuse)
    with pytest.raises(MachineRefused, match=r"full|space"):
        restore(tmp_path / "records", tmp_path / "c.zip")
    assert (tmp_path / "records" / FILE).read_bytes() == before


def test_a_damaged_database_and_a_strange_archive_are_told(tmp_path: Path) -> None:
    (tmp_path / FILE).write_bytes(b"no database at all " * 100)
    with pytest.raises(MachineRefused, match="cannot be copied"):
        back_up(tmp_path, tmp_path / "copy.zip")
    assert not (tmp_path / "copy.zip.part").exists()
    for first in ("[]", "{}", "x"):
        with zipfile.ZipFile(tmp_path / "strange.zip", "w") as archive:
            archive.writestr("courier.json", first)
        with pytest.raises(BadInput, match="no copy of records"):
            restore(tmp_path / "other", tmp_path / "strange.zip")
    with pytest.raises(BadInput, match="no such file"):
        restore(tmp_path / "other", tmp_path / "none.zip")
