"""The project as a whole: the wheel carries its data, no start-up imports what it does not need."""

import ast
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]


def test_the_wheel_carries_data_fonts_and_migrations_and_runs(tmp_path: Path) -> None:
    """Built without a network and run from its own folder, away from the sources."""
    build = [sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "--no-build-isolation", "-w", str(tmp_path), str(ROOT)]
    subprocess.run(build, check=True)
    wheel = next(tmp_path.glob("*.whl"))
    names = zipfile.ZipFile(wheel).namelist()
    for wanted in (
        "data/parts.yaml",
        "devices/gauge-logger.yaml",
        "B612-Regular.otf",
        "LICENSE-B612.txt",
        "v0001_first_tables.py",
    ):
        assert any(name.endswith(wanted) for name in names), wanted
    zipfile.ZipFile(wheel).extractall(tmp_path / "site")
    code = (
        "import sys; sys.path.insert(0, sys.argv[1]); import humble_courier as h; "
        "from humble_courier.catalog.load import Catalog; print(h.__file__, Catalog().part('straight-de9').id)"
    )
    run = [sys.executable, "-c", code, str(tmp_path / "site")]
    out = subprocess.run(run, capture_output=True, text=True, check=True, cwd=tmp_path).stdout
    assert str(tmp_path) in out
    assert "straight-de9" in out


@pytest.mark.parametrize("command", [["parts"], ["schema", "link"], ["trace", "/none"]])
def test_commands_do_not_load_what_they_do_not_need(command: list[str]) -> None:
    code = f"""
import sys
from humble_courier.__main__ import main
sys.argv = ["humble-courier", *{command!r}]
try:
    main()
except SystemExit:
    pass
heavy = ("PyQt6", "sqlalchemy", "alembic", "numpy", "serial", "rich")
print([name for name in heavy if name in sys.modules], file=sys.stderr)
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stderr.splitlines()[-1] == "[]"


def test_every_module_is_short() -> None:
    long = {str(p): n for p in (ROOT / "src").rglob("*.py") if (n := len(p.read_text().splitlines())) > 500}
    assert long == {}


def test_the_texts_for_readers_link_to_files_that_exist() -> None:
    import re

    for document in (ROOT / "README.md", *(ROOT / "docs").glob("*.md")):
        for target in re.findall(r"\]\(([^)#:]+)\)", document.read_text()):
            assert (document.parent / target).exists(), f"{document.name}: {target}"


def test_the_example_in_the_formats_is_a_link_that_can_be_read() -> None:
    import re

    from humble_courier.catalog.links import link_from_text
    from humble_courier.catalog.load import Catalog

    text = (ROOT / "docs/formats.md").read_text()
    example = re.search(r"```yaml\n(courier: link/1.*?)```", text, re.DOTALL)
    assert example is not None
    link = link_from_text(example[1], "docs/formats.md", Catalog())
    assert len(link.parts) == 3
    assert link.address == "/dev/ttyUSB0"


def test_the_formats_name_every_code_key_and_command() -> None:
    from humble_courier.simulator.address import KEYS
    from humble_courier.wiring import findings

    text = (ROOT / "docs/formats.md").read_text()
    for word in (*findings.CODES, *findings.Verdict, *KEYS):
        assert f"`{word}`" in text, word
    helped = subprocess.run([sys.executable, "-m", "humble_courier", "--help"], capture_output=True, text=True, check=True)
    for command in (
        "trace",
        "plan",
        "build",
        "identify",
        "levels",
        "hear",
        "listen",
        "say",
        "simulate",
        "records",
        "sheet",
        "schema",
    ):
        assert f"`{command}" in text
        assert command in helped.stdout


def test_no_test_waits_for_the_clock_on_the_wall() -> None:
    """`qtbot.wait(n)` is a sleep; the clocks themselves are ruff's to forbid (TID251 in pyproject.toml)."""
    told = [
        f"{path.relative_to(ROOT)}:{node.lineno}"
        for path in (ROOT / "tests").rglob("*.py")
        if "trials" not in path.parts
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.Call) and ast.unparse(node.func) in ("qtbot.wait", "QTest.qWait", "asyncio.sleep")
    ]
    assert told == []
