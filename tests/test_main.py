"""What is nobody's error but ours: one line to the person, the details in a file."""

import json
import subprocess
import sys
from pathlib import Path

import pytest

from humble_courier.app.defects import MOST_REPORTS, write_report


def test_a_defect_is_one_line_and_a_file(tmp_path: Path) -> None:
    code = """
import sys
import humble_courier.cli.wiring as wiring
from humble_courier.__main__ import main

def broken(*_):
    raise ZeroDivisionError("a bug")

wiring.trace_file = broken
sys.argv = ["humble-courier", "trace", "x.yaml"]
main()
"""
    environment = {"XDG_STATE_HOME": str(tmp_path / "state"), "PATH": "/usr/bin"}
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, env=environment, check=False)
    assert done.returncode == 70
    assert done.stderr.count("\n") == 1
    assert "Traceback" not in done.stderr
    details = next(tmp_path.glob("state/humble-courier/reports/*.txt")).read_text()
    assert "ZeroDivisionError: a bug" in details


def run(*words: str, **environment: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "humble_courier", *words]
    return subprocess.run(command, capture_output=True, text=True, env={"PATH": "/usr/bin", **environment}, check=False)


@pytest.mark.parametrize(
    ("words", "code", "error"),
    [
        (["trace", "none.yaml", "--json"], 2, {"code": "bad-input", "file": "none.yaml", "line": None, "remedy": None}),
        (["listen", "/dev/ttyNONE", "--settings", "9600,8N1", "--json"], 3, {"code": "absent", "file": None}),
        (["loopback", "/dev/ttyNONE", "--json"], 3, {"code": "not-armed"}),
        (["trace", "--json"], 2, {"code": "usage"}),
    ],
)
def test_an_error_is_a_document_too(words: list[str], code: int, error: dict[str, object]) -> None:
    done = run(*words)
    told = json.loads(done.stdout)["error"]
    assert done.returncode == code and done.stderr.count("\n") == 1
    assert set(told) == {"code", "text", "file", "line", "remedy"} and told["text"]
    assert {key: told[key] for key in error} == error


def test_no_display_is_one_line(tmp_path: Path) -> None:
    done = run("demo", DISPLAY=":987", XDG_DATA_HOME=str(tmp_path))
    assert done.returncode == 3 and "no display" in done.stderr and done.stderr.count("\n") == 1


def test_a_report_is_written_somewhere_and_old_ones_go(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    error = ValueError("a bug")
    reports = [write_report(ValueError, error, None) for _ in range(MOST_REPORTS + 5)]
    assert "ValueError: a bug" in reports[-1].read_text() and len(list(reports[-1].parent.iterdir())) <= MOST_REPORTS + 1
    blocked = tmp_path / "file"
    blocked.write_text("")
    monkeypatch.setenv("XDG_STATE_HOME", str(blocked))
    assert "ValueError: a bug" in write_report(ValueError, error, None).read_text()
