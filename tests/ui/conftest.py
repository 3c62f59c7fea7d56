"""The window with the demo's records, in virtual time."""

import gc
from collections.abc import Iterator
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from humble_courier.catalog.load import Catalog
from humble_courier.domain.clock import Clock
from humble_courier.port.authority import Authority
from humble_courier.ui.start import application, show_records
from humble_courier.ui.theme import Theme
from humble_courier.ui.window import Window
from tests.conftest import quick
from tests.ui.virtual_window import of_window
from tests.virtual_time import VirtualTime, in_force


def opened(qtbot: QtBot, folder: Path, catalog: Catalog, demo: bool, clock: Clock) -> Window:
    application()
    made = Window(catalog, Theme(), authority=Authority(clock))
    qtbot.addWidget(made)
    made.show()
    qtbot.waitExposed(made)
    show_records(made, folder, demo=demo)
    return made


@pytest.fixture
def clock(qtbot: QtBot) -> Iterator[VirtualTime]:
    """Time that passes only when the test waits, for the window's timers too."""
    with in_force(VirtualTime()) as made, of_window(made):
        yield made


@pytest.fixture
def window(qtbot: QtBot, tmp_path: Path, catalog: Catalog, clock: VirtualTime) -> Iterator[Window]:
    made = opened(qtbot, tmp_path / "demo", catalog, demo=True, clock=clock)
    assert made.work.link is not None
    quick(made.work.link, "?pace=10")
    made.refresh()
    yield made
    made.close()
    gc.collect()  # what the window held is let go in its own thread: a reader's thread may not take Qt's objects down


@pytest.fixture
def empty_window(qtbot: QtBot, tmp_path: Path, catalog: Catalog, clock: VirtualTime) -> Iterator[Window]:
    """The window of somebody who has nothing yet: no demo, no link."""
    made = opened(qtbot, tmp_path / "own", catalog, demo=False, clock=clock)
    yield made
    made.close()
