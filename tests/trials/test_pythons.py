"""The wheel in an empty environment of each Python that is promised; part of the long trials, since each is fetched anew."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from tests.test_project import ROOT
from tests.trials.conftest import LONG

PROMISED = ("3.11", "3.12", "3.13")


def interpreter(version: str) -> str | None:
    """A Python of that version: among those that a version manager keeps in its usual place, or on the PATH."""
    kept = sorted((Path.home() / ".pyenv" / "versions").glob(f"{version}.*/bin/python"))
    return str(kept[-1]) if kept else shutil.which(f"python{version}")


@pytest.mark.skipif(not LONG, reason="a minute for each Python: ./courier trials")
@pytest.mark.parametrize("version", PROMISED)
def test_installed_into_an_empty_environment(version: str, tmp_path: Path) -> None:
    python = interpreter(version)
    if python is None:
        pytest.skip(f"there is no Python {version} here")
    build = [sys.executable, "-m", "hatchling", "build", "-t", "wheel", "-d", str(tmp_path)]
    subprocess.run(build, cwd=ROOT, check=True, capture_output=True)
    subprocess.run([python, "-m", "venv", str(tmp_path / "empty")], check=True)
    bin_ = tmp_path / "empty" / "bin"
    subprocess.run([bin_ / "python", "-m", "pip", "install", "-q", *tmp_path.glob("*.whl")], check=True, capture_output=True)

    def told(*words: str) -> str:
        command = [str(bin_ / "humble-courier"), "--data", str(tmp_path / "data"), *words]
        environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
        environment.pop("PYTHONPATH", None)
        done = subprocess.run(command, capture_output=True, text=True, env=environment, cwd=tmp_path, check=True)
        return done.stdout

    assert "Humble Courier" in told("--version")
    assert "works" in told("trace", str(ROOT / "examples" / "weir.link.yaml"))
    told("shots", str(tmp_path / "shots"), "--size", "1024", "700")
    assert len(list((tmp_path / "shots").glob("*.png"))) > 10
