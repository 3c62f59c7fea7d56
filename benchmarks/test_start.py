"""Start-up: `trace` as a whole process, and the window from the start of the process until it is shown.

The reference is what no program of this kind can do without: the same interpreter importing the same toolkit and no more.
"""

import os
import statistics
import subprocess
import sys
import time
from pathlib import Path

from pytest_benchmark.fixture import BenchmarkFixture

LINK = """courier: link/1
computer: {port: usb-a}
device: {device: gauge-logger}
chain: [{part: usb-rs232}, {part: straight-de9}]
"""
WINDOW = """
import sys, time
from pathlib import Path
from PyQt6.QtCore import QTimer
from humble_courier.ui.start import application, open_records
from humble_courier.catalog.load import Catalog
from humble_courier.ui.theme import Theme
from humble_courier.ui.window import Window
app = application()
window = Window(Catalog(), Theme())
window.show()
app.processEvents()
if sys.argv[1] == "link":
    open_records(window, Path(sys.argv[2]), demo=True)
    app.processEvents()
window.close()
"""
ENVIRONMENT = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}


def _seconds(*words: str) -> float:
    begun = time.perf_counter()
    subprocess.run([sys.executable, *words], env=ENVIRONMENT, capture_output=True, check=False)
    return time.perf_counter() - begun


def _report(benchmark: BenchmarkFixture, what: str, reference: list[str]) -> None:
    seconds = benchmark.stats.stats.median
    least = statistics.median(_seconds("-c", *reference) for _ in range(5))
    benchmark.extra_info.update(seconds=round(seconds, 3), reference_s=round(least, 3), ratio=round(seconds / least, 2))
    print(f"\n{what}: {seconds:.3f} s, {seconds / least:.2f} times the reference ({least:.3f} s)")


def test_trace(benchmark: BenchmarkFixture, tmp_path: Path) -> None:
    link = tmp_path / "link.yaml"
    link.write_text(LINK)
    benchmark.pedantic(_seconds, args=("-m", "humble_courier", "trace", str(link)), rounds=9, warmup_rounds=1)
    _report(benchmark, "trace, whole process", ["import typer, yaml, msgspec"])


def test_window_shown(benchmark: BenchmarkFixture, tmp_path: Path) -> None:
    benchmark.pedantic(_seconds, args=("-c", WINDOW, "frame", str(tmp_path)), rounds=9, warmup_rounds=1)
    _report(benchmark, "window shown, whole process", ["from PyQt6.QtWidgets import QApplication; QApplication([])"])


def test_window_with_the_demo_link(benchmark: BenchmarkFixture, tmp_path: Path) -> None:
    benchmark.pedantic(_seconds, args=("-c", WINDOW, "link", str(tmp_path)), rounds=9, warmup_rounds=1)
    _report(
        benchmark,
        "window with its link, whole process",
        ["import sqlalchemy.orm; from PyQt6.QtWidgets import QApplication; QApplication([])"],
    )
