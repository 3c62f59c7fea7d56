"""One window for one folder: a second start hands its file over and waits until it was taken; a killed window is none."""

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from PyQt6.QtNetwork import QLocalServer
from pytestqt.qtbot import QtBot

from humble_courier.ui.one_instance import OneInstance, _name, hand_over


def second_start(qtbot: QtBot, folder: Path, file: Path | None) -> bool:
    """A second start, as another process would be."""
    with ThreadPoolExecutor(1) as pool:
        done = pool.submit(hand_over, folder, file)
        qtbot.waitUntil(done.done, timeout=15_000)
        return done.result()


def test_a_second_start_hands_its_file_over(qtbot: QtBot, tmp_path: Path) -> None:
    assert not second_start(qtbot, tmp_path, None), "there is no window yet"
    first = OneInstance(tmp_path)
    there: list[tuple[Path | None, bool]] = []
    first.wanted.connect(lambda file: there.append((file, file is not None and file.is_file())))
    short_lived = tmp_path / "weir link.yaml"
    short_lived.write_text("courier: link/1\n")
    assert second_start(qtbot, tmp_path, short_lived)
    short_lived.unlink()  # as a link in short, which is a file only while it is handed over
    assert second_start(qtbot, tmp_path, None)
    assert there == [(short_lived, True), (None, False)]
    assert not second_start(qtbot, tmp_path / "other", None), "another folder is another window"
    first.close()
    assert not second_start(qtbot, tmp_path, None)


def test_what_a_killed_window_leaves_is_taken_over(qtbot: QtBot, tmp_path: Path) -> None:
    left = QLocalServer()
    assert left.listen(_name(tmp_path))
    path = Path(left.fullServerName())
    left.close()
    path.touch()
    first = OneInstance(tmp_path)
    assert second_start(qtbot, tmp_path, None)
    first.close()
