"""The log of what was done: where it is, what stands in it, and a disk that takes nothing."""

import logging
from collections.abc import Iterator
from io import StringIO
from pathlib import Path

import pytest

from humble_courier.app.log_file import KEPT, LARGEST, begin_log, log_command, log_end, log_path
from humble_courier.domain.settings import Settings
from humble_courier.errors import MachineRefused
from humble_courier.port.permit import Permit
from humble_courier.port.port import open_port

OURS = "humble_courier"


@pytest.fixture(autouse=True)
def state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    yield tmp_path / "humble-courier" / "log.txt"
    for handler in list(logging.getLogger(OURS).handlers):
        logging.getLogger(OURS).removeHandler(handler)
        handler.close()
    logging.getLogger(OURS).setLevel(logging.NOTSET)
    logging.raiseExceptions = True


def test_what_was_done_stands_in_the_file_and_on_standard_error(state: Path) -> None:
    out = StringIO()
    begin_log(verbose=True, out=out)
    log_command("listen")
    with pytest.raises(MachineRefused):
        open_port("/dev/ttyNOWHERE7", Settings.parse("9600,8N1"))
    open_port("loop://", Settings.parse("1200,7E1")).close()
    permit = Permit("may say ID")
    permit.withdraw()
    permit.withdraw()
    log_end("the port is not there", 3)
    assert log_path() == state
    told = state.read_text()
    for words in ("listen begins", "/dev/ttyNOWHERE7 was not opened", "loop:// is open with 1200,7E1", "loop:// is closed",
                  "permit given: may say ID", "permit taken back: may say ID", "ended with code 3"):  # fmt: skip
        assert told.count(words) == 1 == out.getvalue().count(words), words


def test_it_does_not_grow_without_end(state: Path) -> None:
    begin_log(verbose=False)
    for _ in range(LARGEST // 900 * 4):
        log_end("x" * 900, 1)
    files = sorted(state.parent.glob("log.txt*"))
    assert len(files) == KEPT + 1 and all(file.stat().st_size <= LARGEST for file in files)


def test_a_place_that_cannot_be_written_ends_the_log_only(state: Path) -> None:
    state.parent.parent.joinpath("humble-courier").write_text("a file where the folder should be")
    out = StringIO()
    begin_log(verbose=True, out=out)
    log_command("trace")
    assert "no log is kept in" in out.getvalue() and "trace begins" in out.getvalue()


@pytest.mark.skipif(not Path("/dev/full").exists(), reason="a disk that is full")
def test_a_full_disk_ends_the_log_only(state: Path) -> None:
    state.parent.mkdir()
    state.symlink_to("/dev/full")
    out = StringIO()
    begin_log(verbose=True, out=out)
    log_command("trace")
    log_command("plan")
    assert "cannot be written any more" in out.getvalue() and "plan begins" in out.getvalue()


def test_without_a_log_nothing_is_written_to_standard_error(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(MachineRefused):
        open_port("/dev/ttyNOWHERE7", Settings.parse("9600,8N1"))
    Permit("may say ID").withdraw()
    assert capsys.readouterr().err == ""


def test_a_standard_error_that_is_gone_ends_nothing(state: Path, capsys: pytest.CaptureFixture[str]) -> None:
    gone = StringIO()
    gone.close()
    begin_log(verbose=True, out=gone)
    log_command("trace")
    assert "trace begins" in state.read_text() and "Traceback" not in capsys.readouterr().err
