"""Nothing leaves unasked: every button, key and command goes off at a port whose far end writes down what comes."""

import os
import subprocess
import sys
from pathlib import Path

import msgspec
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShortcut
from PyQt6.QtPrintSupport import QPrintDialog
from PyQt6.QtWidgets import QAbstractButton, QDialog, QFileDialog, QLineEdit
from pytestqt.qtbot import QtBot

from humble_courier.app.link.stages import Stage
from humble_courier.app.link.step import Action
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link_changes import with_settings
from humble_courier.ui.start import application, show_records
from humble_courier.ui.theme import Theme
from humble_courier.ui.window import Window
from tests.trials.ptys import far_end

# What a press of these sends stands beside them, and the press is the permit.
GIVE_A_PERMIT = (
    "Arm",
    "Prove with a plug",
    "Time the round trip",
    "Long transfer",
    "Search",
    "Ask all control units",
    "Ask again",
)
CALL_OUT = ("Look for libraries", "Is it there?")  # on the network, as is said beside it
AWAY = ("Put it on", "Only put it on", "Open  Ctrl+O")  # another link comes on the line, and takes the port away
SENDING_STEPS = (Action.ARM, Action.SAY, Action.ASK_AGAIN)


@pytest.fixture
def window(qtbot: QtBot, tmp_path: Path, catalog: Catalog, monkeypatch: pytest.MonkeyPatch) -> Window:
    """The demo's window in which no dialog waits for anybody."""
    application()
    for ask in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, ask, staticmethod(lambda *_, **__: ("", "")))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", staticmethod(lambda *_, **__: ""))
    for dialog in (QDialog, QPrintDialog):
        monkeypatch.setattr(dialog, "exec", lambda _: 0)
    made = Window(catalog, Theme())
    qtbot.addWidget(made)
    made.show()
    show_records(made, tmp_path / "demo", demo=True)
    return made


def at(window: Window, address: str) -> None:
    link = window.work.link
    assert link is not None
    model = with_settings(link.document.model, computer="9600,8N1")
    link.change(msgspec.structs.replace(model, address=address))


def press_everything(window: Window, qtbot: QtBot) -> int:
    """Each button of each stage and of the frame, each shortcut, Enter in each field; returns how many."""
    pressed = 0
    for wanted in Stage:
        page = window.desk(wanted).stage
        window.rail_stage = (
            wanted if wanted in (Stage.KIT, Stage.RECORDS, Stage.DEVICES, Stage.NEW_LINK, Stage.PREFERENCES) else None
        )
        for made in page.findChildren(QAbstractButton):
            if (
                made.isEnabled()
                and not made.text().startswith((*GIVE_A_PERMIT, *CALL_OUT))
                and not made.text().startswith(AWAY)
            ):
                made.click()
                pressed += 1
        for field in page.findChildren(QLineEdit):
            if field.isEnabled():
                field.setText("ID")
                qtbot.keyClick(field, Qt.Key.Key_Return)
                pressed += 1
        qtbot.wait(20)
    for key in window.findChildren(QShortcut):
        key.activated.emit()
        pressed += 1
    link = window.work.link
    assert link is not None
    if link.next_step().action not in SENDING_STEPS:
        window.act()
    return pressed


@pytest.mark.parametrize(("greeting", "times"), [(b"ID SKW-GH-07 FW3.1\r\n", 2), (bytes(range(128, 256)), 1)])
def test_no_button_and_no_key_sends_before_one_that_gives_a_permit(
    window: Window, qtbot: QtBot, greeting: bytes, times: int
) -> None:
    """`times`: the second time, what the first has opened is there."""
    with far_end() as there:
        link = window.work.link
        assert link is not None
        at(window, there.address)
        for _ in range(times):
            link.listen()
            there.say(greeting)
            assert press_everything(window, qtbot) > 60
        assert not link.live.armed and bytes(there.received) == b""
        at(window, there.address)
        link.listen()
        for _ in range(2):  # the acts of the sheet are not ticked: once more means it
            window.toggle_arm()
        window.work.do(lambda: link.live.say_bytes(b"witness"))
        qtbot.waitUntil(lambda: bytes(there.received) == b"witness", timeout=5000)
        window.toggle_arm()
        press_everything(window, qtbot)
        qtbot.wait(200)
        assert bytes(there.received) == b"witness"
        window.close()


COMMANDS = [
    "listen {} --settings 9600,8N1 --seconds 0.4",
    "say {} --settings 9600,8N1 --text ID --timeout 0.4",
    "find {} --json",
    "loopback {}",
    "latency {} --settings 9600,8N1",
    "wake {}",
    "units {}",
    "learn {} --settings 9600,8N1 --say ID --as mine",
    "prove {link} --seconds 1",
    "ports",
    "label {link} --pdf out.pdf",
    "trace {link}",
    "sheet {link} --pdf out.pdf",
]


@pytest.mark.parametrize("words", COMMANDS)
def test_no_command_sends_without_arm(tmp_path: Path, words: str) -> None:
    link = tmp_path / "weir.yaml"
    with far_end() as there:
        link.write_text(
            "courier: link/1\ncomputer: {port: usb-a}\ndevice: {device: gauge-logger}\n"
            f"chain: [{{part: usb-rs232}}]\nsettings: {{computer: '1200,7E1'}}\naddress: {there.address}\n"
        )
        command = words.replace("{link}", str(link)).replace("{}", there.address).split()
        environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
        done = subprocess.run(
            [sys.executable, "-m", "humble_courier", *command], cwd=tmp_path, env=environment, capture_output=True,
            text=True, timeout=60, check=False,
        )  # fmt: skip
        assert done.returncode in (0, 1, 3) and "Traceback" not in done.stderr
        assert bytes(there.received) == b""
