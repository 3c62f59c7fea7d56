"""Reading a file that somebody handed in: a regular one, up to a size that is counted in bytes read, not in bytes told."""

import os
import stat
from pathlib import Path

from humble_courier.errors import BadInput


def read_bounded(path: Path, most: int) -> tuple[bytes, bool]:
    """The first `most` bytes of a file, and whether there are more. Raises BadInput where it cannot be read.

    A pipe or a device is refused: it may never end, or wait for ever (opened without waiting, so that asking does neither).
    """
    try:
        with os.fdopen(os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC), "rb") as file:
            if not stat.S_ISREG(os.fstat(file.fileno()).st_mode):
                raise BadInput("not a file but a pipe, a folder or a device: save it into a file first", file=path)
            data = file.read(most)
            return data, bool(file.read(1))
    except (OSError, ValueError) as error:  # ValueError: a name with a NUL in it
        why = error.strerror if isinstance(error, OSError) and error.strerror else str(error)
        raise BadInput(f"cannot be read: {why}", file=path) from None


def read_whole(path: Path, most: int) -> bytes:
    """All of a file; raises BadInput where it cannot be read or is larger than `most` bytes."""
    data, more = read_bounded(path, most)
    if more:
        raise BadInput(f"larger than {most // 1_000_000} MB, so not what is expected here", file=path)
    return data
