"""A defect of ours: what the report holds, and where it is put."""

import os
import tempfile
import time
import traceback
from pathlib import Path
from types import TracebackType

from humble_courier.app.folders import APP

EXIT_CODE = 70  # EX_SOFTWARE of sysexits.h
MOST_REPORTS = 50  # kept; a defect in something that repeats must not fill the disk


def write_report(kind: type[BaseException], error: BaseException | None, trace: TracebackType | None) -> Path | None:
    """Write what happened into the state folder (XDG), else into a temporary file; None where neither can be written."""
    text = "".join(traceback.format_exception(kind, error, trace))
    from platformdirs import user_state_path

    folder = user_state_path(APP, appauthor=False) / "reports"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for old in sorted(folder.glob("*.txt"))[:-MOST_REPORTS]:
            old.unlink()
        path = folder / f"{time.strftime('%Y-%m-%d-%H%M%S')}-{os.getpid()}-{len(list(folder.iterdir()))}.txt"
        path.write_text(text)
    except OSError:  # read-only or full: said by where the report is
        return _elsewhere(text)
    return path


def _elsewhere(text: str) -> Path | None:
    try:
        with tempfile.NamedTemporaryFile("w", prefix="humble-courier-", suffix=".txt", delete=False) as file:
            file.write(text)
        return Path(file.name)
    except OSError:  # said by the line
        return None


def told(kind: type[BaseException], report: Path | None) -> str:
    """The line for the person."""
    where = f"details are in {report}" if report is not None else "details could not be written: no disk takes them"
    return f"a defect of this program ({kind.__name__}); {where}"
