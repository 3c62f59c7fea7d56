"""The Port stage in the real window, offscreen: the machine as plugs come and go, remedies, names, the kernel log."""

import socket
from pathlib import Path

from PyQt6.QtCore import QMimeData, QObject, QUrl
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QLabel, QPushButton
from pytestqt.qtbot import QtBot

from humble_courier.app.link.stages import Stage
from humble_courier.app.port.machine import Machine
from humble_courier.catalog.load import Catalog
from humble_courier.errors import MachineRefused
from humble_courier.host.plug_events import PlugEvents
from humble_courier.ui.stages.port.log_dialog import LogDialog
from humble_courier.ui.stages.port.numbers_dialog import NumbersDialog
from humble_courier.ui.stages.port.plan_dialog import PlanDialog
from humble_courier.ui.stages.port.port_watch import PortWatch
from humble_courier.ui.window import Window
from tests.ui.walk import LEFT, desk, stage


def test_which_one_is_mine(window: Window, qtbot: QtBot) -> None:
    window.go_to("port")
    page = stage(window, Stage.PORT)
    assert page.which.text().startswith("Simulated machine:") and page.ports.count() == 6
    page.ports.setCurrentRow(1)
    qtbot.mouseClick(page.pull, LEFT)
    assert "is gone: put the plug back" in page.which.text() and "Put the plug back" in page.pull.text()
    qtbot.mouseClick(page.pull, LEFT)
    assert "Yours is /dev/ttyUSB1" in page.which.text()
    assert "appeared" in page.ports.item(1).text()  # type: ignore[union-attr]
    assert desk(window, Stage.PORT).watcher.timer.isActive()
    window.go_to("speech")
    qtbot.waitUntil(lambda: not desk(window, Stage.PORT).watcher.timer.isActive(), timeout=3000)


def test_a_remedy_is_copied_not_run(window: Window, qtbot: QtBot) -> None:
    window.go_to("port")
    stage(window, Stage.PORT).ports.setCurrentRow(3)
    copy = next(
        b for b in stage(window, Stage.PORT).steps.findChildren(QPushButton) if b.accessibleName().startswith("Copy")
    )
    qtbot.mouseClick(copy, LEFT)
    board = QGuiApplication.clipboard()
    assert board is not None and board.text().startswith("sudo sed -i '2s/")
    assert "blacklist pl2303" in (desk(window, Stage.PORT).machine.root / "etc/modprobe.d/blacklist.conf").read_text()


def test_a_name_that_stays_is_shown(window: Window, qtbot: QtBot) -> None:
    window.go_to("port")
    stage(window, Stage.PORT).ports.setCurrentRow(0)
    qtbot.mouseClick(stage(window, Stage.PORT).name, LEFT)
    dialog = desk(window, Stage.PORT).dialog
    assert dialog is not None
    told = " ".join(x.text() for x in dialog.findChildren(QLabel))
    assert 'ATTRS{serial}=="SK0001"' in told and "Shown, not run" in told
    dialog.close()


def test_the_kernel_log_is_read_as_it_is_pasted_or_dropped(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    window.go_to("port")
    stage(window, Stage.PORT).log_wanted.emit()
    dialog = desk(window, Stage.PORT).dialog
    assert isinstance(dialog, LogDialog) and "healthy" in dialog.said.text()
    dialog.text.setPlainText("[ 1.0] usb usb1-port2: over-current condition")
    assert "not enough power" in dialog.said.text()

    def refused() -> str:
        raise MachineRefused("the kernel log may not be read by this user", "Let an administrator read it")

    dialog._live = refused
    qtbot.mouseClick(dialog.live, LEFT)
    assert "administrator" in dialog.said.text() and "over-current" in dialog.text.toPlainText()
    file = tmp_path / "kern.log"
    file.write_text("[ 1.0] usb 1-2: device descriptor read/64, error -32\n")
    for path, told in ((file, "cable or socket"), (tmp_path / "nowhere", "No such file")):
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(path))])
        assert dialog.text.canInsertFromMimeData(data)
        dialog.text.insertFromMimeData(data)
        assert told in dialog.said.text()
    plain = QMimeData()
    plain.setText("[ 2.0] usb usb1-port2: over-current condition")
    dialog.text.setPlainText("")
    dialog.text.insertFromMimeData(plain)
    assert "not enough power" in dialog.said.text()
    dialog.close()


def test_the_latency_is_set_when_asked_and_stands_in_the_record(window: Window, qtbot: QtBot) -> None:
    window.go_to("port")
    stage(window, Stage.PORT).ports.setCurrentRow(0)

    def press(text: str) -> None:
        found = next(b for b in stage(window, Stage.PORT).steps.findChildren(QPushButton) if b.text().startswith(text))
        qtbot.mouseClick(found, LEFT)

    press("Set 1 ms now")
    assert any("it was 16 ms" in fact.text for fact in window.work.link.facts())  # type: ignore[union-attr]
    press("Set 16 ms now")
    assert desk(window, Stage.PORT).machine.ports[0].latency_ms == 16


def test_numbers_for_old_programs(window: Window, qtbot: QtBot) -> None:
    window.go_to("port")
    stage(window, Stage.PORT).numbers_wanted.emit()
    dialog = desk(window, Stage.PORT).dialog
    assert isinstance(dialog, NumbersDialog) and "as it is" in dialog.headline.text()
    dialog.spins[3][1].setValue(2)
    assert "to change" in dialog.headline.text() and dialog.steps.count() >= 4
    dialog.reserved.setText("1, 2")
    steps = " ".join(x.text() for x in dialog.findChildren(QLabel))
    assert "ln -s" in steps
    dialog.reserved.setText("x")
    assert "expected numbers" in dialog.headline.text()
    dialog.close()


def test_the_watch_looks_beside_the_window_and_at_once_where_udev_tells(
    catalog: Catalog, tmp_path: Path, qtbot: QtBot
) -> None:
    ours, theirs = socket.socketpair()

    class Monitor:
        def fileno(self) -> int:
            return ours.fileno()

        def poll(self, timeout: float) -> object | None:
            ours.setblocking(False)
            try:
                return ours.recv(1)
            except BlockingIOError:
                return None

    owner = QObject()
    watch, machine = PortWatch(owner, PlugEvents(Monitor())), Machine(catalog, tmp_path)
    watch.start(machine)
    with qtbot.waitSignal(watch.looked, timeout=3000) as heard:
        theirs.send(b"..")
    assert heard.args is not None and machine.take(heard.args[0]) is False
    watch.close()
    for end in (ours, theirs):
        end.close()


def test_the_label_is_printed(window: Window, tmp_path: Path) -> None:
    window.go_to("port")
    desk(window, Stage.PORT).save_label(tmp_path / "label.pdf")
    assert (tmp_path / "label.pdf").read_bytes().startswith(b"%PDF")
    desk(window, Stage.PORT).save_label(tmp_path / "nowhere" / "label.pdf")
    assert "nowhere" in stage(window, Stage.PORT).reason.text()


def test_the_driver_plan_follows_its_boxes(window: Window, qtbot: QtBot) -> None:
    window.go_to("port")
    stage(window, Stage.PORT).plan_wanted.emit()
    dialog = desk(window, Stage.PORT).dialog
    assert isinstance(dialog, PlanDialog)
    count = dialog.steps.count()
    dialog.signed.setChecked(True)
    assert dialog.steps.count() == count + 2
    dialog.close()


def test_the_real_machine_is_one_action_away(window: Window, qtbot: QtBot) -> None:
    window.go_to("port")
    qtbot.mouseClick(stage(window, Stage.PORT).switch, LEFT)
    assert not stage(window, Stage.PORT).which.text().startswith("Simulated")
    assert not stage(window, Stage.PORT).pull.isVisible()
    qtbot.mouseClick(stage(window, Stage.PORT).switch, LEFT)
    assert stage(window, Stage.PORT).ports.count() == 6
