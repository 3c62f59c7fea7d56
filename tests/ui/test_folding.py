"""Every page at every size: nothing is cut, nothing is scrolled sideways, and the main act is in view."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QRect
from PyQt6.QtWidgets import QAbstractScrollArea, QLabel, QPlainTextEdit, QPushButton, QSizePolicy
from pytestqt.qtbot import QtBot

from humble_courier.app.link.stages import SettingsPage, Stage, TalkPage, WirePage
from humble_courier.catalog.load import Catalog
from humble_courier.port.authority import Authority
from humble_courier.ui.start import application, show_records
from humble_courier.ui.theme import DARK, Theme
from humble_courier.ui.window import ENTRIES, Window
from tests.ui.walk import LEFT
from tests.virtual_time import VirtualTime

PAGES = {Stage.WIRE: tuple(WirePage), Stage.SETTINGS: tuple(SettingsPage), Stage.TALK: tuple(TalkPage)}
FRAME = 4  # pixels of a button that are no room for words


def cut(window: Window) -> list[str]:
    """Buttons and labels whose words have no room."""
    found = []
    for made in window.findChildren(QPushButton):
        if made.isVisible() and made.text():
            need = made.fontMetrics().boundingRect(QRect(0, 0, 4000, 400), 0, made.text()).width()
            found += [f"button {made.text()!r}: {made.width()} of {need}"] if need > made.width() - FRAME else []
    for words in window.findChildren(QLabel):
        if not words.isVisible() or not words.text():
            continue
        if words.wordWrap():
            need = words.heightForWidth(words.width())
            found += [f"text {words.text()[:40]!r}: {words.height()} of {need}"] if need > words.height() + 2 else []
        elif words.sizePolicy().horizontalPolicy() is not QSizePolicy.Policy.Ignored and not words.toolTip():
            need = words.fontMetrics().horizontalAdvance(words.text())
            found += [f"label {words.text()[:40]!r}: {words.width()} of {need}"] if need > words.width() + 1 else []
    return found


def sideways(window: Window) -> list[str]:
    """Scroll bars that go sideways; text that one edits may have one."""
    areas = [area for area in window.findChildren(QAbstractScrollArea) if not isinstance(area, QPlainTextEdit)]
    bars = [(area, area.horizontalScrollBar()) for area in areas if area.isVisible()]
    return [f"{type(area).__name__} {area.accessibleName()}" for area, bar in bars if bar is not None and bar.isVisible()]


@pytest.mark.parametrize(
    ("width", "height", "text"),
    [(1024, 700, 100), (1024, 700, 150), (1280, 800, 100), (1280, 800, 150), (1280, 800, 200), (1920, 1080, 100)],
)
def test_every_page_has_room(
    qtbot: QtBot, tmp_path: Path, catalog: Catalog, width: int, height: int, text: int, clock: VirtualTime
) -> None:
    application()
    window = Window(catalog, Theme().scaled(text / 100), authority=Authority(clock))
    qtbot.addWidget(window)
    window.resize(width, height)
    window.show()
    show_records(window, tmp_path / "demo", demo=True)
    faults = []
    for stage in Stage:
        for page in PAGES.get(stage, (None,)):
            window._go(stage, page)
            clock.pass_s(0.09)
            where = f"{stage.value} {page or ''}"
            faults += [f"{where}: {fault}" for fault in (*cut(window), *(f"sideways {one}" for one in sideways(window)))]
            if window.next_bar.isVisible() and window.next_bar.height() > height / 4:
                faults.append(f"{where}: the folded bar takes {window.next_bar.height()} of the height")
            faults += [f"{where}: the line cuts {made.place.title!r}" for made in window.line.buttons if made.cut]
            if (window.width(), window.height()) != (width, height):
                faults.append(f"{where}: the window grew to {window.width()}x{window.height()}")
            act = window.next_bar.button if window.folding.narrow else window.facts.button
            if not ENTRIES[stage].rail and not (
                act.isVisible() and window.rect().contains(act.mapTo(window, act.rect().center()))
            ):
                faults.append(f"{where}: the recommended act is not in view")
    window.close()
    assert not faults, "\n".join(faults)


def test_nothing_is_bright_in_the_dark(window: Window, qtbot: QtBot, clock: VirtualTime) -> None:
    """A widget that nobody gave a ground keeps the bright one of the toolkit."""
    window.set_theme(Theme(DARK))
    window.resize(1280, 800)
    bright = {}
    for stage in Stage:
        for page in PAGES.get(stage, (None,)):
            window._go(stage, page)
            clock.pass_s(0.06)
            picture = window.grab().toImage().scaled(160, 100)
            light = sum(picture.pixelColor(x, y).lightness() > 200 for x in range(160) for y in range(100))
            bright[f"{stage} {page or ''}"] = light / 16_000
    assert {where: share for where, share in bright.items() if share > 0.04} == {}


def test_what_is_known_folds_and_opens_by_a_key(window: Window, qtbot: QtBot) -> None:
    window.resize(1024, 700)
    window.go_to("speech")
    assert not window.facts.isVisible() and window.next_bar.isVisible()
    assert "What we know" in window.next_bar.open.text()
    qtbot.mouseClick(window.next_bar.open, LEFT)
    assert window.facts.isVisible() and window.next_bar.open.text().startswith("Fold")
    qtbot.mouseClick(window.next_bar.open, LEFT)
    for key, button in (("Ctrl+Return", window.next_bar.button), ("F3", window.next_bar.by_itself)):
        assert button.isVisible() and button.shortcut().toString() == key
    qtbot.mouseClick(window.next_bar.open, LEFT)
    assert not window.next_bar.button.isVisible() and not window.next_bar.by_itself.isVisible(), "one place for each key"
    qtbot.mouseClick(window.next_bar.open, LEFT)
    qtbot.mouseClick(window.next_bar.button, LEFT)
    assert window.work.link is not None and window.work.link.live.listening
    window.pilot.told.emit("listens", True)
    assert "By itself: listens" in {one.text() for one in window.next_bar.findChildren(QLabel)}
    assert window.next_bar.by_itself.text().startswith("Stop")
    window.pilot.told.emit("", False)
    window.resize(1400, 900)
    assert window.facts.isVisible() and not window.next_bar.isVisible()
    window.open_rail(Stage.KIT)
    assert window.line.isVisible(), "there is room for both"
    window.resize(1400, 700)
    assert not window.line.isVisible()
