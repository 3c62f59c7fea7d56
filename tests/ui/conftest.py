"""The window with the demo's records; the simulated link runs ten times as fast as the clock."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from humble_courier.catalog.load import Catalog
from humble_courier.ui.start import application, show_records
from humble_courier.ui.theme import Theme
from humble_courier.ui.window import Window
from tests.conftest import quick


@pytest.fixture
def window(qtbot: QtBot, tmp_path: Path, catalog: Catalog) -> Iterator[Window]:
    application()
    made = Window(catalog, Theme())
    qtbot.addWidget(made)
    made.show()
    qtbot.waitExposed(made)
    show_records(made, tmp_path / "demo", demo=True)
    assert made.work.link is not None
    quick(made.work.link)
    made.refresh()
    yield made
    made.close()


@pytest.fixture
def empty_window(qtbot: QtBot, tmp_path: Path, catalog: Catalog) -> Iterator[Window]:
    """The window of somebody who has nothing yet: no demo, no link."""
    application()
    made = Window(catalog, Theme())
    qtbot.addWidget(made)
    made.show()
    show_records(made, tmp_path / "own", demo=False)
    yield made
    made.close()
