"""The house: names that stand for one thing, roads that lead through one door, modules that load when they are needed."""

import ast
import subprocess
import sys
from collections import defaultdict
from pathlib import Path

import grimp
import pytest

import humble_courier

PACKAGE = Path(humble_courier.__file__).parent
FILES = sorted(PACKAGE.rglob("*.py"))
SAYS_NOTHING = {"looks", "readings", "match", "acts", "sample", "parts", "utils", "helpers", "misc", "common"}
HEAVY = ("scipy", "sqlalchemy", "alembic", "pyvisa", "numpy.random", "serial", "pynmea2", "crccheck", "pyudev")
LONGEST_MODULE = 400


def test_no_class_name_stands_twice() -> None:
    homes: dict[str, list[str]] = defaultdict(list)
    for path in FILES:
        for node in ast.parse(path.read_text()).body:
            if isinstance(node, ast.ClassDef):
                homes[node.name].append(str(path.relative_to(PACKAGE)))
    assert {name: where for name, where in homes.items() if len(where) > 1} == {}


def test_file_names_say_what_is_inside() -> None:
    assert [str(path) for path in FILES if path.stem in SAYS_NOTHING] == []


def test_no_module_is_too_long() -> None:
    assert [str(path) for path in FILES if len(path.read_text().splitlines()) > LONGEST_MODULE] == []


@pytest.mark.parametrize("room", ["ui", "cli"])
@pytest.mark.parametrize("outside", ["serial", "sqlalchemy", "alembic"])
def test_every_road_to_ports_and_records_leads_through_app(room: str, outside: str) -> None:
    """Indirect imports too: with `app` taken out of the graph, nothing leads there any more."""
    graph = grimp.build_graph("humble_courier", include_external_packages=True)
    assert graph.find_shortest_chain(f"humble_courier.{room}", outside, as_packages=True) is not None
    graph.squash_module("humble_courier.app")
    graph.remove_module("humble_courier.app")
    assert graph.find_shortest_chain(f"humble_courier.{room}", outside, as_packages=True) is None


def test_only_the_rooms_of_ports_open_any_and_only_records_know_the_database() -> None:
    graph = grimp.build_graph("humble_courier", include_external_packages=True)
    rooms = {
        outside: {module.split(".")[1] for module in graph.find_modules_that_directly_import(outside)}
        for outside in ("serial", "sqlalchemy")
    }
    assert rooms == {"serial": {"port", "simulator", "host"}, "sqlalchemy": {"records"}}


def test_no_chain_leads_from_a_widget_to_the_database() -> None:
    """`self.link.store.proofs` and the like: the window asks the records of `app`, never the store."""
    found = []
    for path in (PACKAGE / "ui").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Attribute) and node.attr in ("store", "_store"):
                found.append(f"{path.name}:{node.lineno}")
    assert found == []


@pytest.mark.parametrize("module", ["humble_courier.ui.window", "humble_courier.ui.start"])
def test_importing_the_window_loads_nothing_heavy(module: str) -> None:
    code = f"import sys, {module}; print(*(name for name in {HEAVY!r} if name in sys.modules))"
    loaded = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout.split()
    assert loaded == []


def test_tests_mirror_the_package() -> None:
    """`tests/wiring/planner/test_search.py` tests `wiring/planner/search.py`; `test_planner.py` would test the room."""
    tests, strays = Path(__file__).parent, []
    for path in tests.rglob("test_*.py"):
        place = path.parent.relative_to(tests)
        if place in (Path(), Path("trials")):
            continue
        modules = {module.stem for module in (PACKAGE / place).glob("*.py")} | {path.parent.name}
        if path.stem.removeprefix("test_") not in modules:
            strays.append(str(path.relative_to(tests)))
    assert strays == []
