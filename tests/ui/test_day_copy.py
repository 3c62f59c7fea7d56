"""A copy each day: made once, old ones go, and what refuses it is told."""

from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from humble_courier.app.records.backup import FOLDER, KEPT_DAYS, copy_of_the_day
from humble_courier.errors import MachineRefused
from humble_courier.records.store import Store
from humble_courier.ui.day_copy import DayCopy
from tests.records.test_store import LINK


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    store = Store(tmp_path)
    store.save_link(LINK, "weir")
    store.close()
    return tmp_path


def test_a_copy_is_made_once_a_day_and_old_ones_go(folder: Path, qtbot: QtBot) -> None:
    (folder / FOLDER).mkdir()
    for day in range(10, 20):
        (folder / FOLDER / f"records-2026-01-{day}.zip").write_bytes(b"old")
    copy = DayCopy(folder, after_ms=0)
    qtbot.waitUntil(lambda: any(f.stat().st_size > 10 for f in (folder / FOLDER).glob("*.zip")), timeout=10_000)
    copy.rest()
    kept = sorted(file.name for file in (folder / FOLDER).glob("records-*.zip"))
    assert len(kept) == KEPT_DAYS and kept[0] == "records-2026-01-14.zip"
    made = copy_of_the_day(folder)
    assert made is not None and made.name == kept[-1], "there is one of today already"


def test_there_is_nothing_to_copy_before_there_are_records(tmp_path: Path) -> None:
    assert copy_of_the_day(tmp_path) is None


def test_what_refuses_it_is_told(folder: Path, qtbot: QtBot) -> None:
    (folder / FOLDER).write_text("a file stands where the folder should be")
    copy = DayCopy(folder, after_ms=0)
    with qtbot.waitSignal(copy.refused, timeout=10_000) as told:
        pass
    copy.rest()
    assert isinstance(told.args[0], MachineRefused)
