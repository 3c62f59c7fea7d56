"""Pictures of each main view from the demo data, made the same way each time."""

import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QApplication

from humble_courier.app.talk.traffic import Traffic
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link_changes import with_part, with_settings
from humble_courier.domain.settings import Settings
from humble_courier.ui.stages.settings.address_page import PlanKind
from humble_courier.ui.stages.settings.stage import SettingsAct as SettingsAct
from humble_courier.ui.stages.talk.stage import TalkAct as TalkAct
from humble_courier.ui.stages.wire.stage import WireAct
from humble_courier.ui.theme import DARK, Theme

if TYPE_CHECKING:
    from humble_courier.app.link.workbench import Workbench
    from humble_courier.ui.window import Window

SIZE = (1280, 800)
PATIENCE_S = 20.0


def take(folder: Path) -> list[Path]:
    """Render each main view as PNG into `folder`; returns the files."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from humble_courier.ui.start import application, open_records
    from humble_courier.ui.window import Window

    app = application()
    folder.mkdir(parents=True, exist_ok=True)
    made: list[Path] = []
    with tempfile.TemporaryDirectory() as records:
        window = Window(Catalog(), Theme())
        window.resize(*SIZE)
        window.show()

        def shoot(name: str) -> None:
            for _ in range(10):  # a wrapped text claims its height, the layout follows, the rest moves
                app.processEvents()
            path = folder / f"{name}.png"
            window.grab().save(str(path))
            made.append(path)

        open_records(window, Path(records) / "empty", demo=False)
        shoot("first-link")
        open_records(window, Path(records) / "demo", demo=True)
        _walk(app, window, shoot)
        window.close()
    return made


def _wait(app: QApplication, done: Callable[[], bool]) -> None:
    """Let the window live until something holds."""
    until = time.monotonic() + PATIENCE_S
    while not done() and time.monotonic() < until:
        app.processEvents()
        time.sleep(0.01)


def _walk(app: QApplication, window: object, shoot: Callable[[str], None]) -> None:
    """Through the demo as a technician would go."""
    from humble_courier.ui.window import Window

    assert isinstance(window, Window) and window.bench is not None
    bench = window.bench
    window.go_to("device")
    shoot("prepare")
    window.go_to("port")
    window.port.pulled.emit()
    window.port.pulled.emit()
    window.port.ports.setCurrentRow(3)
    shoot("port")
    window.go_to("part:2")
    bench.change(with_part(bench.model, 1, "straight-de9"))
    window.refresh()
    shoot("wire-straight")
    bench.undo()
    window.refresh()
    _wire_acts(window, shoot)
    window.go_to("settings")
    bench.change(with_settings(bench.model, computer=Settings.parse("2400,8N1")))
    window.refresh()
    shoot("settings-differ")
    window.settings.choose(SettingsAct.SWITCHES)
    shoot("settings-switches")
    _addresses(window, shoot)
    _talk(app, window, bench, shoot)
    bench.stop()


def _talk(app: QApplication, window: "Window", bench: "Workbench", shoot: Callable[[str], None]) -> None:
    """From garbled to proven, and what is kept."""
    window.go_to("speech")
    bench.listen()
    _wait(app, lambda: bench.evidence.heard is Traffic.WRONG_SETTINGS and len(bench.utterances()[0].heard) >= 38)
    window.refresh()
    shoot("talk-garbled")
    window.go_to("settings")
    window.settings.choose(SettingsAct.READ)
    window.settings.capture.heard.emit()
    _wait(app, lambda: window.settings_desk.found is not None)
    shoot("settings-heard")
    window.settings.choose(SettingsAct.SEE)
    window.go_to("speech")
    bench.undo()
    _wait(app, lambda: bench.evidence.greeting is not None)
    bench.arm()
    bench.say("ID")
    _wait(app, lambda: bench.evidence.answered)
    bench.say("LV")
    _wait(app, lambda: len(bench.utterances()) >= 5 and bool(bench.utterances()[-1].meaning))
    window.refresh()
    shoot("talk-answer")
    _searches(app, window, shoot)
    bench.keep_proof()
    window.open_rail("records")
    shoot("records")
    window.open_rail("devices")
    shoot("devices")
    window.set_theme(Theme(DARK))
    window.go_to("part:2")
    shoot("wire-dark")


def _addresses(window: "Window", shoot: Callable[[str], None]) -> None:
    """Six pillows on one pair, two of them alike."""
    window.settings.choose(SettingsAct.ADDRESS)
    page = window.settings.address
    page.choose(PlanKind.BUS)
    page.bus.show_rows([(f"pillow-{i}", str(i if i < 6 else 3), "", "") for i in range(1, 7)])
    page.bus.changed.emit()
    shoot("settings-addresses")
    window.settings.choose(SettingsAct.SEE)


def _searches(app: QApplication, window: "Window", shoot: Callable[[str], None]) -> None:
    """The device searched for as if nothing were known of it, and the port proven with a plug."""
    window.talk.choose(TalkAct.FIND)
    page, desk = window.talk.finding, window.talk_desk
    page.sheet.setChecked(False)
    page.armed.setChecked(True)
    page.started.emit()
    _wait(app, lambda: desk.machine is not None and len(desk.machine.tried) >= 9)
    shoot("talk-find")
    page.cancelled.emit()
    _wait(app, lambda: not desk.sending)
    window.talk.choose(TalkAct.PROVE)
    window.talk.prove.asked.emit("latency")
    _wait(app, lambda: bool(desk.sending))
    _wait(app, lambda: not desk.sending)
    shoot("talk-prove")
    window.talk.choose(TalkAct.LISTEN)


def _wire_acts(window: "Window", shoot: Callable[[str], None]) -> None:
    """The other acts of the Wire stage, and the kit."""
    window.wire.choose(WireAct.CABLE)
    for beep in (False, False, False, True, False, True):
        window.wire.meter.said.emit(beep)
    shoot("wire-meter")
    window.wire.choose(WireAct.PORT)
    for contact, volts in (("2", "0.0"), ("3", "-9.6"), ("4", "9.1"), ("7", "9.2"), ("8", "0.1")):
        window.wire.volts.fields[contact].setText(volts)
    shoot("wire-port")
    window.wire.choose(WireAct.CHOOSE)
    shoot("wire-kit")
    window.wire.choose(WireAct.BUILD)
    shoot("wire-build")
    window.wire.choose(WireAct.FOLLOW)
