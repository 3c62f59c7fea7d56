"""Pictures of each main view from the demo data, made the same way each time."""

import os
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtWidgets import QApplication

from humble_courier.app.files import unwritable
from humble_courier.app.link.stages import SettingsPage, Stage, TalkPage, WirePage
from humble_courier.app.talk.traffic import Traffic
from humble_courier.app.trade import open_catalog
from humble_courier.documents.link_changes import with_part, with_settings
from humble_courier.domain.clock import SystemClock
from humble_courier.domain.settings import Settings
from humble_courier.errors import MachineRefused
from humble_courier.ui.stages.settings.address_page import PlanKind
from humble_courier.ui.theme import DARK, Theme

if TYPE_CHECKING:
    from humble_courier.app.link.open_link import OpenLink
    from humble_courier.ui.window import Window

SIZE = (1280, 800)  # the size that every page is made for
PATIENCE_S = 20.0  # after that the picture is taken as it is


def take(folder: Path, size: tuple[int, int] = SIZE, text: int = 100, colours: str = "light") -> list[Path]:
    """Render each main view as PNG into `folder`; returns the files. `text` in percent, `colours` by name."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from humble_courier.ui.start import application, show_records
    from humble_courier.ui.window import Window

    app = application()
    with unwritable(folder):
        folder.mkdir(parents=True, exist_ok=True)
    made: list[Path] = []
    with tempfile.TemporaryDirectory() as records:
        window = Window(open_catalog(), Theme.preferred(text, colours, dark=False))
        window.resize(*size)
        window.show()

        def shoot(name: str) -> None:
            for _ in range(10):  # a wrapped text claims its height, the layout follows, the rest moves
                app.processEvents()
            path = folder / f"{name}.png"
            if not window.grab().save(str(path)):
                raise MachineRefused(f"{path} cannot be written", "Make room, or choose another folder")
            made.append(path)

        show_records(window, Path(records) / "empty", demo=False)
        begin = desk(window, Stage.NEW_LINK)
        stage(window, Stage.NEW_LINK).faces.tiles[0].click()
        begin.choose("text-instrument-dte")
        shoot("first-link")
        show_records(window, Path(records) / "demo", demo=True)
        _walk(app, window, shoot)
        window.close()
    return made


def desk(window: "Window", wanted: Stage) -> Any:
    """The desk of a stage, as its own kind."""
    return window.desk(wanted)


def stage(window: "Window", wanted: Stage) -> Any:
    """The widget of a stage: pictures reach into its pages, which only its own desk knows."""
    return window.desk(wanted).stage


def _wait(app: QApplication, done: Callable[[], bool]) -> None:
    """Let the window live until something holds."""
    clock = SystemClock()
    until = clock.now() + PATIENCE_S
    while not done() and clock.now() < until:
        app.processEvents()
        clock.wait(clock.now() + 0.01)


def _walk(app: QApplication, window: object, shoot: Callable[[str], None]) -> None:
    """Through the demo as a technician would go."""
    from humble_courier.ui.window import Window

    assert isinstance(window, Window) and window.work.link is not None
    link = window.work.link
    window.go_to("device")
    shoot("prepare")
    window.go_to("port")
    stage(window, Stage.PORT).pulled.emit()
    stage(window, Stage.PORT).pulled.emit()
    stage(window, Stage.PORT).ports.setCurrentRow(3)
    shoot("port")
    window.go_to("part:2")
    link.change(with_part(link.document.model, 1, "straight-de9"))
    window.refresh()
    shoot("wire-straight")
    link.undo()
    window.refresh()
    _wire_acts(window, shoot)
    window.go_to("settings")
    link.change(with_settings(link.document.model, computer=Settings.parse("2400,8N1")))
    window.refresh()
    shoot("settings-differ")
    stage(window, Stage.SETTINGS).choose(SettingsPage.SWITCHES)
    shoot("settings-switches")
    _addresses(window, shoot)
    link.undo()
    _diagnose(app, window, link, shoot)
    window.go_to("settings")
    link.change(with_settings(link.document.model, computer=Settings.parse("2400,8N1")))
    _talk(app, window, link, shoot)
    link.stop()


def _talk(app: QApplication, window: "Window", link: "OpenLink", shoot: Callable[[str], None]) -> None:
    """From garbled to proven, and what is kept."""
    window.go_to("speech")
    link.listen()
    _wait(app, lambda: link.evidence.heard is Traffic.WRONG_SETTINGS and len(link.live.utterances()[0].heard) >= 38)
    window.refresh()
    shoot("talk-garbled")
    window.go_to("speech")
    link.undo()
    _wait(app, lambda: link.evidence.greeting is not None and not link.ready_in_s)
    for act in link.undone():
        link.tick(act.id, done=True)
    link.arm()
    link.say("ID")
    _wait(app, lambda: link.evidence.proven)
    link.say("LV")
    _wait(app, lambda: len(link.live.utterances()) >= 5 and bool(link.live.utterances()[-1].meaning))
    window.refresh()
    shoot("talk-answer")
    stage(window, Stage.TALK).choose(TalkPage.KEEP)
    shoot("talk-keep")
    stage(window, Stage.TALK).choose(TalkPage.LISTEN)
    _searches(app, window, shoot)
    link.keep_proof()
    window.open_rail(Stage.RECORDS)
    kept = stage(window, Stage.RECORDS)
    kept.links.setCurrentRow(next(n for n, one in enumerate(kept._links) if "pillows" in one.name))
    kept._each(kept.looked.emit)
    shoot("records")
    window.open_rail(Stage.TODAY)
    today = desk(window, Stage.TODAY)
    _wait(app, lambda: not today.solving)
    today.stage.bag.tiles[0].click()
    shoot("today")
    window.set_theme(Theme(DARK).scaled(window.work.theme.scale))
    window.open_rail(Stage.DEVICES)
    shoot("devices")


def _diagnose(app: QApplication, window: "Window", link: "OpenLink", shoot: Callable[[str], None]) -> None:
    """It does not work: what the program has looked at by itself, and what is looked at next."""
    window.open_rail(Stage.DIAGNOSE)
    _wait(app, lambda: link.diagnosis.look().simulated)
    for check, outcome in (("open", "opens"), ("ask", "nothing"), ("lines", "none"), ("other-frames", "nothing"),
                           ("wait", "nothing")):  # fmt: skip
        link.diagnosis.look().seen(check, outcome, by_itself=True)
    link.diagnosis.look().seen("power-cycle", "nothing")
    window.refresh()
    shoot("diagnose")


def _addresses(window: "Window", shoot: Callable[[str], None]) -> None:
    """Six pillows on one pair, two of them alike."""
    stage(window, Stage.SETTINGS).choose(SettingsPage.ADDRESS)
    page = stage(window, Stage.SETTINGS).address
    page.choose(PlanKind.BUS)
    page.bus.show_rows([(f"pillow-{i}", str(i if i < 6 else 3), "", "") for i in range(1, 7)])
    page.bus.changed.emit()
    shoot("settings-addresses")
    stage(window, Stage.SETTINGS).choose(SettingsPage.SEE)


def _searches(app: QApplication, window: "Window", shoot: Callable[[str], None]) -> None:
    """The device searched for as if nothing were known of it, and the port proven with a plug."""
    stage(window, Stage.TALK).choose(TalkPage.FIND)
    page, talk = stage(window, Stage.TALK).finding, desk(window, Stage.TALK)
    page.sheet.setChecked(False)
    page.armed.setChecked(True)
    page.started.emit()
    _wait(app, lambda: talk.finding.run is not None and len(talk.finding.run.tried) >= 9)
    shoot("talk-find")
    page.cancelled.emit()
    _wait(app, lambda: not window.work.authority.now().works)
    stage(window, Stage.TALK).choose(TalkPage.PROVE)
    stage(window, Stage.TALK).prove.asked.emit("latency")
    _wait(app, lambda: talk.proofs.running)
    _wait(app, lambda: not talk.proofs.running)
    shoot("talk-prove")
    stage(window, Stage.TALK).choose(TalkPage.LISTEN)


def _wire_acts(window: "Window", shoot: Callable[[str], None]) -> None:
    """The other acts of the Wire stage, and the kit."""
    stage(window, Stage.WIRE).choose(WirePage.CABLE)
    for beep in (False, False, False, True, False, True):
        stage(window, Stage.WIRE).meter.said.emit(beep)
    shoot("wire-meter")
    stage(window, Stage.WIRE).choose(WirePage.PORT)
    for contact, volts in (("2", "0.0"), ("3", "-9.6"), ("4", "9.1"), ("7", "9.2"), ("8", "0.1")):
        stage(window, Stage.WIRE).volts.fields[contact].setText(volts)
    stage(window, Stage.WIRE).choose(WirePage.CHOOSE)
    shoot("wire-kit")
    stage(window, Stage.WIRE).choose(WirePage.BUILD)
    shoot("wire-build")
    stage(window, Stage.WIRE).choose(WirePage.FOLLOW)
