"""Keep this device: a device in no sheet, from its connector to its proof and to a kept sheet, by widgets alone."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QCheckBox, QMenu, QWidget
from pytestqt.qtbot import QtBot

from humble_courier.app.link.changes import new_link
from humble_courier.app.link.stages import Stage, TalkPage
from humble_courier.catalog.load import Catalog
from humble_courier.domain.text import Terminator
from humble_courier.ui.window import Window
from tests.trials.ptys import far_end
from tests.ui.walk import LEFT, desk, stage


@pytest.fixture
def window(empty_window: Window) -> Window:
    return empty_window


def pick(widget: object, text: str) -> None:
    """Touch an entry of the menu that a widget has opened."""
    menus = [menu for menu in widget.findChildren(QMenu) if menu.isVisible()]  # type: ignore[attr-defined]
    action = next(action for action in menus[-1].actions() if action.text() == text)
    action.trigger()
    menus[-1].close()


def test_a_text_device_becomes_ones_own_in_twelve_acts(window: Window, qtbot: QtBot, catalog: Catalog) -> None:
    with far_end(lambda said: b"FLOWMETER 12 v2.0\r\n" if said == b"VER?\r\n" else b"") as far:
        page = stage(window, Stage.NEW_LINK)
        qtbot.mouseClick(next(tile for tile in page.faces.tiles if "9 contacts" in tile.accessibleName()), LEFT)  # 1
        qtbot.mouseClick(page.halves["socket"], LEFT)  # 2
        page.search.setText("text instrument")  # 3
        qtbot.keyClick(page.devices, Qt.Key.Key_Down)
        page.port.setCurrentText(far.address)
        page.name.setText("Pump house, flow meter")  # 4
        qtbot.mouseClick(page.listen_button, LEFT)  # 5
        link = window.work.link
        assert link is not None and link.live.listening
        link._acts_passed = True
        qtbot.mouseClick(window.foot.switch, LEFT)  # 6
        talk = stage(window, Stage.TALK).listening
        talk.card.words.setText("VER?")
        qtbot.keyClick(talk.card.words, Qt.Key.Key_Return)  # 7
        qtbot.waitUntil(lambda: link.evidence.reply is not None, timeout=10_000)
        qtbot.waitUntil(lambda: "proof" in window.facts.button.text(), timeout=10_000)  # it named its firmware
        qtbot.mouseClick(window.facts.button, LEFT)  # 8: keep the proof
        qtbot.mouseClick(window.facts.button, LEFT)  # 9: keep this device
        keep = stage(window, Stage.TALK).keep
        assert keep.isVisible() and "tick what only asks" in stage(window, Stage.TALK).headline.text()
        tick = next(one for one in keep.findChildren(QCheckBox) if one.text() == "it only asks")
        tick.click()  # 10: nobody but a person says so
        assert "enough to prove it" in stage(window, Stage.TALK).headline.text()
        qtbot.mouseClick(keep.bench, LEFT)
        assert "firmware 2.0" in keep.result.text()
        qtbot.mouseClick(window.facts.button, LEFT)  # 11: the page is open, so it keeps
        sheet = window.work.catalog.device("pump-house-flow-meter")
        assert sheet.first_words[0].example == "FLOWMETER 12 v2.0" and sheet.end == "crlf"
        assert link.document.link.sheet == sheet and link.proofs()
        link.stop()


@pytest.mark.qt_log_ignore("This plugin does not support")  # menus offscreen
def test_parts_contacts_and_acts_are_touched_and_taken_back(window: Window, qtbot: QtBot) -> None:
    window.open_rail(Stage.NEW_LINK)
    desk(window, Stage.NEW_LINK).choose("text-instrument-dce")
    with far_end(lambda said: b"LEVEL 7 1.284\r\n" if said == b"LV\r\n" else b"") as far:
        stage(window, Stage.NEW_LINK).port.setCurrentText(far.address)
        stage(window, Stage.NEW_LINK).listen_button.click()
        link = window.work.link
        assert link is not None
        link._acts_passed = True
        link.arm()
        link.say("LV", Terminator.CRLF)
        qtbot.waitUntil(lambda: link.evidence.reply is not None or link.evidence.proven, timeout=10_000)
        talk = stage(window, Stage.TALK)
        talk.choose(TalkPage.KEEP)
        page, keeping = talk.keep, desk(window, Stage.TALK).keeping
        part = next(made for made in page.findChildren(type(page.keep)) if made.text().startswith("1.284"))
        qtbot.mouseClick(part, LEFT)
        pick(page, "value")
        assert any(one.name == "value" for one in keeping._draft.learnt.said[0].parts)
        qtbot.mouseClick(page.face.buttons["1"], LEFT)
        pick(page.face, "DTR out")
        assert keeping._draft.base.port.signals["1"] == "DTR out rs232"
        page.more.setText("Open the valve before the cover")
        qtbot.keyClick(page.more, Qt.Key.Key_Return)
        assert keeping._draft.base.preconditions[-1].act == "Open the valve before the cover"
        for _ in range(3):
            qtbot.mouseClick(page.back, LEFT)
        assert "1" not in keeping._draft.base.port.signals and not page.back.isEnabled()
        link.stop()


def test_switches_revisions_and_what_must_not_be_used_are_kept_without_text(window: Window, qtbot: QtBot) -> None:
    """Drawn and noted beside the words; taken back like any other change."""
    with far_end(lambda said: b"PUMP 7 v2.0\r\n" if said == b"VER?\r\n" else b"") as far:
        work = window.work
        assert work.records is not None
        model = new_link("text-instrument-dte", ["usb-rs232"], far.address, work.catalog)
        work.open(work.records.add(model, "Pump house, pump"))
        window._go(Stage.TALK, TalkPage.KEEP)
        keep = stage(window, Stage.TALK).keep
        qtbot.mouseClick(keep.open_more, LEFT)
        more = keep.rest
        assert more.isVisible() and more.how.hasFocus()
        qtbot.keyClicks(more.how, "menu Setup")
        qtbot.keyClick(more.how, Qt.Key.Key_Return)
        more.where.setText("behind the lid")
        more.picture.turned.emit(2)
        more.codes.setCurrentText("rate")
        qtbot.keyClicks(more.means, "9600")
        qtbot.keyClick(more.means, Qt.Key.Key_Return)
        more.never.setText("the card slot")
        more.why.setText("only its own cards read")
        more._forbidden()
        qtbot.mouseClick(keep.back, LEFT)  # the last one is taken back
        qtbot.mouseClick(keep.keep, LEFT)
        sheet = work.catalog.device("pump-house-pump")
        assert sheet.banks[0].table == {"010": "9600"} and sheet.port.set_in["rate"].how == "menu Setup"
        assert sheet.forbidden == []


def test_the_same_way_by_keyboard_alone(window: Window, qtbot: QtBot) -> None:
    """Tab leads to everything that is needed, keys printed on the buttons do the rest; no pointer."""

    def tab_to(widget: QWidget) -> None:
        for _ in range(80):
            if QApplication.focusWidget() is widget:
                return
            qtbot.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_Tab)
        raise AssertionError(f"Tab does not lead to {widget.accessibleName() or widget}")

    def press(key: Qt.Key) -> None:
        qtbot.keyClick(QApplication.focusWidget() or window, key)

    with far_end(lambda said: b"FLOWMETER 12 v2.0\r\n" if said == b"VER?\r\n" else b"") as far:
        window.activateWindow()
        page = stage(window, Stage.NEW_LINK)
        tab_to(next(tile for tile in page.faces.tiles if "9 contacts" in tile.accessibleName()))
        press(Qt.Key.Key_Space)
        tab_to(page.halves["socket"])
        press(Qt.Key.Key_Space)
        tab_to(page.search)
        qtbot.keyClicks(page.search, "text instrument")
        tab_to(page.devices)
        press(Qt.Key.Key_Down)
        tab_to(page.port)
        page.port.setCurrentText("")
        qtbot.keyClicks(page.port, far.address)
        tab_to(page.name)
        qtbot.keyClicks(page.name, "Pump house, flow meter")
        tab_to(page.listen_button)
        press(Qt.Key.Key_Space)
        link = window.work.link
        assert link is not None and link.live.listening
        link._acts_passed = True
        tab_to(window.foot.switch)
        press(Qt.Key.Key_Space)
        talk = stage(window, Stage.TALK).listening
        tab_to(talk.card.words)
        qtbot.keyClicks(talk.card.words, "VER?")
        press(Qt.Key.Key_Return)
        qtbot.waitUntil(lambda: "proof" in window.facts.button.text(), timeout=10_000)
        for _ in range(2):  # keep the proof; keep this device
            tab_to(window.facts.button)
            press(Qt.Key.Key_Space)
        keep = stage(window, Stage.TALK).keep
        tab_to(keep.keep)
        press(Qt.Key.Key_Space)
        assert window.work.catalog.device("pump-house-flow-meter").end == "crlf" and link.proofs()
        link.stop()
