"""A package for Debian and its children, with an environment of its own below /opt: `python -m tools.deb [FOLDER]`, as root.

The environment is made where it will lie, since its scripts name that place; then it is packed. Wants dpkg-deb and pip.
"""

import shutil
import subprocess
import sys
import tempfile
import tomllib
from pathlib import Path

ROOT = Path(__file__).parent.parent
HOME = Path("/opt/humble-courier")
NAME = "humble-courier"
# What Qt needs to draw; the same list as in `courier`.
DEPENDS = (
    "python3 (>= 3.11), libegl1, libgl1, libxkbcommon0, libxkbcommon-x11-0, libxcb-cursor0, libxcb-icccm4, libxcb-image0, "
    "libxcb-keysyms1, libxcb-render-util0, libxcb-shape0, libxcb-xinerama0, libdbus-1-3, libfontconfig1, libglib2.0-0"
)


def run(*words: str | Path) -> None:
    """Run a program; raises where it fails."""
    subprocess.run([str(word) for word in words], check=True)


def environment() -> None:
    """The environment with what is pinned, and the program itself out of its wheel."""
    if HOME.exists():
        raise SystemExit(f"{HOME} is there already: remove it, or the installed package, first")
    run(sys.executable, "-m", "venv", HOME)
    python = HOME / "bin" / "python"
    with tempfile.TemporaryDirectory() as folder:
        run(python, "-m", "pip", "install", "-q", "--require-hashes", "-r", ROOT / "requirements.lock")
        run(python, "-m", "pip", "wheel", "-q", "--no-deps", "-w", folder, ROOT)
        run(python, "-m", "pip", "install", "-q", "--no-deps", *Path(folder).glob("*.whl"))
    for cache in HOME.rglob("__pycache__"):
        shutil.rmtree(cache)


def control(version: str, size_kb: int) -> str:
    """The control file (Debian policy, chapter 5)."""
    return f"""Package: {NAME}
Version: {version}
Architecture: amd64
Maintainer: The founders of Humble Courier <founders@humble-courier.invalid>
Installed-Size: {size_kb}
Depends: {DEPENDS}
Section: electronics
Priority: optional
Description: gets a computer talking to instruments and legacy devices
 For the technician in the field: wiring, ports, settings, first words, and the
 proof that is kept. It listens only, until it is armed by a deliberate act.
"""


def main() -> None:
    """Build the package into a folder."""
    version = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["version"]
    out = Path(sys.argv[1] if len(sys.argv) > 1 else ".").resolve()
    environment()
    try:
        with tempfile.TemporaryDirectory() as folder:
            tree = Path(folder) / "tree"
            shutil.copytree(HOME, tree / HOME.relative_to("/"), symlinks=True)
            (tree / "usr" / "bin").mkdir(parents=True)
            (tree / "usr" / "bin" / NAME).symlink_to(HOME / "bin" / NAME)
            run(HOME / "bin" / "python", "-c", _INSTALL, tree / "usr" / "share")
            manual = tree / "usr" / "share" / "man" / "man1"
            manual.mkdir(parents=True)
            page = subprocess.run([str(HOME / "bin" / NAME), "man"], check=True, capture_output=True).stdout
            (manual / f"{NAME}.1").write_bytes(page)
            size = sum(path.lstat().st_size for path in tree.rglob("*")) // 1024
            (tree / "DEBIAN").mkdir()
            (tree / "DEBIAN" / "control").write_text(control(version, size))
            run("dpkg-deb", "--root-owner-group", "-Zxz", "--build", tree, out / f"{NAME}_{version}_amd64.deb")
    finally:
        shutil.rmtree(HOME)


_INSTALL = """
import sys
from pathlib import Path
from humble_courier.app.desktop import install
install.program = lambda: "/usr/bin/humble-courier"
install.REFRESH = ()
install.install(Path(sys.argv[1]))
"""

if __name__ == "__main__":
    main()
