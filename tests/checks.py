"""All checks in their order, as `./courier test` runs them: lint, types, import rules, tests, tests in a real window.

`./courier test quick` leaves out the run under Xvfb.
"""

import os
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).parent.parent
BIN = Path(sys.executable).parent


def run(name: str, command: list[str], **environment: str) -> bool:
    """Run one check; its output is the person's to read."""
    print(f"── {name}", flush=True)
    begun = time.monotonic()
    code = subprocess.run(command, cwd=ROOT, env={**os.environ, **environment}, check=False).returncode
    print(f"── {name}: {'passed' if code == 0 else 'FAILED'} in {time.monotonic() - begun:.0f} s", flush=True)
    return code == 0


def main() -> int:
    """Run everything, go on after a failure, and end with the failure if there was one."""
    python = str(BIN / "python")
    lint = run("lint", [str(BIN / "ruff"), "check", "."])
    form = run("format", [str(BIN / "ruff"), "format", "--check", "-q", "."])
    types = run("types", [str(BIN / "mypy")])
    rules = run("import rules", [str(BIN / "lint-imports"), "--no-cache"])
    tests = run("tests", [python, "-m", "pytest", "-n", "2", "-m", "not window"], QT_QPA_PLATFORM="offscreen")
    window = True
    if sys.argv[1:] != ["quick"]:
        xvfb = ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24"]
        window = run("tests in a window", [*xvfb, python, "-m", "pytest", "-m", "window"], QT_QPA_PLATFORM="xcb")
    passed = sum((lint, form, types, rules, tests, window))
    print(f"checks: {passed} passed, {6 - passed} failed", flush=True)
    return 0 if passed == 6 else 1


if __name__ == "__main__":
    sys.exit(main())
