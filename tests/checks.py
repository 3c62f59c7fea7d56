"""All checks, as `./courier test` runs them: lint, types and import rules beside the tests, then a real window.

`quick` leaves out the run under Xvfb and draws fewer examples; `coverage` measures what the tests go through, which takes
half as long again. What took longest is told at the end.
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
SLOWEST = ("--durations=25", "--durations-min=1")  # where the time went

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


def beside() -> "subprocess.Popen[str]":
    """What looks at the text of the program only, one after the other, while the tests run."""
    script = [sys.executable, "-m", "tests.checks", "text"]
    return subprocess.Popen(script, cwd=ROOT, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)


def of_text(python: str) -> list[bool]:
    """Lint, format, types, import rules."""
    rules = "from importlinter.cli import lint_imports_command as c; c()"
    return [
        run("lint", [python, "-m", "ruff", "check", "."]),
        run("format", [python, "-m", "ruff", "format", "--check", "-q", "."]),
        run("types", [python, "-m", "mypy"]),
        run("import rules", [python, "-c", rules, "--no-cache"]),
    ]


def of_tests(python: str, mode: str) -> list[bool]:
    """The tests offscreen, with coverage where it is asked for, and in a real window unless they shall be quick."""
    offscreen = {"QT_QPA_PLATFORM": "offscreen"}
    shared = [python, "-m", "pytest", "-n", "2", "--dist", "worksteal", "-m", "not window", *SLOWEST]
    if mode == "coverage":
        REPORT.unlink(missing_ok=True)
        measured = ["--cov=src/humble_courier", "--cov-branch", f"--cov-report=json:{REPORT}", "--cov-report="]
        return [run("tests, measured", [*shared, *measured], **offscreen), covered(REPORT)]
    if mode == "quick":
        return [run("tests", shared, **offscreen, COURIER_DRAWS="few")]
    xvfb = ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24"]
    return [
        run("tests", shared, **offscreen),
        run("tests in a window", [*xvfb, python, "-m", "pytest", "-m", "window", *SLOWEST], QT_QPA_PLATFORM="xcb"),
    ]


def main() -> int:
    """Run everything, go on after a failure, and end with the failure if there was one."""
    python, mode = str(BIN / "python"), (sys.argv[1:] or [""])[0]
    if mode == "text":
        return 0 if all(of_text(python)) else 1
    if mode not in ("", "quick", "coverage"):
        print(f"checks: {mode} is none of quick, coverage", file=sys.stderr)
        return 2
    text = beside()
    results = of_tests(python, mode)
    told = text.communicate()[0]
    print(told, end="", flush=True)
    results.append(text.returncode == 0)
    print(f"checks: {sum(results)} passed, {len(results) - sum(results)} failed", flush=True)
    return 0 if all(results) else 1


if __name__ == "__main__":
    sys.exit(main())
