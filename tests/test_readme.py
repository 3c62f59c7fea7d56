"""The first link of the README, step by step as it is written: each key is pressed, each text is read in the window."""

import re
from collections.abc import Iterator
from functools import partial
from pathlib import Path

import pytest
from PyQt6.QtGui import QGuiApplication, QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QLabel
from pytestqt.qtbot import QtBot

from humble_courier.catalog.load import Catalog
from humble_courier.ui.window import Window
from tests.ui.conftest import opened
from tests.ui.virtual_window import of_window
from tests.virtual_time import VirtualTime, in_force

README = (Path(__file__).parents[1] / "README.md").read_text()
COMMAND = "./courier demo"


def steps() -> list[list[str]]:
    """Keys in backticks and texts in quotation marks of each numbered step, in their order."""
    section = README.partition("## First link in five minutes")[2].partition("\n## ")[0]
    return [re.findall(r"`[^`]+`|“[^”]+”", line) for line in section.splitlines() if re.match(r"\d+\. ", line)]


def read(window: Window) -> str:
    """All that stands in the window."""
    shown = [one for kind in (QLabel, QAbstractButton) for one in window.findChildren(kind) if one.isVisible()]
    return "\n".join(one.text() for one in shown)


def stands(window: Window, text: str) -> None:
    shown = read(window)
    assert text in shown, f"“{text}” does not stand in:\n{shown}"


def follow(window: Window, qtbot: QtBot) -> None:
    window.activateWindow()  # keys go to the window that is active; no window manager sees to that here
    window.setFocus()
    qtbot.waitUntil(window.isActiveWindow)
    found = steps()
    assert len(found) == 9 and found[0][0] == f"`{COMMAND}`"
    for step in found:
        assert len(step) > 1
        for word in step:
            if word[0] == "“":
                qtbot.waitUntil(partial(stands, window, word[1:-1]), timeout=8000)
            elif word != f"`{COMMAND}`":
                (key,) = QKeySequence(word[1:-1].replace("Enter", "Return"))
                QTest.keyClick(window, key.key(), key.keyboardModifiers())


@pytest.fixture
def as_met(qtbot: QtBot, tmp_path: Path, catalog: Catalog) -> Iterator[Window]:
    """The demo as a person meets it: nothing done beforehand."""
    with in_force(VirtualTime()) as clock, of_window(clock):
        made = opened(qtbot, tmp_path / "demo", catalog, demo=True, clock=clock)
        yield made
        made.close()


@pytest.mark.qt_log_ignore("does not support")  # the offscreen plugin
def test_first_link_as_the_readme_says(as_met: Window, qtbot: QtBot) -> None:
    follow(as_met, qtbot)


@pytest.mark.window
def test_first_link_as_the_readme_says_in_a_real_window(as_met: Window, qtbot: QtBot) -> None:
    assert QGuiApplication.platformName() == "xcb"
    follow(as_met, qtbot)
