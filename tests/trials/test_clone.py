"""A fresh clone is as good as a wheel: its own `.venv`, nothing else installed, and the menu entry really starts."""

import os
import shlex
import subprocess
from pathlib import Path

import pytest

from tests.test_project import ROOT
from tests.trials.conftest import LONG


@pytest.mark.skipif(not LONG, reason="a minute and the registries: ./courier trials")
def test_a_fresh_clone_holds_the_package_and_its_entry_starts(tmp_path: Path) -> None:
    clone, data = tmp_path / "clone of mine", tmp_path / "data"
    subprocess.run(["git", "clone", "-q", "--depth", "1", f"file://{ROOT}", clone], check=True)
    environment = {k: v for k, v in os.environ.items() if not k.startswith(("PYTHON", "VIRTUAL_ENV"))}
    environment |= {"XDG_DATA_HOME": str(data), "QT_QPA_PLATFORM": "offscreen"}

    def run(*words: str | Path) -> str:
        done = subprocess.run([str(word) for word in words], capture_output=True, text=True, env=environment, cwd=tmp_path)
        assert done.returncode == 0, done.stderr
        return done.stdout

    assert run(clone / "courier", "run", "--version").startswith("Humble Courier 0.")
    assert "humble_courier" in run(clone / ".venv/bin/python", "-c", "import humble_courier; print(humble_courier.__file__)")
    assert "complete" in run(clone / "courier", "run", "completion", "bash")
    run(clone / "courier", "run", "install")
    entry = (data / "applications/humble-courier.desktop").read_text()
    words = next(shlex.split(line.partition("=")[2]) for line in entry.splitlines() if line.startswith("Exec="))
    assert words[-2:] == ["open", "%u"] and "trace" in run(*words[:-2], "--help")
    with subprocess.Popen(words[:-1], env=environment, cwd=tmp_path, stderr=subprocess.PIPE) as window:
        with pytest.raises(subprocess.TimeoutExpired):  # a window that has not started would have ended by itself
            window.wait(timeout=10)
        window.terminate()
        assert window.stderr is not None and b"humble-courier:" not in window.stderr.read()
