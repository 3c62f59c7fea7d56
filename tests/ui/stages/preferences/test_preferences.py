"""The page of choices: each holds at once, and is there at the next start."""

from pathlib import Path

from pytestqt.qtbot import QtBot

from humble_courier.app.link.stages import Stage
from humble_courier.app.preferences import KeptPreferences
from humble_courier.catalog.load import Catalog
from humble_courier.domain.text import Terminator
from humble_courier.ui.start import application, show_records
from humble_courier.ui.theme import Theme
from humble_courier.ui.window import Window
from tests.ui.walk import LEFT, desk, stage


def test_choices_hold_at_once_and_are_kept(qtbot: QtBot, tmp_path: Path, catalog: Catalog) -> None:
    application()
    kept = tmp_path / "preferences.json"
    window = Window(catalog, Theme(), KeptPreferences(kept))
    qtbot.addWidget(window)
    window.show()
    qtbot.waitExposed(window)
    show_records(window, tmp_path / "demo", demo=True)
    qtbot.mouseClick(window.rail._buttons[Stage.PREFERENCES], LEFT)
    assert window.current is Stage.PREFERENCES
    page, link = stage(window, Stage.PREFERENCES), window.work.link
    assert link is not None
    qtbot.mouseClick(page.larger, LEFT)
    assert window.work.theme.scale == 1.1 and page.percent.text() == "110 %"
    page.choices["colours"]["outdoor"].click()
    assert window.work.theme.palette.name == "outdoor" and "outdoor" in page.headline.text()
    page.choices["line_end"]["crlf"].click()
    assert link.first_end is Terminator.CRLF
    page.cautions.setPlainText("Tell the gate\n\n  Wear the vest ")
    page._keep_cautions()
    window.header.palette_wanted.emit()  # from outdoor to light
    assert window.work.theme.palette.name == "light"
    desk(window, Stage.PREFERENCES).live_in(tmp_path)
    assert "next start" in page.data_told.text() or window.work.preferences.data == str(tmp_path)
    now = KeptPreferences(kept).now
    assert (now.text, now.colours, now.line_end, now.data) == (110, "light", "crlf", str(tmp_path))
    assert now.cautions == ("Tell the gate", "Wear the vest")
    window.close()
