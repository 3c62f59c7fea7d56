"""One window for one folder: a second start hands its file over; the socket of a killed window is no window."""

from pathlib import Path

from PyQt6.QtNetwork import QLocalServer
from pytestqt.qtbot import QtBot

from humble_courier.ui.one_instance import OneInstance, _name, hand_over


def test_a_second_start_hands_its_file_over(qtbot: QtBot, tmp_path: Path) -> None:
    assert not hand_over(tmp_path, None), "there is no window yet"
    first = OneInstance(tmp_path)
    for file in (tmp_path / "weir link.yaml", None):
        with qtbot.waitSignal(first.wanted, timeout=3000) as told:
            assert hand_over(tmp_path, file)
        assert told.args == [file]
    assert not hand_over(tmp_path / "other", None), "another folder is another window"
    first.close()
    assert not hand_over(tmp_path, None)


def test_what_a_killed_window_leaves_is_taken_over(qtbot: QtBot, tmp_path: Path) -> None:
    left = QLocalServer()
    assert left.listen(_name(tmp_path))
    path = Path(left.fullServerName())
    left.close()
    path.touch()
    first = OneInstance(tmp_path)
    with qtbot.waitSignal(first.wanted, timeout=3000):
        assert hand_over(tmp_path, None)
    first.close()
