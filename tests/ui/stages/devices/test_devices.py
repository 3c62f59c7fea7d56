"""The Devices page in the real window, offscreen: a device as one meets it, found by a word, written anew, saved, linked."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from humble_courier.app.devices.own_sheets import Standing, listed
from humble_courier.app.link.stages import Stage
from humble_courier.ui.widgets.faces import FaceView
from humble_courier.ui.window import Window
from tests.ui.walk import LEFT, desk, stage


def told(window: Window) -> str:
    return " ".join(x.text() for x in stage(window, Stage.DEVICES).findChildren(QLabel))


@pytest.mark.qt_log_ignore("does not support")  # the offscreen plugin
def test_a_device_is_shown_as_one_meets_it(window: Window, qtbot: QtBot) -> None:
    window.open_rail(Stage.DEVICES)
    page = stage(window, Stage.DEVICES)
    page.search.setText("snow-pillow")
    assert page.sheets.count() == 1
    page.sheets.setCurrentRow(0)
    assert page.headline.text() == "Snow-pillow transmitter: 19200 8E1 at its Bus terminals, speaks modbus-rtu"
    assert "edition 2" in page.reason.text() and "1 A both · 2 B both" in told(window)
    assert not page.writing and any("Bus terminals" in view.accessibleName() for view in page.findChildren(FaceView))
    page.search.setText("")
    assert page.sheets.count() == len(listed(window.work.catalog)) > 40
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    qtbot.keyClick(window, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)  # the key on the button
    qtbot.waitUntil(lambda: window.current is Stage.NEW_LINK)
    begun = stage(window, Stage.NEW_LINK)
    assert begun.devices.currentIndex().data() == "Snow-pillow transmitter"


def test_a_sheet_is_written_from_a_near_relative(window: Window, qtbot: QtBot) -> None:
    window.open_rail(Stage.DEVICES)
    page = stage(window, Stage.DEVICES)
    names = [one.id for one in listed(window.work.catalog)]
    page.sheets.setCurrentRow(names.index("chart-recorder"))
    assert "id: chart-recorder" in page.text.toPlainText() and "Tell its revision" in told(window)
    page.begun.emit(page.sheets.currentRow())
    text = page.text.toPlainText()
    assert "id: my-chart-recorder" in text and page.writing and "not saved yet" in page.reason.text().lower()
    page.text.setPlainText(text.replace("2400,7O2,rts-cts", "2400,7O9"))
    qtbot.waitUntil(lambda: "frame “7O9” is not known" in told(window), timeout=3000)
    assert not page.save.isEnabled() and page.text.extraSelections() and "is not right yet" in page.headline.text()
    page.text.setPlainText(text)
    qtbot.waitUntil(page.save.isEnabled, timeout=3000)
    qtbot.mouseClick(page.save, LEFT)
    assert "my-chart-recorder.yaml" in page.reason.text()
    assert listed(window.work.catalog)[0].standing is Standing.OWN
    page.as_text.click()
    assert not page.writing and page.begin_link.isEnabled()
    window.open_rail(Stage.NEW_LINK)
    page = stage(window, Stage.NEW_LINK)
    page.search.setText("my-chart-recorder")
    assert page.devices.count() == 1


def test_what_was_typed_can_be_taken_back(window: Window) -> None:
    window.open_rail(Stage.DEVICES)
    page = stage(window, Stage.DEVICES)
    before = page.text.toPlainText()
    page.begun.emit(-1)
    assert "id: my-device" in page.text.toPlainText() and not page.begin_link.isEnabled()
    page.text.undo()
    assert page.text.toPlainText() == before


@pytest.mark.parametrize("text", ["courier: device/1\nid: broken\nname: [", ""])
def test_a_sheet_of_ones_own_that_cannot_be_read_is_shown_as_text(window: Window, text: str) -> None:
    catalog = window.work.catalog
    assert catalog.own is not None
    catalog.own.mkdir(parents=True, exist_ok=True)
    (catalog.own / "broken.yaml").write_text(text)
    window.open_rail(Stage.DEVICES)
    page, found = stage(window, Stage.DEVICES), listed(catalog)
    assert (found[0].id, found[0].standing) == ("broken", Standing.BROKEN)
    desk(window, Stage.DEVICES)._open(0)
    assert page.writing and page.text.toPlainText() == text and "not right yet" in page.headline.text()
