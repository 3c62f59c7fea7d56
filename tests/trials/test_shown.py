"""What others have written (files, devices, processes) is shown as it is: in the terminal and in the window."""

import subprocess
import sys
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pytestqt.qtbot import QtBot

from humble_courier.domain.text import signs
from humble_courier.ui.widgets.basics import PlainButton, button, label, plain_tip


@given(st.text())
def test_no_control_is_left_and_nothing_else_is_changed(text: str) -> None:
    shown = signs(text)
    harmful = [c for c in shown if (ord(c) < 32 and c not in "\t\n") or 0x7F <= ord(c) < 0xA0 or c in "\u202e\u2066\u200f"]
    assert harmful == []
    assert shown == text or len(shown) > len(text)


@pytest.mark.parametrize("text", ["\x1b[2J", "\x9b31m", "\u202etxt.exe", "\x07", "\u2028"])
def test_the_terminal_obeys_nobody_elses_text(text: str, tmp_path: Path) -> None:
    """In a file's name, in what stands in it, and in an error about either."""
    link = tmp_path / "link.yaml"
    link.write_text(f'courier: link/1\nname: "x"\ncomputer: {{port: dte-de9}}\ndevice: {{port: "a{text}b"}}\nchain: []\n')
    for words in (["trace", str(link)], ["trace", f"none{text}.yaml"], ["driver", f"1a86{text}"]):
        done = subprocess.run([sys.executable, "-m", "humble_courier", *words], capture_output=True, text=True, check=False)
        told = done.stdout + done.stderr
        assert done.returncode == 2 and told.count("\n") == 1
        assert not set(text) & set(told) - set("[2Jx31mt.e ")


@pytest.mark.parametrize("text", ["A&B", "<img src='/etc/passwd'>", "<b>bold</b> & \x1b[1m"])
def test_the_window_shows_tags_and_marks_as_they_are(qtbot: QtBot, text: str) -> None:
    made, told, wrapped = button(text), label(text), label(text, wrap=True)
    assert isinstance(made, PlainButton) and made.text().replace("&&", "&") == signs(text)
    made.setText(text)
    made.setToolTip(text)
    assert made.text().replace("&&", "&") == signs(text) and "<img" not in made.toolTip() and "<b>" not in made.toolTip()
    assert made.toolTip() == plain_tip(text) and plain_tip("") == ""
    for one in (told, wrapped):
        assert one.text() == signs(text) and one.textFormat().name == "PlainText"
