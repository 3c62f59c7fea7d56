"""What the program did, for whoever looks for a fault: in a file of the state folder (XDG), and on standard error if asked.

Ports that are opened and closed, permits, and what was refused are noted by the rooms that see to them; bytes are not (each
session has its own log of these), nor are passwords.
"""

import logging
import logging.handlers
import sys
from pathlib import Path
from typing import TextIO

from humble_courier.app.folders import APP

FILE = "log.txt"
LARGEST, KEPT = 1_000_000, 2  # bytes of a file, and how many older ones stay
LINE = "%(asctime)s %(levelname)s %(name)s: %(message)s"


def log_path() -> Path:
    """Where the file is."""
    from platformdirs import user_state_path

    return user_state_path(APP, appauthor=False) / FILE


class OnDisk(logging.handlers.RotatingFileHandler):
    """A disk that takes no more ends the log, not the work: that is said once."""

    def __init__(self, path: Path) -> None:
        super().__init__(path, maxBytes=LARGEST, backupCount=KEPT, encoding="utf-8", delay=True)

    def handleError(self, record: logging.LogRecord) -> None:  # noqa: ARG002 (the library's name)
        """The log ends here; what else listens is told why."""
        ours = logging.getLogger(__package__.partition(".")[0])
        ours.removeHandler(self)
        self.close()
        ours.warning("the log in %s cannot be written any more: %s", self.baseFilename, sys.exc_info()[1])


def begin_log(verbose: bool, out: TextIO | None = None) -> None:
    """Note from now on what is done; with `verbose` on standard error (or `out`) too."""
    ours = logging.getLogger(__package__.partition(".")[0])
    ours.setLevel(logging.DEBUG)
    ours.propagate = False
    for old in list(ours.handlers):
        ours.removeHandler(old)
        old.close()
    if verbose:
        logging.raiseExceptions = False  # where standard error is gone nobody reads, and no traceback belongs there
        ours.addHandler(logging.StreamHandler(out or sys.stderr))
    try:
        log_path().parent.mkdir(parents=True, exist_ok=True)
        ours.addHandler(OnDisk(log_path()))
    except OSError as error:
        ours.addHandler(logging.NullHandler())
        ours.warning("no log is kept in %s: %s", log_path(), error)
    for handler in ours.handlers:
        handler.setFormatter(logging.Formatter(LINE))


def log_command(name: str) -> None:
    """Which command begins; its words are not kept, a password may be among them."""
    logging.getLogger(__name__).info("%s begins, Python %s on %s", name, sys.version.split()[0], sys.platform)


def log_end(text: str, code: int) -> None:
    """That it was refused, with the line that the person reads."""
    logging.getLogger(__name__).warning("ended with code %d: %s", code, text)
