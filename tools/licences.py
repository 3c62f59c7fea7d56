"""The licence of each package that is installed to run the program: `python -m tools.licences` writes docs/licences.md."""

import re
from importlib.metadata import PackageNotFoundError, metadata
from pathlib import Path

ROOT = Path(__file__).parent.parent
OUT = ROOT / "docs" / "licences.md"
_PINNED = re.compile(r"^([A-Za-z0-9_.-]+)(?:\[[^]]*\])?==([^ \\]+)", re.MULTILINE)


def licence_of(name: str) -> str:
    """As the package itself says: its expression, else its classifiers, else its first line on it."""
    found = metadata(name)
    if expression := found.get("License-Expression"):
        return str(expression)
    classifiers = [one.rpartition(" :: ")[2] for one in found.get_all("Classifier") or [] if one.startswith("License ::")]
    if classifiers:
        return ", ".join(classifiers)
    return (found.get("License") or "not told").strip().splitlines()[0][:80]


def rows() -> list[tuple[str, str, str]]:
    """Name, version and licence of each pinned package."""
    found = []
    for name, version in _PINNED.findall((ROOT / "requirements.lock").read_text()):
        try:
            found.append((name, version, licence_of(name)))
        except PackageNotFoundError:  # of another system or Python
            found.append((name, version, "not installed here"))
    return found


def main() -> None:
    """Write the table."""
    lines = "\n".join(f"| {name} | {version} | {licence} |" for name, version, licence in rows())
    head = (
        "# Licences\n\nHumble Courier: GPL-3.0-or-later. Its type, B612: SIL Open Font Licence 1.1. What it is run with:\n\n"
    )
    OUT.write_text(f"{head}| package | version | licence |\n|---|---|---|\n{lines}\n")


if __name__ == "__main__":
    main()
