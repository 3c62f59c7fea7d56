"""Files: written whole or not at all."""

import csv
import errno
import io
import os
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager, suppress
from pathlib import Path

from humble_courier.errors import MachineRefused, Refusal


def write_whole(path: Path, data: bytes) -> None:
    """Write a file; a full disk leaves the old one as it was. Raises MachineRefused.

    What a link points to is written, and not the link; a device (`/dev/null`) is written into, and not replaced.
    """
    path = Path(os.path.realpath(path))
    if path.exists() and not path.is_file():
        with unwritable(path), path.open("wb") as device:
            device.write(data)
        return
    part = path.parent / f"{path.name}.part"
    try:
        with unwritable(path):
            with part.open("wb") as file:
                file.write(data)
                file.flush()
                os.fsync(file.fileno())
            part.replace(path)
    except MachineRefused:
        with suppress(OSError):  # where it was never made
            part.unlink()
        raise


@contextmanager
def unwritable(what: Path | str, else_: str = "Choose another place") -> Iterator[None]:
    """Turn what the system says of a file into MachineRefused with a remedy; a reader that has left is no such thing.

    `else_`: what to do where the disk is not full.
    """
    try:
        yield
    except BrokenPipeError:
        raise
    except OSError as error:
        full = error.errno in (errno.ENOSPC, errno.EDQUOT)
        remedy = "The disk is full: make room, then do it again" if full else else_
        code = Refusal.DISK_FULL if full else Refusal.UNWRITABLE
        raise MachineRefused(f"{what} cannot be written: {error.strerror}", remedy, code) from None


def csv_bytes(rows: Iterable[Sequence[object]]) -> bytes:
    """Rows as CSV (RFC 4180); cells that a spreadsheet would compute get an apostrophe in front."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    for row in rows:
        texts = [str(cell) for cell in row]
        writer.writerow([f"'{text}" if text[:1] in ("=", "+", "-", "@") else text for text in texts])
    return out.getvalue().encode()
