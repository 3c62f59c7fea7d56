"""Small faults, put in one at a time: does a test tell? `python -m tools.mutants [--draws N] [--seed N] [--room NAME]…`

Each draw takes a place in a core room and changes it a little: an operator, a number, a truth value, two arguments, a call
that is dropped. The tests nearest to it run on a copy of the package (of the same name, then the room's, then those that use
it), until one fails. What passes them all is a survivor: either equal in what it does, or a test is missing. Lines that
no test goes through are left out where `.coverage.json` is there (`./courier test coverage` writes it).
"""

import argparse
import ast
import copy
import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parent.parent
PACKAGE = ROOT / "src" / "humble_courier"
ROOMS = ("port", "line", "wiring", "protocols", "diagnose", "plan", "records", "procedures")
# Tests of another room that are the nearest ones to what a room does for it.
BESIDE = {"port": ("app/link/test_live_session.py", "app/talk"), "procedures": ("app/talk",), "records": ("app/records",)}
LONGEST_S = 240  # for the tests of one fault: one that makes them hang is caught
COMPARED = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is,
}  # fmt: skip
RECKONED = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Add, ast.Div: ast.Mult, ast.FloorDiv: ast.Mult, ast.Mod: ast.Mult,
    ast.BitAnd: ast.BitOr, ast.BitOr: ast.BitAnd, ast.BitXor: ast.BitOr, ast.LShift: ast.RShift, ast.RShift: ast.LShift,
}  # fmt: skip


@dataclass(frozen=True)
class Fault:
    """One change: in which file and line, what it makes of the line's code, and the whole text of the module with it."""

    file: Path
    line: int
    before: str
    after: str
    text: str


def _changed(node: ast.AST) -> ast.AST | None:
    """The node with a small fault; None where it is of no kind that can have one."""
    made = copy.deepcopy(node)
    if isinstance(made, ast.Compare) and type(made.ops[0]) in COMPARED:
        made.ops[0] = COMPARED[type(made.ops[0])]()
    elif isinstance(made, ast.BinOp) and type(made.op) in RECKONED and not isinstance(made.left, ast.JoinedStr):
        made.op = RECKONED[type(made.op)]()
    elif isinstance(made, ast.BoolOp):
        made.op = ast.And() if isinstance(made.op, ast.Or) else ast.Or()
    elif isinstance(made, ast.UnaryOp) and isinstance(made.op, ast.Not):
        return made.operand
    elif isinstance(made, ast.Constant) and isinstance(made.value, bool):
        made.value = not made.value
    elif isinstance(made, ast.Constant) and isinstance(made.value, int | float):
        made.value = made.value + 1
    elif isinstance(made, ast.Expr) and isinstance(made.value, ast.Call):
        return ast.Pass()
    elif isinstance(made, ast.Call) and len(made.args) > 1 and not any(isinstance(a, ast.Starred) for a in made.args[:2]):
        made.args[0], made.args[1] = made.args[1], made.args[0]
    else:
        return None
    return made


def faults(file: Path, covered: set[int] | None) -> Iterator[Fault]:
    """All small faults of a module, in the order of its lines."""
    source = file.read_text()
    tree = ast.parse(source)
    for parent in ast.walk(tree):
        for name, held in ast.iter_fields(parent):
            for at, node in enumerate(held) if isinstance(held, list) else ((None, held),):
                line = getattr(node, "lineno", 0)
                if not isinstance(node, ast.AST) or not line or (covered is not None and line not in covered):
                    continue
                if (made := _changed(node)) is None:
                    continue
                whole = copy.copy(held)
                _put(parent, name, at, made)
                text = ast.unparse(ast.fix_missing_locations(tree))
                setattr(parent, name, whole)
                yield Fault(file, line, ast.unparse(node), ast.unparse(made), text)


def _put(parent: ast.AST, name: str, at: int | None, made: ast.AST) -> None:
    if at is None:
        setattr(parent, name, made)
    else:
        held = list(getattr(parent, name))
        held[at] = made
        setattr(parent, name, held)


def _covered(file: Path) -> set[int] | None:
    report = ROOT / ".coverage.json"
    if not report.exists():
        return None
    found = json.loads(report.read_text())["files"].get(str(file.relative_to(ROOT)))
    return set(found["executed_lines"]) if found else set()


def nearest(file: Path) -> list[list[str]]:
    """Tests to run, those of the same name first; each list is one run."""
    within = file.relative_to(PACKAGE)
    room = within.parts[0]
    same = [str(one) for one in (ROOT / "tests" / room).rglob(f"test*{file.stem}*.py")]
    beside = [f"tests/{one}" for one in BESIDE.get(room, ())]
    return [one for one in (same, [f"tests/{room}"], beside) if one]


def caught(fault: Fault, copy_of: Path) -> bool:
    """Whether a test fails with this fault in the copy of the package."""
    place = copy_of / "humble_courier" / fault.file.relative_to(PACKAGE)
    whole = place.read_text()
    place.write_text(fault.text)
    environment = {**os.environ, "PYTHONPATH": str(copy_of), "QT_QPA_PLATFORM": "offscreen", "PYTHONDONTWRITEBYTECODE": "1"}
    try:
        for tests in nearest(fault.file):
            command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", "-m", "not window", *tests]
            try:
                done = subprocess.run(
                    command, cwd=ROOT, env=environment, capture_output=True, timeout=LONGEST_S, check=False
                )
            except subprocess.TimeoutExpired:
                return True
            if done.returncode not in (0, 5):
                return True
        return False
    finally:
        place.write_text(whole)


def main() -> None:
    """Draw, try, tell."""
    asked = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    asked.add_argument("--draws", type=int, default=200)
    asked.add_argument("--seed", type=int, default=1)
    asked.add_argument("--room", action="append", choices=ROOMS)
    words = asked.parse_args()
    files = sorted(f for room in words.room or ROOMS for f in (PACKAGE / room).rglob("*.py") if "migrations" not in f.parts)
    dice = random.Random(words.seed)
    places = {file: list(faults(file, _covered(file))) for file in files}
    everything = [fault for file in files for fault in places[file]]
    drawn = dice.sample(everything, min(words.draws, len(everything)))
    alive = []
    with tempfile.TemporaryDirectory() as folder:
        copy_of = Path(folder)
        shutil.copytree(PACKAGE, copy_of / "humble_courier", ignore=shutil.ignore_patterns("__pycache__"))
        for number, fault in enumerate(drawn, start=1):
            if not caught(fault, copy_of):
                alive.append(fault)
                where = f"{fault.file.relative_to(ROOT)}:{fault.line}"
                print(f"survives {where}: {fault.before[:90]!r} became {fault.after[:90]!r}", flush=True)
            if number % 20 == 0:
                print(f"{number} of {len(drawn)} tried, {number - len(alive)} caught", flush=True)
    print(f"{len(drawn) - len(alive)} of {len(drawn)} caught ({1 - len(alive) / max(1, len(drawn)):.0%}), seed {words.seed}")


if __name__ == "__main__":
    main()
