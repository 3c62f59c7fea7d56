"""Files that are kept in the folder of the records by what is in them: the same picture twice takes its room once.

A file is copied whole or not at all, and what was kept stays when the original goes.
"""

import hashlib
import re
from dataclasses import dataclass
from pathlib import Path

from humble_courier.app.files import unwritable, write_whole
from humble_courier.errors import BadInput, MachineRefused

FOLDER = "files"
LARGEST = 50 << 20  # bytes of one file: a picture, a manual page, a recording; a whole manual lies better elsewhere
_NAME = re.compile(r"[0-9a-f]{64}(\.[a-z0-9]{1,8})?")


def is_content(name: str) -> bool:
    """Whether a file name is one of those under which contents are kept."""
    return _NAME.fullmatch(name) is not None


@dataclass(frozen=True)
class Content:
    """What was kept: `id` by its SHA-256, with the suffix of the first name that it came under; `size` in bytes."""

    id: str
    size: int


class Contents:
    """Those of one folder of records."""

    def __init__(self, records: Path) -> None:
        self.folder = records / FOLDER

    def keep(self, path: Path) -> Content:
        """Copy a file in. Raises BadInput for none or one too large, MachineRefused where it cannot be read or written."""
        try:
            if not path.is_file():
                raise BadInput("there is no such file", file=path)
            if path.stat().st_size > LARGEST:
                raise BadInput(
                    f"larger than {LARGEST >> 20} MB: note where it lies instead, or keep the page that matters", file=path
                )
            data = path.read_bytes()
        except OSError as error:
            raise MachineRefused(f"{path} cannot be read: {error.strerror}", "See to its permissions") from None
        suffix = path.suffix.lower() if re.fullmatch(r"\.[a-z0-9]{1,8}", path.suffix.lower()) else ""
        return self.put(data, suffix)

    def put(self, data: bytes, suffix: str = "") -> Content:
        """Keep bytes. Raises MachineRefused."""
        id_ = hashlib.sha256(data).hexdigest() + suffix
        if not self.path(id_).is_file():
            with unwritable(self.folder, "Choose another folder: --data DIR"):
                self.folder.mkdir(parents=True, exist_ok=True)
            write_whole(self.path(id_), data)
        return Content(id_, len(data))

    def path(self, id_: str) -> Path:
        """Where it lies. Raises BadInput for what is no such id: it may come from a file of somebody else."""
        if not is_content(id_):
            raise BadInput(f"“{id_}” names no kept file")
        return self.folder / id_

    def sound(self, id_: str) -> bool:
        """Whether it is there and holds what its name says."""
        path = self.path(id_)
        return path.is_file() and hashlib.sha256(path.read_bytes()).hexdigest() == id_[:64]
