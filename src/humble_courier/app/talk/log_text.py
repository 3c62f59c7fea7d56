"""A log of a line as text for people."""

from pathlib import Path

from humble_courier.app.files import write_whole
from humble_courier.port.log import as_text, read_log


def write_log_text(log: Path, target: Path) -> None:
    """Write a log as text, with a word about lines that are damaged. Raises MachineRefused where it cannot be written."""
    logged = read_log(log.read_bytes())
    lines = [*as_text(logged.pieces), *([logged.problem] if logged.problem else [])]
    write_whole(target, ("\n".join(lines) + "\n").encode())
