"""The program among the others of a person: what is installed passes the desktop's own checks, and all of it goes again."""

import os
import shlex
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from click.testing import CliRunner

from humble_courier.app.desktop import install as installing
from humble_courier.cli.app import LOADERS, build
from humble_courier.cli.reference import completion_of, man_page
from humble_courier.errors import BadInput, MachineRefused
from tests.cli.test_cli import run
from tests.test_project import ROOT


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
    words = next(shlex.split(line.partition("=")[2]) for line in entry.splitlines() if line.startswith("Exec="))
    assert words[-2:] == ["open", "%u"]
    assert checked(*words[:-2], "--version").startswith("Humble Courier 0.")  # the entry is run, not only read
    assert run("uninstall")[0] == 0
    left = [path for path in tmp_path.rglob("humble-courier*") if path.is_file()]
    assert left == []
    assert "Nothing was there" in run("uninstall")[1]


def test_the_entry_hands_over_nothing_a_file_its_url_or_a_code(tmp_path: Path) -> None:
    link = tmp_path / "weir 1.link.yaml"
    link.write_text("courier: link/1\n")
    asked: list[Path | None] = []

    class Rooms:
        def window(self, data: Path | None, demo: bool, fresh: bool, file: Path | None = None) -> int:
            asked.append(file)
            return 0

    for words in ([], [str(link)], [link.as_uri()]):
        assert CliRunner().invoke(build(Rooms()), ["open", *words]).exit_code == 0  # type: ignore[arg-type]
    assert asked == [None, link, link]
    assert CliRunner().invoke(build(Rooms()), ["open", (tmp_path / "none.yaml").as_uri()]).exit_code != 0  # type: ignore[arg-type]


def test_the_script_of_a_clone_completes_its_own_words_and_the_program_s(tmp_path: Path) -> None:
    script = tmp_path / "completion"
    script.write_text(completion_of("bash"))
    for typed, wanted in ((["./courier", "ru"], "run"), (["./courier", "run", "trac"], "trace")):
        asking = f". {script}; COMP_WORDS=({' '.join(typed)}); COMP_CWORD={len(typed) - 1}; "
        asking += f'_courier_clone_completion {ROOT / "courier"}; echo "${{COMPREPLY[@]}}"'
        done = subprocess.run(["bash", "-c", asking], capture_output=True, text=True, check=False)
        assert done.stdout.strip() == wanted, done.stderr


def test_a_program_in_a_folder_with_a_blank_is_quoted(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(installing, "program", lambda: "/opt/my tools/humble-courier")
    installing.install(tmp_path)
    checked("desktop-file-validate", tmp_path / "applications/humble-courier.desktop")
    assert 'Exec="/opt/my tools/humble-courier" open %u' in (tmp_path / "applications/humble-courier.desktop").read_text()


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
