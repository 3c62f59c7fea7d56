"""A log of a line as text for people."""

from pathlib import Path

from humble_courier.app.files import write_whole
from humble_courier.port.log import as_text, read_log


def write_log_text(log: Path, target: Path) -> None:
    """Write a log as text. Raises BadInput for a file that is no log, MachineRefused where it cannot be written."""
    write_whole(target, ("\n".join(as_text(read_log(log.read_bytes(), str(log)))) + "\n").encode())
