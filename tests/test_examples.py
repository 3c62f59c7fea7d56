"""The README's commands on the files of `examples/`: each file is there, and what needs no device does its work."""

import re
import shlex
import shutil
from pathlib import Path

import pytest

from tests.cli.test_cli import run
from tests.test_project import ROOT

EXAMPLES = ROOT / "examples"
LINES = re.findall(r"^\./courier run ([^#\n]+)", (ROOT / "README.md").read_text(), re.MULTILINE)
# Commands that want a machine, a device or records.
DEVICE = ("/dev/", "simulate", "ports", "driver", "install", "records", "history", "compare", "notes")
COMMANDS = [line.strip() for line in LINES if line.strip() and not any(word in line for word in DEVICE)]
FILE = re.compile(r"^[\w-]+(\.[\w-]+)*\.(yaml|csv|vcd|raw|ics)$")


def test_every_file_of_the_readme_is_an_example() -> None:
    named = {word for line in LINES for word in shlex.split(line) if FILE.match(word)}
    assert {"weir.link.yaml", "bag.yaml"} <= named
    assert sorted(name for name in named if not (EXAMPLES / name).is_file()) == []


@pytest.mark.parametrize("line", COMMANDS)
def test_a_command_of_the_readme_does_its_work(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, line: str) -> None:
    folder = tmp_path / "examples"
    shutil.copytree(EXAMPLES, folder)
    monkeypatch.chdir(folder)
    code, out, error = run("--data", str(tmp_path / "data"), *shlex.split(line))
    assert code in (0, 1), error
    assert "humble-courier:" not in error
    written = [folder / word for word in shlex.split(line) if word.endswith((".pdf", ".svg"))]
    assert out or written
    assert all(path.stat().st_size > 500 for path in written)
