"""Menu entry, icon and kinds of file for one person (XDG base directories; freedesktop.org's desktop entry, icon theme,
shared MIME-info and AppStream specifications). Nothing outside their folders is touched, and all of it can be taken out.
"""

import os
import shutil
import subprocess
import sys
from dataclasses import dataclass
from pathlib import Path

from humble_courier.app.files import unwritable, write_whole

FILES = Path(__file__).parent / "files"
NAME = "humble-courier"
# Each file with its place below the data folder of the person.
PLACES = {
    f"{NAME}.desktop": f"applications/{NAME}.desktop",
    f"{NAME}.svg": f"icons/hicolor/scalable/apps/{NAME}.svg",
    f"{NAME}.xml": f"mime/packages/{NAME}.xml",
    f"{NAME}.metainfo.xml": f"metainfo/{NAME}.metainfo.xml",
}
# What makes the desktop look at them; a desktop without these programs looks by itself, sooner or later.
REFRESH = (("update-mime-database", "mime"), ("update-desktop-database", "applications"))
LONGEST_S = 60


@dataclass(frozen=True)
class Installed:
    """Files that were written or taken out, and the programs that told the desktop of it."""

    files: tuple[Path, ...]
    told: tuple[str, ...]


def data_home() -> Path:
    """Where this person's programs keep such files (XDG_DATA_HOME)."""
    chosen = os.environ.get("XDG_DATA_HOME", "")
    return Path(chosen) if Path(chosen).is_absolute() else Path.home() / ".local" / "share"


def program() -> str:
    """The program as it was called: the script of this environment, else Python with the package."""
    beside = Path(sys.executable).with_name(NAME)
    return str(beside) if beside.is_file() else shutil.which(NAME) or sys.executable


def install(to: Path | None = None) -> Installed:
    """Put them there. Raises MachineRefused where the folder cannot be written."""
    home, called = to or data_home(), program()
    exec_ = called if called != sys.executable else f"{called} -m humble_courier"
    written = []
    for name, place in PLACES.items():
        path, text = home / place, (FILES / name).read_text(encoding="utf-8")
        if name.endswith(".desktop"):
            text = text.replace("@exec@", _quoted(exec_, called)).replace("@program@", called)
        with unwritable(path.parent, "See that you may write in your own data folder (XDG_DATA_HOME)"):
            path.parent.mkdir(parents=True, exist_ok=True)
        write_whole(path, text.encode())
        written.append(path)
    return Installed(tuple(written), _refresh(home))


def _quoted(exec_: str, called: str) -> str:
    """As the desktop entry specification quotes an argument with a blank in it."""
    if " " not in called:
        return exec_
    safe = called.replace("\\", r"\\").replace('"', r"\"").replace("`", r"\`").replace("$", r"\$")
    return exec_.replace(called, f'"{safe}"', 1)


def uninstall(of: Path | None = None) -> Installed:
    """Take them out again; what is not there is none of those that were taken out. Raises MachineRefused."""
    home, gone = of or data_home(), []
    for place in PLACES.values():
        path = home / place
        if path.is_file():
            with unwritable(path):
                path.unlink()
            gone.append(path)
    return Installed(tuple(gone), _refresh(home))


def _refresh(home: Path) -> tuple[str, ...]:
    """Tell the desktop, where it has a program for that and the folder is there."""
    told = []
    for name, folder in REFRESH:
        found = shutil.which(name)
        if found is None or not (home / folder).is_dir():
            continue
        try:
            done = subprocess.run([found, str(home / folder)], capture_output=True, timeout=LONGEST_S, check=False)
        except (OSError, subprocess.TimeoutExpired):
            continue
        if done.returncode == 0:
            told.append(name)
    return tuple(told)
