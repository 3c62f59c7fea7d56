"""All figures in one table: `python -m tools.figures [NAME ...]` runs the benchmarks (or some) and writes docs/figures.md.

Each benchmark prints its figures as lines, which are taken as they stand, with the day and the machine. One that was not
run this time keeps the lines that it had. The whole of it takes about an hour on a machine of two cores.
"""

import os
import platform
import re
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).parent.parent
OUT = ROOT / "docs" / "figures.md"
HEAD = "# Figures\n\nMeasured by `python -m tools.figures`, each against a named reference of the same run.\n"
_SECTION = re.compile(r"^## (?P<name>\w+)\n(?P<body>.*?)(?=^## |\Z)", re.MULTILINE | re.DOTALL)
_NOISE = re.compile(r"(=|-|Name |Legend|Outliers:|OPS:|test_\w+|$|\d+ passed|benchmark)")


def known() -> dict[str, str]:
    """Sections that are there already."""
    text = OUT.read_text() if OUT.exists() else ""
    return {found["name"]: found["body"].strip() for found in _SECTION.finditer(text)}


def measured(name: str) -> str:
    """What one benchmark prints, as lines of a list. Raises where it fails."""
    path = ROOT / "benchmarks" / f"test_{name}.py"
    command = [sys.executable, "-m", "pytest", "-q", "-s", "-p", "no:cacheprovider", str(path)]
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run(command, cwd=ROOT, env=environment, capture_output=True, text=True, check=False)
    if done.returncode:
        raise SystemExit(f"{path} failed:\n{done.stdout[-2000:]}")
    lines = [line.strip(". ") for line in done.stdout.splitlines() if not _NOISE.match(line.strip(". "))]
    title = path.read_text().partition('"""')[2].partition("\n")[0].strip('"')
    when = f"{time.strftime('%Y-%m-%d')}, {platform.machine()}, {os.cpu_count()} cores, Python {platform.python_version()}"
    return "\n".join([title, "", f"*{when}*", "", *(f"- {line}" for line in lines if line)])


def main() -> None:
    """Run those that are named, or all, and write the table after each."""
    everything = sorted(path.stem.removeprefix("test_") for path in (ROOT / "benchmarks").glob("test_*.py"))
    wanted = sys.argv[1:] or everything
    if unknown := set(wanted) - set(everything):
        raise SystemExit(f"no benchmark {', '.join(sorted(unknown))}: there are {', '.join(everything)}")
    for name in wanted:
        sections = known()
        sections[name] = measured(name)
        OUT.write_text(HEAD + "".join(f"\n## {one}\n{sections[one]}\n" for one in everything if one in sections))
        print(f"{name}: written to {OUT.relative_to(ROOT)}", flush=True)


if __name__ == "__main__":
    main()
