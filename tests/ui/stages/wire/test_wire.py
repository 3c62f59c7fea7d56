"""The acts of the Wire stage and the Kit in the real window, offscreen, by mouse and keyboard."""

from pathlib import Path

import msgspec
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QPushButton, QWidget
from pytestqt.qtbot import QtBot

from humble_courier.app.kit.contents import EMPTY, own_lead, with_item
from humble_courier.app.link.stages import Stage, WirePage
from humble_courier.catalog.load import Catalog
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.domain.facts import Provenance
from humble_courier.domain.hardware import Connector, Gender
from humble_courier.ui.widgets.faces import Face, spoken_order
from humble_courier.ui.window import Window
from humble_courier.wiring.identify.suspects import UNKNOWN, CableFault
from tests.ui.walk import LEFT, desk, stage


def open_act(window: Window, qtbot: QtBot, act: WirePage) -> None:
    window.go_to("part:2")
    qtbot.mouseClick(stage(window, Stage.WIRE).buttons[act], LEFT)


def press(window: Window, key: str) -> None:
    """The key of a button that is seen. (Simulated keys do not reach shortcuts; real ones were tried by hand.)"""
    made = [b for b in window.findChildren(QPushButton) if b.isVisible() and b.shortcut().toString() == key]
    assert len(made) == 1 and made[0].isEnabled(), key
    made[0].click()


def test_a_cable_is_named_at_the_bench_by_keyboard(window: Window, qtbot: QtBot) -> None:
    """A full crossed cable lies on the link; the link still has the three-wire one."""
    open_act(window, qtbot, WirePage.CABLE)
    page, meter = stage(window, Stage.WIRE).meter, desk(window, Stage.WIRE)
    assert not page.adopt.isVisible() and not page.back.isEnabled()
    link = meter._meter
    assert link is not None
    names = link.line_up.names
    row = next(i for i, s in enumerate(link.line_up.suspects) if names[s.name] == "crossed-de9-full" and s.fault is None)
    for _ in range(25):
        touch = link.named().next_touch
        if touch is None:
            break
        assert [str(c) for c in touch] == [page.touch.text().split("\n")[0], page.touch.text().split("\n")[-1]]
        press(window, "B" if link.line_up.joined[row, link.line_up.column[touch]] else "S")
    assert "whole as far as it was touched" in stage(window, Stage.WIRE).headline.text()
    assert page.touch.text() == "done" and not page.beeps.isEnabled()
    count = len(link.readings)
    press(window, "Backspace")
    assert len(link.readings) == count - 1
    qtbot.mouseClick(page.adopt, LEFT)
    assert window.work.link is not None and window.work.link.document.link.parts[1].id == "crossed-de9-full"
    fact = next(f for f in window.work.link.facts() if f.subject == "measured crossed-de9-full")
    assert fact.provenance is Provenance.MEASURED
    assert UNKNOWN not in stage(window, Stage.WIRE).meter.suspects.accessibleName()


def test_a_lead_of_ones_own_is_named_and_a_faulty_one_is_held_against_it(
    window: Window, qtbot: QtBot, catalog: Catalog
) -> None:
    link = window.work.link
    assert link is not None
    link.bag.change(
        with_item(link.bag.kit, own_lead("red lead", "D9 socket", "D9 plug", "2-3, 3-2, 5-5, 7-7, 8-8", catalog), catalog)
    )
    open_act(window, qtbot, WirePage.CABLE)
    meter = desk(window, Stage.WIRE)._meter
    assert meter is not None and "red lead" in meter.line_up.names
    row = next(i for i, s in enumerate(meter.line_up.suspects) if meter.line_up.names[s.name] == "red lead" and not s.fault)
    while (touch := meter.named().next_touch) is not None:
        press(window, "B" if meter.line_up.joined[row, meter.line_up.column[touch]] else "S")
    assert "your red lead" in stage(window, Stage.WIRE).headline.text()
    press(window, "L")
    assert link.document.link.parts[1].id == "red lead" and link.document.model.chain[1].conductors
    press(window, "N")
    fresh = desk(window, Stage.WIRE)._meter
    assert fresh is not None
    names = fresh.line_up.names
    rows = [i for i, s in enumerate(fresh.line_up.suspects) if names[s.name] == "red lead" and s.fault]
    row = next(i for i in rows if fresh.line_up.suspects[i].fault == CableFault("open", "A7-B7"))
    while (touch := fresh.named().next_touch) is not None:
        fresh.say(touch, beep=bool(fresh.line_up.joined[row, fresh.line_up.column[touch]]))
    desk(window, Stage.WIRE).show()
    assert "with a fault: open at A7-B7" in stage(window, Stage.WIRE).headline.text()
    press(window, "L")
    assert next(i for i in link.bag.kit.items if i.id == "red lead").failures == 1


def test_a_bad_joint_is_noted(window: Window, qtbot: QtBot) -> None:
    open_act(window, qtbot, WirePage.CABLE)
    press(window, "W")
    link = desk(window, Stage.WIRE)._meter
    assert link is not None and [f.code for f, _ in link.named().faults][:1] == ["high-resistance"]


def test_other_ends_begin_anew(window: Window, qtbot: QtBot) -> None:
    open_act(window, qtbot, WirePage.CABLE)
    page = stage(window, Stage.WIRE).meter
    page.first.setCurrentIndex(page.first.findData("8P8C-8 plug"))
    page.second.setCurrentIndex(page.second.findData("8P8C-8 plug"))
    page.second.activated.emit(page.second.currentIndex())
    assert "Rolled cable" in page.suspects.accessibleName()


def test_a_port_is_named_while_its_volts_are_typed(window: Window, qtbot: QtBot) -> None:
    open_act(window, qtbot, WirePage.PORT)
    page = stage(window, Stage.WIRE).volts
    assert "Which port" in stage(window, Stage.WIRE).headline.text()
    qtbot.keyClicks(page.fields["3"], "-9,6")
    qtbot.keyClicks(page.fields["2"], "0.1")
    assert (
        "DTE with RS-232" in stage(window, Stage.WIRE).headline.text()
        and "crossed" in stage(window, Stage.WIRE).reason.text()
    )
    qtbot.keyClicks(page.fields["4"], "volts")
    assert "Contact 4: a number is expected" in page.remarks.text()
    page.connector.setCurrentIndex(page.connector.findData("D-25 socket"))
    page.connector.activated.emit(page.connector.currentIndex())
    assert len(page.fields) == 25


def test_a_chain_is_taken_from_the_kit(window: Window, qtbot: QtBot) -> None:
    open_act(window, qtbot, WirePage.CHOOSE)
    page = stage(window, Stage.WIRE).chains
    assert page.list.count() == 2 and page.view.isVisible()
    page.list.setCurrentRow(0)
    qtbot.mouseClick(page.take, LEFT)
    assert window.work.link is not None
    assert [p.id for p in window.work.link.document.link.parts] == ["usb-rs232", "crossover-adapter-de9"]
    assert stage(window, Stage.WIRE).page is WirePage.FOLLOW


def test_an_empty_kit_says_what_to_buy(window: Window, qtbot: QtBot) -> None:
    assert window.work.link is not None
    window.work.link.bag.change(EMPTY)
    open_act(window, qtbot, WirePage.CHOOSE)
    page = stage(window, Stage.WIRE).chains
    assert "Nothing in your kit" in stage(window, Stage.WIRE).headline.text()
    assert "To buy" in page.advice.text() and not page.take.isEnabled()
    qtbot.mouseClick(page.build, LEFT)
    assert stage(window, Stage.WIRE).page is WirePage.BUILD


def test_length_is_typed_and_judged(window: Window, qtbot: QtBot) -> None:
    open_act(window, qtbot, WirePage.LOAD)
    field = stage(window, Stage.WIRE).load.fields["length 1"]
    field.clear()
    qtbot.keyClicks(field, "500")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert "too long" in stage(window, Stage.WIRE).headline.text()
    assert "50000 pF" in stage(window, Stage.WIRE).load.remarks.text()
    assert window.work.link is not None and window.work.link.document.link.parts[1].length_m == 500
    press(window, "Ctrl+Z")
    assert window.work.link.document.link.parts[1].length_m == 2
    field.setText("far")
    field.editingFinished.emit()
    assert "expected a number" in stage(window, Stage.WIRE).reason.text()


def test_a_cable_to_build(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    open_act(window, qtbot, WirePage.BUILD)
    page = stage(window, Stage.WIRE).build
    assert "3 conductors" in stage(window, Stage.WIRE).headline.text()
    assert "Must be silent" in page.text.toPlainText()
    page.scheme.setCurrentIndex(page.scheme.findData("tia-568"))
    page.scheme.activated.emit(page.scheme.currentIndex())
    assert "blue BU" in page.text.toPlainText()
    for kind in ("pdf", "svg", "csv"):
        desk(window, Stage.WIRE).save_build(kind, tmp_path / f"b.{kind}")
        assert (tmp_path / f"b.{kind}").stat().st_size > 300


def test_faces_from_the_other_side_and_turned(window: Window, qtbot: QtBot) -> None:
    open_act(window, qtbot, WirePage.FOLLOW)
    page = stage(window, Stage.WIRE).map
    press(window, "V")
    assert "solder side" in page.far.accessibleName() and "1 2 3 4 5 / 6 7 8 9" in page.far.accessibleName()
    press(window, "T")
    assert "turned about" in page.story.text() and "9 8 7 6 / 5 4 3 2 1" in page.story.text()


@pytest.mark.parametrize("shape", ["D-25", "round-9", "mini-DIN-8", "USB-C-24", "GPIB-24", "header-4"])
def test_every_outline_is_drawn(window: Window, shape: str, catalog: Catalog) -> None:
    entry = next(s for s in catalog.shapes.values() if s.id == shape)
    view = stage(window, Stage.WIRE).map.near
    face = Face(Connector(entry.family, entry.contacts, Gender.PLUG), entry, turns=1)
    view.show_face(face, "near", window.work.theme)
    window.go_to("part:2")
    assert not view.grab().isNull()
    assert len(spoken_order(face).replace("/", " ").split()) == entry.contacts


def test_the_kit_by_hand(window: Window, qtbot: QtBot) -> None:
    window.open_rail(Stage.KIT)
    page = stage(window, Stage.KIT)
    assert "14 parts" in page.headline.text()
    page.catalog.setCurrentIndex(page.catalog.findData("patch-8p8c"))
    page.added.emit(page.catalog.currentData())
    assert "15 parts" in page.headline.text()
    page.table.selectRow(next(i for i, row in enumerate(page.table._rows.rows) if row.name == "Patch cable"))
    fewer = next(b for b in page.findChildren(QPushButton) if b.text() == "One fewer")
    qtbot.mouseClick(fewer, LEFT)
    assert "14 parts" in page.headline.text()
    qtbot.keyClicks(page.table, "+-")
    assert "14 parts" in page.headline.text()
    page.search.setText("crossover")
    assert page.table.model().rowCount() == 1 and "1 kind matches" in page.headline.text()
    page.table.selectRow(0)
    qtbot.keyClicks(page.table, "+")
    kit = window.work.link.bag.kit if window.work.link is not None else None
    assert (
        kit is not None and next(i for i in kit.items if i.part == "crossover-adapter-de9").count == 2
    )  # the row, not the place
    qtbot.keyClicks(page.table, "-")
    page.search.setText("")
    for field, text in zip(page.fields, ("blue lead", "D9 socket", "D9 plug", "2-3, 3-2, 5-5"), strict=True):
        field.setText(text)
    page._made()
    assert window.work.link is not None and window.work.link.bag.kit.items[-1].id == "blue lead"
    page.fields[3].setText("2-33")
    page._made()
    assert "has no contact 33" in page.reason.text()


def test_pages_claim_only_the_room_of_the_one_that_is_seen(window: Window, qtbot: QtBot) -> None:
    open_act(window, qtbot, WirePage.PORT)
    stage(window, Stage.WIRE).volts.fields["3"].setText("-9")
    qtbot.waitUntil(lambda: window.stack.height() > 600)
    qtbot.mouseClick(stage(window, Stage.WIRE).buttons[WirePage.LOAD], LEFT)
    qtbot.waitUntil(lambda: window.stack.height() <= 600)
    window.resize(700, 700)
    qtbot.waitUntil(
        lambda: (
            stage(window, Stage.WIRE).buttons[WirePage.BUILD].y() > stage(window, Stage.WIRE).buttons[WirePage.FOLLOW].y()
        )
    )
    assert stage(window, Stage.WIRE).map.view.mapTo(window, QPointF(0, 0)).x() >= 0


def test_a_bag_of_five_thousand_opens(window: Window, qtbot: QtBot) -> None:
    link = window.work.link
    assert link is not None
    grey = KitItem(id="", ends=link.bag.kit.items[-1].ends, conductors=["A2-B2", "A3-B3", "A5-B5"])
    items = [msgspec.structs.replace(grey, id=f"lead {i}") for i in range(5000)]
    link.bag.change(KitModel("kit/1", items))
    window.open_rail(Stage.KIT)
    page = stage(window, Stage.KIT)
    assert "5000 parts" in page.headline.text() and page.table.model().rowCount() == 5000
    assert len(page.findChildren(QWidget)) < 100  # no widget for each part
