"""The Settings and Prepare stages in the real window, offscreen: switches, recordings, figures, acts ticked."""

import socket
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QGuiApplication, QImage
from PyQt6.QtWidgets import QCheckBox, QLabel
from pytestqt.qtbot import QtBot

from humble_courier.app.link.changes import new_link
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.shown import answered
from humble_courier.app.link.stages import SettingsPage, Stage
from humble_courier.app.link.step import Action
from humble_courier.app.settings import banks
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.sheets import as_it_is
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.documents.link_changes import with_settings
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput
from humble_courier.ui.stages.prepare.stage import ActText
from humble_courier.ui.stages.settings.address_page import NetworkPane, PlanKind
from humble_courier.ui.stages.settings.photo_dialog import PhotoDialog
from humble_courier.ui.window import Window
from tests.address.test_photo import picture
from tests.conftest import untick
from tests.line.recordings import TEXT, as_vcd, recorded
from tests.ui.walk import LEFT, desk, stage


def texts(widget: object) -> str:
    return " ".join(x.text() for x in widget.findChildren(QLabel))  # type: ignore[attr-defined]


def opened(window: Window, act: SettingsPage) -> None:
    window.go_to("settings")
    stage(window, Stage.SETTINGS).choose(act)


def differ(window: Window) -> None:
    link = window.work.link
    assert link is not None
    link.change(with_settings(link.document.model, computer=Settings.parse("2400,8N1")))
    window.refresh()


def test_side_by_side(window: Window) -> None:
    differ(window)
    opened(window, SettingsPage.COMPARE)
    told = texts(stage(window, Stage.SETTINGS).match)
    assert "switches 1 to 3 of bank S2" in told and "Looks like: few different characters" in told
    assert "disagree: rate, data bits and parity" in stage(window, Stage.SETTINGS).headline.text()


def test_switches_are_turned_by_mouse_and_keyboard_and_taken_over(window: Window, qtbot: QtBot) -> None:
    opened(window, SettingsPage.SWITCHES)
    page = stage(window, Stage.SETTINGS).switches
    assert "1200" in page.says.text()
    box = page.picture._boxes()[2]
    qtbot.mouseClick(page.picture, LEFT, pos=QPoint(int(box.center().x()), int(box.center().y())))
    assert "9600" in page.says.text()
    qtbot.keyClick(page.picture, Qt.Key.Key_Left)
    qtbot.keyClick(page.picture, Qt.Key.Key_Space)
    assert "not in the table" in page.says.text() and not page.adopt.isEnabled()
    page.seen.emit("0 1 0")
    assert "2400" in page.says.text()
    headline, reason = stage(window, Stage.SETTINGS).headline.text(), stage(window, Stage.SETTINGS).reason.text()
    assert headline.startswith("S2 on ") and headline.endswith("says rate 2400") and "this link has 1200 7E1" in reason
    page.seen.emit("0 1")
    assert "count again" in stage(window, Stage.SETTINGS).reason.text()
    page.wanted.emit("300")
    qtbot.mouseClick(page.adopt, LEFT)
    assert window.work.link is not None and str(window.work.link.document.link.device_settings) == "300,7E1"
    window.work.link.undo()
    assert str(window.work.link.document.link.device_settings) == "1200,7E1"


def test_another_revision_has_another_table(window: Window) -> None:
    opened(window, SettingsPage.SWITCHES)
    page = stage(window, Stage.SETTINGS).switches
    page.variant_changed.emit("before-3")
    page.seen.emit("000")
    assert "300" in page.says.text() and window.work.link is not None
    assert window.work.link.document.link.sheet is not None and window.work.link.document.link.sheet.edition.endswith(
        "edition 2"
    )
    page.variant_changed.emit("")
    page.seen.emit("000")
    assert "1200" in page.says.text() and "It told firmware" not in page.tell.text()
    window.work.link.evidence.shown = answered("ID", {"firmware": "2.9"})
    page.seen.emit("000")
    assert "It told firmware 2.9: that is before-3" in page.tell.text()


def test_a_recording_is_dropped_and_read(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    opened(window, SettingsPage.READ)
    page, file = stage(window, Stage.SETTINGS).capture, tmp_path / "probe.vcd"
    file.write_bytes(as_vcd({"tx": recorded(np.random.default_rng(1), TEXT, Settings.parse("4800,8O1"), "scattered")}, 100))
    assert page.example.isVisible() and stage(window, Stage.SETTINGS).headline.text() == "Nothing read yet"
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(file))])
    none, kind = Qt.KeyboardModifier.NoModifier, Qt.DropAction.CopyAction
    page.dropEvent(QDropEvent(QPointF(5, 5), kind, data, LEFT, none))
    qtbot.waitUntil(lambda: "4800 8O1" in page.said, timeout=10_000)
    assert not page.example.isVisible() and stage(window, Stage.SETTINGS).headline.text() == page.said
    assert page.text.toPlainText().startswith("LEVEL LOGGER") and "4800 8O1" in page.belief.accessibleName()
    qtbot.mouseClick(page.adopt, LEFT)
    assert window.work.link is not None and str(window.work.link.document.link.device_settings) == "4800,8O1"
    file.write_bytes(b"rubbish")
    page.dropped.emit(file)
    qtbot.waitUntil(lambda: "cannot be read" in page.said, timeout=10_000)
    assert "enddefinitions" in page.more


def test_what_was_heard_here_is_judged(window: Window, qtbot: QtBot) -> None:
    differ(window)
    link = window.work.link
    assert link is not None
    link.listen()
    qtbot.waitUntil(lambda: sum(len(u) for u in link.live.utterances()) >= 38, timeout=20_000)
    opened(window, SettingsPage.READ)
    page = stage(window, Stage.SETTINGS).capture
    qtbot.mouseClick(page.listen, LEFT)
    qtbot.waitUntil(lambda: page.said.startswith("1200 "), timeout=20_000)
    link.stop()


def test_figures_follow_what_is_typed(window: Window) -> None:
    opened(window, SettingsPage.TIME)
    page = stage(window, Stage.SETTINGS).figures
    assert "8.333 ms" in texts(page)
    headline = stage(window, Stage.SETTINGS).headline
    assert headline.text() == "Too late: the program gives up after 100 ms" and "too late" in page.exchange.accessibleName()
    page.fields["timeout_ms"].setText("150")
    page.changed.emit()
    assert headline.text() == "In time only with the adapter set to 1 ms"  # 16 characters of 8.33 ms, 10 ms, and 1 or 16 ms
    page.fields["takes_per_s"].setText("20")
    page.changed.emit()
    assert "are lost, the first after" in texts(page)
    page.fields["count"].setText("many")
    page.changed.emit()
    assert "is no number" in stage(window, Stage.SETTINGS).reason.text()


def test_acts_of_prepare_are_ticked_and_kept(window: Window, qtbot: QtBot) -> None:
    assert window.work.link is not None
    untick(window.work.link)
    window.go_to("device")
    page = stage(window, Stage.PREPARE)
    ticks = page.findChildren(QCheckBox)
    assert any("Tell its revision" in t.accessibleName() for t in ticks) and "acts left" in page.headline.text()
    before = page.headline.text()
    qtbot.mouseClick(page.findChildren(ActText)[0], LEFT)
    assert page.headline.text() != before
    assert any(fact.text.startswith("Power the logger") for fact in window.work.link.facts())
    assert "where it stays away" in texts(page)


def test_addresses_are_planned_kept_and_opened(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    opened(window, SettingsPage.ADDRESS)
    link, page = window.work.link, stage(window, Stage.SETTINGS).address
    assert link is not None
    page.bus.show_rows([("pump", "4", "", ""), ("valve", "4", "", "")])
    page.bus.changed.emit()
    assert "both have 4" in texts(page.bus)
    page.bus.settle_button.click()
    assert "each is legal and stands once" in texts(page.bus) and page.bus.rows()[1][1] != "4"
    assert "valve" in (link.plans.get("bus") or "")
    page.choose(PlanKind.POINTS)
    page.points.show_rows([("in", "", "16", "0"), ("out", "", "16", "8")])
    page.points.changed.emit()
    assert "8 to 23 of out meets 0 to 15 of in" in texts(page.points)
    plan = tmp_path / "io.yaml"
    plan.write_text("courier: io/1\nradix: 8\nmodules:\n- {name: lamps, points: 8, start: 10}\n")
    desk(window, Stage.SETTINGS).address.open_file(plan)
    assert page.points.rows() == [("lamps", "", "8", "10")] and "20" in texts(page.points)
    page.choose(PlanKind.NETWORK)
    page.network.fields["device"].setText("192.168.4.1/24")
    page.network.changed.emit()
    assert "192.168.4.254/24 dev lan0" in texts(page.network)
    page.network.fields["device"].setText("192.168.4.1")
    page.network.changed.emit()
    assert "size of its network" in page.problem.text()


def test_a_site_of_300_rows_put_in_at_once(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    opened(window, SettingsPage.ADDRESS)
    link, page = window.work.link, stage(window, Stage.SETTINGS).address
    assert link is not None
    page.choose(PlanKind.SITE)
    board = QGuiApplication.clipboard()
    assert board is not None
    board.setText("\n".join(f"pillow {n}\t\t" for n in range(300)))
    page.site.table.selectRow(0)
    qtbot.keyClick(page.site.table, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert len(page.site.rows()) == 300
    for field, text in zip(page.site.extras[1:], ("30", "1000-1999", "1"), strict=True):
        field.setText(text)
    page.site.extras[1].editingFinished.emit()
    assert "300 devices on 10 segments" in stage(window, Stage.SETTINGS).headline.text()
    page.site.settle_button.click()
    rows = page.site.rows()
    assert rows[0][1:3] == ("segment 1", "2") and rows[299][1] == "segment 10" and rows[299][4] == "1299"
    page.site.table.typed.setData(page.site.table.typed.index(1, 2), "2")
    assert "both have 2" in texts(page.site)
    for name in ("plan.yaml", "plan.csv", "plan.pdf"):
        desk(window, Stage.SETTINGS).address.save_file(tmp_path / name)
    assert (tmp_path / "plan.csv").read_text().count("segment 10") == 30 and (tmp_path / "plan.pdf").read_bytes()[
        :4
    ] == b"%PDF"
    page.site.table.selectAll()
    page.site.table.take_out()
    page.site.table.put_in("Gauge house, level logger\nRidge, wind sensor")
    assert [row[0] for row in page.site.rows()] == ["Gauge house, level logger", "Ridge, wind sensor"]
    page.site.table.put_in("valve 1,,5,,\nvalve 2,A,,,\n")
    assert [row[:3] for row in page.site.rows()] == [("valve 1", "", "5"), ("valve 2", "A", "")]
    desk(window, Stage.SETTINGS).address.open_file(tmp_path / "plan.yaml")
    assert page.site.rows() == [rows[0], (*rows[1][:2], "2", *rows[1][3:]), *rows[2:]] and link.plans.get("site")
    page.site.extras[2].setText("all")
    page.site.changed.emit()
    assert "as in 1000-1999" in page.problem.text()


def test_a_photographed_bank_is_read(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    opened(window, SettingsPage.SWITCHES)
    levers = picture([1, 0, 0], True, 0.3, 5, 40)
    values = np.ascontiguousarray(np.clip(levers, 0, 255).astype(np.uint8))
    file = str(tmp_path / "bank.png")
    assert QImage(values.tobytes(), values.shape[1], values.shape[0], values.shape[1], QImage.Format.Format_Grayscale8).save(
        file
    )
    dialog = PhotoDialog(Path(file), 3, window.work.theme, window)
    qtbot.addWidget(dialog)
    taken: list[tuple[int, ...]] = []
    dialog.taken.connect(taken.append)
    assert "Every lever is told" in dialog.says.text()
    dialog.light.setChecked(False)
    dialog.light.setChecked(True)
    dialog.take.click()
    assert taken == [(1, 0, 0)]
    with pytest.raises(BadInput, match="not a picture"):
        PhotoDialog(tmp_path / "none.png", 3, window.work.theme)


def test_round_switches_are_turned_a_digit_on() -> None:
    sheet = Catalog().device("snow-pillow")
    bank = as_it_is(sheet, "plate-c").banks[0]
    shown = banks.view(bank, banks.as_seen(bank, "2F"))
    assert (shown.says, shown.digits) == ("47", "2F")
    assert banks.view(bank, banks.turned(shown, 2)).digits == "20"
    assert banks.view(bank, banks.wanted(bank, "171")).digits == "AB"
    with pytest.raises(BadInput, match="2 digits"):
        banks.as_seen(bank, "2G")


def told(pane: NetworkPane, link: OpenLink, qtbot: QtBot, address: str) -> None:
    """The device has told its address, and it stands in the field of the present one."""

    def there() -> bool:
        link.poll()
        pane.changed.emit()
        return pane.fields["device"].text() == address

    qtbot.waitUntil(there, timeout=9000)


def test_a_network_port_is_tried_taken_asked_and_set(window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    """Tried at a server of this computer; its address read and set over the serial port of the simulated concentrator."""
    work = window.work
    assert work.records is not None
    address = "sim://bench/data-concentrator?power=on&pace=8"
    work.open(work.records.add(new_link("data-concentrator", ["usb-rs232"], address, work.catalog), "hut"))
    opened(window, SettingsPage.ADDRESS)
    link, pane = work.link, stage(window, Stage.SETTINGS).address.network
    assert link is not None
    link.bag.kit = KitModel("kit/1", [KitItem(part=part) for part in work.catalog.part_entries])
    assert link.next_step().action is Action.CHAIN and link.take(link.next_step())
    assert pane.fields["device"].text() == "192.168.4.1/24"
    with socket.create_server(("127.0.0.1", 0)) as server:
        port = server.getsockname()[1]
        monkeypatch.setattr("humble_courier.app.settings.reaching.ports_of", lambda _: (port,))
        qtbot.mouseClick(pane.reach, LEFT)
        qtbot.waitUntil(lambda: "does not reach" in stage(window, Stage.SETTINGS).reason.text(), timeout=5000)
        pane.fields["device"].setText("127.0.0.1/8")
        pane.fields["computer"].setText("127.0.0.9/8")
        pane.changed.emit()
        assert f"127.0.0.1 at {port}" in pane.will_send.text() and not pane.take.isVisible()
        qtbot.mouseClick(pane.reach, LEFT)
        qtbot.waitUntil(pane.take.isVisible, timeout=5000)
    assert "somebody listens" in texts(pane)
    link.listen()
    link._acts_passed = True
    qtbot.waitUntil(lambda: link.ready_in_s == 0, timeout=20_000)
    link.arm()
    qtbot.mouseClick(pane.ask, LEFT)
    told(pane, link, qtbot, "192.168.4.1/24")
    pane.fields["wanted"].setText("192.168.4.7/24")
    pane.changed.emit()
    for line in ("configure", "ip 192.168.4.7/24", "store"):
        assert pane.set.text() == f"Say “{line}”"
        qtbot.mouseClick(pane.set, LEFT)
        qtbot.waitUntil(lambda line=line: line in link.live.said(), timeout=9000)  # type: ignore[misc]
    assert not pane.set.isVisible()
    qtbot.mouseClick(pane.ask, LEFT)
    told(pane, link, qtbot, "192.168.4.7/24")
    assert "Put back 192.168.4.1/24" in pane.put_back.text(), "what was stored was noted before it was changed"
    qtbot.mouseClick(pane.put_back, LEFT)
    assert pane.fields["wanted"].text() == "192.168.4.1/24" and pane.set.text() == "Say “configure”"
    pane.fields["wanted"].clear()
    pane.changed.emit()
    link.stop()
    assert not pane.take.isVisible(), "it was found at another address"
    pane.fields["device"].setText("127.0.0.1/8")
    pane.changed.emit()
    qtbot.mouseClick(pane.take, LEFT)
    assert link.document.model.address == f"socket://127.0.0.1:{port}"
    assert link.next_step().action is not Action.SETTINGS
