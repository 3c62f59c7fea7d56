"""Start-up, in processor seconds of a whole process: a busy machine delays a clock on the wall, less so the work done.

References are what no program of this kind can do without: for a command, the same interpreter importing the library that
opens serial ports; for the window, the same interpreter showing an empty window of the same toolkit.
"""

import os
import resource
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

import pytest

LINK = """courier: link/1
computer: {port: usb-a}
device: {device: gauge-logger}
chain: [{part: usb-rs232}, {part: crossed-de9-3wire}]
"""
BARE = """
from PyQt6.QtWidgets import QApplication, QWidget
app = QApplication([])
window = QWidget()
window.show()
app.processEvents()
"""
WINDOW = """
import sys
import tempfile
from pathlib import Path
from humble_courier.ui.start import application, show_records
from humble_courier.catalog.load import Catalog
from humble_courier.ui.theme import Theme
from humble_courier.ui.window import Window
app = application()
window = Window(Catalog(), Theme())
window.show()
app.processEvents()
if sys.argv[1] == "link":
    show_records(window, Path(sys.argv[2]), demo=True)
    app.processEvents()
window.close()
"""
# As installed, where modules lie compiled beside their sources: the first round compiles, to a folder of its own.
ENVIRONMENT = {key: value for key, value in os.environ.items() if key != "PYTHONDONTWRITEBYTECODE"} | {
    "QT_QPA_PLATFORM": "offscreen", "PYTHONPYCACHEPREFIX": tempfile.mkdtemp(prefix="courier-compiled-"),
}  # fmt: skip
ROUNDS = 9


def processor_seconds(*words: str) -> float:
    """User and system time of one Python process, which must end well."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    subprocess.run([sys.executable, *words], env=ENVIRONMENT, capture_output=True, check=True)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return after.ru_utime - before.ru_utime + after.ru_stime - before.ru_stime


def compare(what: str, ours: list[str], name: str, reference: list[str]) -> None:
    """Taken in turn, so that both meet the same machine; the first round only fills the file cache."""
    pairs = [(processor_seconds(*ours), processor_seconds(*reference)) for _ in range(ROUNDS + 1)][1:]
    took, least = (statistics.median(side) for side in zip(*pairs, strict=True))
    ratio = statistics.median(one / other for one, other in pairs)
    print(f"\n{what}: {took:.3f} s of processor, {ratio:.1f} times {name} ({least:.3f} s)")


def test_trace(tmp_path: Path) -> None:
    link = tmp_path / "link.yaml"
    link.write_text(LINK)
    compare("trace", ["-m", "humble_courier", "trace", str(link)], "`import serial`", ["-c", "import serial"])


@pytest.mark.parametrize("shows", ["frame", "link"])
def test_window(shows: str, tmp_path: Path) -> None:
    compare(f"window with its {shows}", ["-c", WINDOW, shows, str(tmp_path)], "an empty window", ["-c", BARE])
