"""Files: written whole or not at all."""

from pathlib import Path

from humble_courier.errors import MachineRefused


def write_whole(path: Path, data: bytes) -> None:
    """Write a file; a full disk leaves the old one as it was. Raises MachineRefused."""
    part = path.with_name(path.name + ".part")
    try:
        part.write_bytes(data)
        part.replace(path)
    except OSError as error:
        part.unlink(missing_ok=True)
        raise MachineRefused(f"{path} cannot be written: {error.strerror}", "Choose another place") from None
