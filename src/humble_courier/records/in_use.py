"""Whether another window works on the same records: a lock that ends with its process, however that ends (flock(2))."""

import fcntl
from pathlib import Path
from typing import IO

NAME = "in-use"


class InUse:
    """Holds the lock of a folder where it can be had."""

    def __init__(self, folder: Path) -> None:
        self._held = False
        self._file: IO[bytes] | None = None
        try:
            self._file = (folder / NAME).open("ab")
        except OSError:  # where nothing may be written, nothing is fought over
            self._held = True

    @property
    def elsewhere(self) -> bool:
        """Whether another window holds it; asked anew each time, so that it is ours once that one is closed."""
        if not self._held and self._file is not None:
            try:
                fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
                self._held = True
            except BlockingIOError:
                pass
        return not self._held

    def close(self) -> None:
        """Let go of it."""
        if self._file is not None:
            self._file.close()
