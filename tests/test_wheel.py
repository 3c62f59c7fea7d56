"""The wheel: installed alone into an empty folder it has all of its own: data, fonts, manual, migrations."""

import os
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest

from tests.test_project import ROOT

LEFT_OUT = (".pyc", ".yaml~", ".orig")


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("wheel")
    command = [sys.executable, "-m", "hatchling", "build", "-t", "wheel", "-d", str(folder)]
    subprocess.run(command, cwd=ROOT, check=True, capture_output=True)
    (made,) = folder.glob("*.whl")
    return made


def test_every_file_of_the_package_is_in_it_and_nothing_else(wheel: Path) -> None:
    package = ROOT / "src" / "humble_courier"
    wanted = {f"humble_courier/{path.relative_to(package)}" for path in package.rglob("*") if path.is_file()}
    wanted = {name for name in wanted if "__pycache__" not in name and not name.endswith(LEFT_OUT)}
    packed = {name for name in zipfile.ZipFile(wheel).namelist() if not name.startswith("humble_courier-")}
    assert packed == wanted


def test_it_says_what_it_wants_and_who_may_use_it(wheel: Path) -> None:
    with zipfile.ZipFile(wheel) as archive:
        metadata = next(archive.read(name).decode() for name in archive.namelist() if name.endswith("METADATA"))
        entry = next(archive.read(name).decode() for name in archive.namelist() if name.endswith("entry_points.txt"))
    needs = [line for line in metadata.splitlines() if line.startswith("Requires-Dist:") and "extra ==" not in line]
    assert not any(tool in line for line in needs for tool in ("pytest", "ruff", "mypy", "hypothesis"))
    assert "License-Expression: GPL-3.0-or-later" in metadata and "Requires-Python: >=3.11" in metadata
    assert "Provides-Extra: team" in metadata and "humble-courier = humble_courier.__main__:main" in entry


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (["--version"], "Humble Courier"), (["parts"], "straight-de9"), (["devices", "--demo"], "gauge-logger"),
        (["schema", "link"], "link/1"), (["records", "check"], "no records"), (["causes"], "wrong"),
    ],
)  # fmt: skip
def test_installed_alone_it_does_its_work(wheel: Path, tmp_path: Path, words: list[str], told: str) -> None:
    site = wheel.parent / "site"
    if not site.exists():
        zipfile.ZipFile(wheel).extractall(site)
    environment = {**os.environ, "PYTHONPATH": str(site), "PYTHONSAFEPATH": "1"}
    where = "import humble_courier; print(humble_courier.__file__)"
    found = subprocess.run(
        [sys.executable, "-c", where], capture_output=True, text=True, env=environment, cwd=tmp_path, check=True
    )
    assert str(site) in found.stdout
    command = [sys.executable, "-m", "humble_courier", "--data", str(tmp_path), *words]
    done = subprocess.run(command, capture_output=True, text=True, env=environment, cwd=tmp_path, check=False)
    assert told in done.stdout + done.stderr
