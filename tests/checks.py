"""All checks in their order, as `./courier test` runs them: lint, types, import rules, tests with coverage, a real window.

`./courier test quick` leaves out the run under Xvfb.
"""

import json
import os
import subprocess
import sys
import time
from collections import defaultdict
from pathlib import Path

ROOT = Path(__file__).parent.parent
BIN = Path(sys.executable).parent
REPORT = ROOT / ".coverage.json"

# Least share of lines and branches that the tests go through, in percent, by room.
FLOORS = {
    "errors": 90, "domain": 90, "documents": 90, "catalog": 90, "wiring": 90, "line": 90, "address": 90, "protocols": 90,
    "host": 90, "port": 90, "procedures": 90, "simulator": 90, "records": 90, "diagnose": 90, "plan": 90,
    "app": 80, "cli": 80, "ui": 70,
}  # fmt: skip


def run(name: str, command: list[str], **environment: str) -> bool:
    """Run one check; its output is the person's to read."""
    print(f"── {name}", flush=True)
    begun = time.monotonic()
    code = subprocess.run(command, cwd=ROOT, env={**os.environ, **environment}, check=False).returncode
    print(f"── {name}: {'passed' if code == 0 else 'FAILED'} in {time.monotonic() - begun:.0f} s", flush=True)
    return code == 0


def covered(report: Path) -> bool:
    """Whether each room is gone through as far as its floor asks."""
    print("── coverage", flush=True)
    if not report.exists():
        print("── coverage: FAILED, no report was written", flush=True)
        return False
    done, there = defaultdict(int), defaultdict(int)
    for name, file in json.loads(report.read_text())["files"].items():
        parts = Path(name).parts
        if "humble_courier" not in parts:
            continue  # a module that a test has made for itself
        room = parts[parts.index("humble_courier") + 1].removesuffix(".py")
        told = file["summary"]
        done[room] += told["covered_lines"] + told["covered_branches"]
        there[room] += told["num_statements"] + told["num_branches"]
    shares = {room: 100 * done[room] / there[room] for room in FLOORS}
    for room, share in shares.items():
        print(f"   {room:12}{share:6.1f} %   at least {FLOORS[room]} %" + ("" if share >= FLOORS[room] else "   TOO LITTLE"))
    good = all(share >= FLOORS[room] for room, share in shares.items())
    print(f"── coverage: {'passed' if good else 'FAILED'}", flush=True)
    return good


def main() -> int:
    """Run everything, go on after a failure, and end with the failure if there was one."""
    python = str(BIN / "python")
    REPORT.unlink(missing_ok=True)
    measured = ["--cov=src/humble_courier", "--cov-branch", f"--cov-report=json:{REPORT}", "--cov-report="]
    results = [
        run("lint", [python, "-m", "ruff", "check", "."]),
        run("format", [python, "-m", "ruff", "format", "--check", "-q", "."]),
        run("types", [python, "-m", "mypy"]),
        run("import rules", [python, "-c", "from importlinter.cli import lint_imports_command as c; c()", "--no-cache"]),
        run(
            "tests",
            [python, "-m", "pytest", "-n", "2", "--dist", "worksteal", "-m", "not window", *measured],
            QT_QPA_PLATFORM="offscreen",
        ),
        covered(REPORT),
    ]
    if sys.argv[1:] != ["quick"]:
        xvfb = ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24"]
        results.append(run("tests in a window", [*xvfb, python, "-m", "pytest", "-m", "window"], QT_QPA_PLATFORM="xcb"))
    print(f"checks: {sum(results)} passed, {len(results) - sum(results)} failed", flush=True)
    return 0 if all(results) else 1


if __name__ == "__main__":
    sys.exit(main())
