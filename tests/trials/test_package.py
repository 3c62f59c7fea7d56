"""The package for Debian: built, installed, used and removed; part of the long trials, where root is at hand."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from tests.test_project import ROOT
from tests.trials.conftest import LONG

HOME = Path("/opt/humble-courier")


def run(*words: str | Path) -> str:
    done = subprocess.run([str(word) for word in words], cwd=ROOT, capture_output=True, text=True, check=True)
    return done.stdout


@pytest.mark.skipif(not LONG, reason="some minutes: ./courier trials")
@pytest.mark.skipif(os.geteuid() != 0 or shutil.which("dpkg-deb") is None, reason="wants root and dpkg-deb")
@pytest.mark.skipif(HOME.exists(), reason="it is installed here already")
def test_built_installed_used_and_removed(tmp_path: Path) -> None:
    run(sys.executable, "-m", "tools.deb", tmp_path)
    (package,) = tmp_path.glob("*.deb")
    assert "Depends: python3" in run("dpkg-deb", "--info", package)
    assert not HOME.exists()
    try:
        run("dpkg", "--install", "--force-depends", package)
        assert "Humble Courier" in run("/usr/bin/humble-courier", "--version")
        assert "works" in run("/usr/bin/humble-courier", "trace", ROOT / "examples" / "weir.link.yaml")
        assert Path("/usr/share/applications").glob("*humble*")
    finally:
        run("dpkg", "--remove", "humble-courier")
    assert not Path("/usr/bin/humble-courier").exists() and not (HOME / "bin").exists()
