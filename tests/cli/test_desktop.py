"""The program among the others of a person: what is installed passes the desktop's own checks, and all of it goes again."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from humble_courier.app.desktop import install as installing
from humble_courier.cli.app import LOADERS
from humble_courier.cli.reference import completion_of, man_page
from humble_courier.errors import BadInput, MachineRefused
from tests.cli.test_cli import run


def checked(*words: str | Path) -> str:
    done = subprocess.run([str(word) for word in words], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout


def test_what_is_installed_passes_the_checks_of_the_desktop(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    assert run("install")[0] == 0
    checked("desktop-file-validate", tmp_path / "applications/humble-courier.desktop")
    checked("appstreamcli", "validate", "--no-net", tmp_path / "metainfo/humble-courier.metainfo.xml")
    assert (tmp_path / "mime/application/x-humble-courier-link.xml").is_file(), "the desktop's own program has read it"
    link = tmp_path / "weir.link.yaml"
    link.write_text("courier: link/1\n")
    environment = {**os.environ, "XDG_DATA_HOME": str(tmp_path)}
    if (xdg := shutil.which("xdg-mime")) is not None:
        told = subprocess.run([xdg, "query", "filetype", link], capture_output=True, text=True, env=environment, check=False)
        assert told.returncode or "humble-courier-link" in told.stdout
    entry = (tmp_path / "applications/humble-courier.desktop").read_text()
    program = next(line.partition("=")[2] for line in entry.splitlines() if line.startswith("TryExec="))
    assert Path(program).is_file() and "@" not in entry
    assert run("uninstall")[0] == 0
    left = [path for path in tmp_path.rglob("humble-courier*") if path.is_file()]
    assert left == []
    assert "Nothing was there" in run("uninstall")[1]


def test_a_program_in_a_folder_with_a_blank_is_quoted(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(installing, "program", lambda: "/opt/my tools/humble-courier")
    installing.install(tmp_path)
    checked("desktop-file-validate", tmp_path / "applications/humble-courier.desktop")
    assert 'Exec="/opt/my tools/humble-courier" open %f' in (tmp_path / "applications/humble-courier.desktop").read_text()


def test_a_folder_that_cannot_be_written_is_told(tmp_path: Path) -> None:
    (tmp_path / "applications").write_text("a file in the way")
    with pytest.raises(MachineRefused, match="XDG_DATA_HOME"):
        installing.install(tmp_path)


def test_the_manual_page_names_every_command_and_man_reads_it() -> None:
    page = man_page()
    assert all(f".B {name.replace('-', chr(92) + '-')}" in page for name in LOADERS)
    found = subprocess.run(["groff", "-k", "-man", "-Tutf8", "-ww"], input=page, capture_output=True, text=True, check=False)
    assert found.returncode == 0 and found.stderr == ""


@pytest.mark.parametrize("shell", ["bash", "zsh", "fish"])
def test_a_shell_completes_commands(shell: str) -> None:
    assert completion_of(shell).startswith("# belongs into")
    asked = {"bash": {"COMP_WORDS": "humble-courier trac", "COMP_CWORD": "1"}, "zsh": {"COMP_WORDS": "humble-courier trac",
             "COMP_CWORD": "1"}, "fish": {"COMP_WORDS": "humble-courier trac", "COMP_CWORD": "trac"}}[shell]  # fmt: skip
    environment = {**os.environ, **asked, "_HUMBLE_COURIER_COMPLETE": f"{shell}_complete"}
    command = [sys.executable, "-m", "humble_courier"]
    told = subprocess.run(command, capture_output=True, text=True, env=environment, check=True).stdout
    assert "trace" in told and "demo" not in told
    with pytest.raises(BadInput, match="bash, zsh, fish"):
        completion_of("tcsh")


def test_the_version_is_told() -> None:
    assert run("--version")[1].startswith("Humble Courier 0.")
    assert run("-h")[0] == 0 and run("trace", "-h")[0] == 0
