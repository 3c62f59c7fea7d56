"""The Devices page in the real window, offscreen: a sheet written from a relative, its mistake marked, saved, picked."""

from PyQt6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from humble_courier.app.link.stages import Stage
from humble_courier.ui.window import Window
from tests.ui.walk import LEFT, stage


def told(window: Window) -> str:
    return " ".join(x.text() for x in stage(window, Stage.DEVICES).findChildren(QLabel))


def test_a_sheet_is_written_from_a_near_relative(window: Window, qtbot: QtBot) -> None:
    window.open_rail(Stage.DEVICES)
    page = stage(window, Stage.DEVICES)
    assert (
        "0 of your own, 30 kinds to begin from, 13 of the demo" in page.headline.text()
        and page.text.toPlainText().startswith("courier: device/1")
    )
    page.sheets.setCurrentRow(page._rows.index("Strip-chart recorder"))
    assert "id: chart-recorder" in page.text.toPlainText() and "Tell its revision" in told(window)
    page.begun.emit(page.sheets.currentRow())
    text = page.text.toPlainText()
    assert "id: my-chart-recorder" in text
    page.text.setPlainText(text.replace("2400,7O2,rts-cts", "2400,7O9"))
    qtbot.waitUntil(lambda: "frame “7O9” is not known" in told(window), timeout=3000)
    assert not page.save.isEnabled() and page.text.extraSelections()
    page.text.setPlainText(text)
    qtbot.waitUntil(page.save.isEnabled, timeout=3000)
    qtbot.mouseClick(page.save, LEFT)
    assert "1 of your own" in page.headline.text() and "my-chart-recorder.yaml" in page.reason.text()
    window.open_rail(Stage.NEW_LINK)
    page = stage(window, Stage.NEW_LINK)
    page.search.setText("my-chart-recorder")
    assert page.devices.count() == 1


def test_what_was_typed_can_be_taken_back(window: Window) -> None:
    window.open_rail(Stage.DEVICES)
    page = stage(window, Stage.DEVICES)
    before = page.text.toPlainText()
    page.begun.emit(-1)
    assert "id: my-device" in page.text.toPlainText()
    page.text.undo()
    assert page.text.toPlainText() == before
