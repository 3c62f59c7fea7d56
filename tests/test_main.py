"""What is nobody's error but ours: one line to the person, the details in a file."""

import subprocess
import sys
from pathlib import Path


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
    environment = {"TMPDIR": str(tmp_path), "PATH": "/usr/bin"}
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, env=environment, check=False)
    assert done.returncode == 1
    assert done.stderr.count("\n") == 1
    assert "Traceback" not in done.stderr
    details = next(tmp_path.glob("humble-courier-*.txt")).read_text()
    assert "ZeroDivisionError: a bug" in details
