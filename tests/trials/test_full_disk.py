"""A disk that takes no more: one line at each place where something is written. /dev/full says what a full disk says."""

import os
import subprocess
import sys
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QApplication

from humble_courier.app.files import write_whole
from humble_courier.errors import MachineRefused, Refusal
from humble_courier.ui.start import application
from tests.cli.test_app import FILES

FULL = Path("/dev/full")


@pytest.fixture
def app() -> QApplication:
    return application()


def run(words: str, folder: Path, out: Path | None = None) -> tuple[int, str]:
    """Exit code and standard error of a command; its output goes into a file."""
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    with (out or folder / "out").open("wb") as file:
        command = [sys.executable, "-m", "humble_courier", *words.split()]
        done = subprocess.run(
            command, stdout=file, stderr=subprocess.PIPE, text=True, cwd=folder, env=environment, timeout=60, check=False
        )
    return done.returncode, done.stderr


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    for name, text in FILES.items():
        (tmp_path / name).write_text(text)
    (tmp_path / "full").symlink_to(FULL)
    return tmp_path


@pytest.mark.parametrize(
    "words",
    ["parts", "parts --json", "schema link", "trace weir.yaml --json", "kernel-log log.txt", "--help", "nonsense --json",
     "loopback sim://bench/loop-back?power=on --arm",
     "listen sim://bench/wind-sensor?power=on --settings 4800,8N1 --seconds 1"],
)  # fmt: skip
def test_output_that_cannot_be_written_is_one_line(folder: Path, words: str) -> None:
    code, told = run(words, folder, FULL)
    assert code in (2, 3) and told.count("\n") == 1 and "Traceback" not in told
    assert "nonsense" in words or ("standard output cannot be written" in told and "full" in told)


@pytest.mark.parametrize(
    "words",
    ["sheet weir.yaml --pdf full", "sheet weir.yaml --svg full", "label weir.yaml --pdf full", "build weir.yaml --csv full",
     "build weir.yaml --pdf full", "build weir.yaml --svg full"],
)  # fmt: skip
def test_a_file_that_cannot_be_written_is_one_line(folder: Path, words: str) -> None:
    code, told = run(words, folder)
    assert (code, told.count("\n")) == (3, 1) and "The disk is full: make room" in told


def test_devices_and_links_are_written_into_and_not_replaced(tmp_path: Path) -> None:
    there, link = tmp_path / "there", tmp_path / "link"
    there.write_bytes(b"old")
    link.symlink_to(there)
    write_whole(link, b"new")
    assert link.is_symlink() and there.read_bytes() == b"new"
    write_whole(Path("/dev/null"), b"gone")
    assert Path("/dev/null").is_char_device()
    assert not list(tmp_path.glob("*.part"))


@pytest.mark.parametrize("place", ["there/below", "", "no/such/folder/file"])
def test_places_that_are_none(tmp_path: Path, place: str) -> None:
    (tmp_path / "there").write_bytes(b"")
    with pytest.raises(MachineRefused, match=r"cannot be written.*Choose another place"):
        write_whole(tmp_path / place, b"x")
    assert [path.name for path in tmp_path.iterdir()] == ["there"]


def test_the_old_file_stays_whole_where_the_new_one_does_not_fit(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "sheet.pdf"
    path.write_bytes(b"old")
    (tmp_path / "sheet.pdf.part").symlink_to(FULL)
    with pytest.raises(MachineRefused) as told:
        write_whole(path, b"new")
    assert told.value.code is Refusal.DISK_FULL and path.read_bytes() == b"old"


def test_reports_and_icons_do_without_a_disk(monkeypatch: pytest.MonkeyPatch, app: QApplication) -> None:
    from humble_courier.app.defects import told, write_report
    from humble_courier.ui.widgets.icons import Icons

    def full(*_: object, **__: object) -> None:
        raise OSError(28, "No space left on device")

    icons = Icons()
    for taken in ("mkdir", "write_text"):
        monkeypatch.setattr(Path, taken, full)
    monkeypatch.setattr("tempfile.NamedTemporaryFile", full)
    assert icons.arrow("#000000") == ""
    assert write_report(ValueError, ValueError("x"), None) is None
    assert "no disk" in told(ValueError, None)
    icons.close()
