"""Pins what runs (`requirements.lock`), what puts the package into `.venv` (`build.lock`) and what only the checks need.

All of it with hashes.

Run in an environment of its own, so that its own needs do not end up in the locks:
    python3 -m venv /tmp/lock && /tmp/lock/bin/pip install pip-tools && /tmp/lock/bin/python -m tools.lock
"""

import re
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parent.parent
RUN, BUILD, CHECKS = ROOT / "requirements.lock", ROOT / "build.lock", ROOT / "checks.lock"
BUILDS = (
    "hatchling",
    "editables",
    "packaging",
    "pathspec",
    "pluggy",
    "trove-classifiers",
    "tomlkit",
)  # the backend and its needs
COMPILE = [
    sys.executable, "-m", "piptools", "compile", "-q", "--generate-hashes", "--no-strip-extras", "--allow-unsafe",
    "--no-header", "--no-annotate", "--no-emit-index-url", "--no-emit-find-links", "--upgrade", "pyproject.toml",
]  # fmt: skip
# An extra stays in the lock: pip, told `coverage==1` and asked for `coverage[toml]>=1`, looks at the newest release first
# and stops there, since that one has no hash.
_EXTRA = re.compile(r"\[[^]]*\](?===)")
_ENTRY = re.compile(r"^[a-z0-9].*?(?=^[a-z0-9]|\Z)", re.MULTILINE | re.DOTALL)


def _compiled(*options: str) -> dict[str, str]:
    """Entries by name, each with its hashes."""
    with tempfile.TemporaryDirectory() as folder:
        target = Path(folder) / "lock"
        subprocess.run([*COMPILE, *options, "-o", str(target)], cwd=ROOT, check=True)
        entries = [found.group().rstrip() for found in _ENTRY.finditer(target.read_text())]
    return {_EXTRA.sub("", entry).partition("==")[0]: entry for entry in entries}


def main() -> None:
    """Write the locks."""
    run = _compiled("--extra", "team")
    RUN.write_text("\n".join(run.values()) + "\n")
    with tempfile.NamedTemporaryFile("w", suffix=".txt") as pinned:
        pinned.write(_EXTRA.sub("", RUN.read_text()))  # a constraint may have no extra
        pinned.flush()
        everything = _compiled("--extra", "team", "--extra", "dev", "-c", pinned.name)
    BUILD.write_text("\n".join(everything[name] for name in BUILDS if name not in run) + "\n")
    rest = [entry for name, entry in everything.items() if name not in run and name not in BUILDS]
    CHECKS.write_text("\n".join(rest) + "\n")


if __name__ == "__main__":
    main()
