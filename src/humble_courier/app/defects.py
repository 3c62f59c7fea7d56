"""A defect of ours: what the report holds, and where it is put."""

import tempfile
import time
import traceback
from pathlib import Path
from types import TracebackType

from humble_courier.app.folders import APP

EXIT_CODE = 70  # EX_SOFTWARE of sysexits.h
MOST_REPORTS = 50  # kept; a defect in something that repeats must not fill the disk


def write_report(kind: type[BaseException], error: BaseException | None, trace: TracebackType | None) -> Path:
    """Write what happened into the state folder (XDG), or where that cannot be written into a temporary file."""
    text = "".join(traceback.format_exception(kind, error, trace))
    from platformdirs import user_state_path

    folder = user_state_path(APP, appauthor=False) / "reports"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for old in sorted(folder.glob("*.txt"))[:-MOST_REPORTS]:
            old.unlink()
        path = folder / f"{time.strftime('%Y-%m-%d-%H%M%S')}-{time.monotonic_ns()}.txt"
        path.write_text(text)
    except OSError:  # read-only or full: said by where the report is
        with tempfile.NamedTemporaryFile("w", prefix="humble-courier-", suffix=".txt", delete=False) as file:
            file.write(text)
        return Path(file.name)
    return path


def told(kind: type[BaseException], report: Path) -> str:
    """The line for the person."""
    return f"a defect of this program ({kind.__name__}); details are in {report}"
