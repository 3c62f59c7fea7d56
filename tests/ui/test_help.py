"""The manual: a chapter for each page, found by words; words of the trade told where they stand; the first walk."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent, QPoint
from PyQt6.QtGui import QHelpEvent
from PyQt6.QtWidgets import QApplication, QToolTip
from pytestqt.qtbot import QtBot

from humble_courier.app.link.stages import Stage
from humble_courier.app.preferences import KeptPreferences
from humble_courier.catalog.load import Catalog
from humble_courier.ui.first_walk import FirstWalk
from humble_courier.ui.help import KEYS, show_help
from humble_courier.ui.manual_text import ORDER, chapter_of, chapters, glossary, words_in
from humble_courier.ui.start import application, show_records
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import label
from humble_courier.ui.window import Window
from tests.ui.walk import LEFT


def test_every_page_has_its_chapter_and_no_chapter_is_empty() -> None:
    assert {chapter_of(stage) for stage in Stage} <= set(ORDER)
    assert all(chapter_of(stage) != ORDER[0] for stage in Stage), "each page has one of its own"
    assert all(len(chapter.text.split()) > 30 and chapter.title for chapter in chapters())
    assert len({chapter.title for chapter in chapters()}) == len(ORDER)


@pytest.mark.parametrize("word", ["DTE", "DCE", "frame", "mark", "space", "break", "terminator", "joint", "proof"])
def test_words_of_the_trade_are_told_in_any_sentence(word: str) -> None:
    assert len(glossary()[word]) > 20
    assert (word, glossary()[word]) in words_in(f"Is this {word.upper()} what it waits for?")
    assert words_in(f"un{word}able") == []


@pytest.mark.qt_log_ignore("does not support raise")
def test_a_word_is_told_where_it_stands(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    shown: list[str] = []
    monkeypatch.setattr(QToolTip, "showText", lambda _at, text, _on: shown.append(text))
    told, own = label("Its terminator is not known"), label("Its terminator")
    own.setToolTip("a tip of its own")
    for one in (told, own, label("nothing of the trade")):
        qtbot.addWidget(one)
        QApplication.sendEvent(one, QHelpEvent(QEvent.Type.ToolTip, QPoint(1, 1), QPoint(1, 1)))
    assert sum("what ends a line of words" in text for text in shown) == 1


def test_the_manual_opens_at_the_page_and_is_searched(window: Window, qtbot: QtBot) -> None:
    manual = show_help(window, window.work.theme, Stage.WIRE)
    qtbot.addWidget(manual)
    assert manual.page.toPlainText().startswith("Wire")
    qtbot.keyClicks(manual.search, "latency timer")
    assert [manual.list.item(i).text() for i in range(manual.list.count())] == ["Words"]  # type: ignore[union-attr]
    manual.search.setText("zeppelin")
    assert "stands nowhere" in manual.page.toPlainText()
    manual.open_at("keys")
    assert all(keys.split(",")[0] in manual.page.toPlainText() for keys, _ in KEYS)


def test_the_walk_is_gone_once(qtbot: QtBot, tmp_path: Path, catalog: Catalog) -> None:
    app = application()
    for time in (1, 2):
        kept = KeptPreferences(tmp_path / "preferences.json")
        window = Window(catalog, Theme(), kept)
        qtbot.addWidget(window)
        window.show()
        show_records(window, tmp_path / f"demo{time}", demo=True)
        found = window.findChildren(FirstWalk)
        assert len(found) == (1 if time == 1 else 0)
        for walk in found:
            told = set()
            while not walk.isHidden():
                told.add(walk.told.text())
                assert window.rect().contains(walk.geometry()), "the card is whole in the window"
                window.resize(1024 + len(told), 700)
                qtbot.mouseClick(walk.next, LEFT)
            assert len(told) == 5 and kept.now.walked
        window.close()
    assert app is not None
