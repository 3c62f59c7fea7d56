"""What this kernel has: modules built in, present, loaded, blocked; every path under a root that can be replaced."""

import os
import re
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

from humble_courier.host.aliases import Aliases

_SHEETS = ("etc/modprobe.d", "run/modprobe.d", "usr/lib/modprobe.d", "lib/modprobe.d")
_REFUSALS = ("/bin/false", "/bin/true", "/usr/bin/false", "/usr/bin/true")


@dataclass(frozen=True)
class Block:
    """Why a module is kept from loading by itself: the file, its line, and whether `install` sends it nowhere."""

    file: str
    line: int
    text: str


def same(module: str) -> str:
    """A module's name with the underscores that the kernel uses."""
    return module.replace("-", "_")


class Kernel:
    """The modules of the machine under `root`; `release` as `uname -r` says unless given."""

    def __init__(self, root: Path = Path("/"), release: str | None = None) -> None:
        self.root = root
        self.release = release or _release(root)

    @property
    def folder(self) -> Path:
        """Where this kernel's modules lie."""
        return self.root / "lib/modules" / self.release

    @cached_property
    def aliases(self) -> Aliases | None:
        """The machine's own aliases; None where it has no such file, as in many containers."""
        path = self.folder / "modules.alias"
        return Aliases.read(path) if path.is_file() else None

    @cached_property
    def loaded(self) -> frozenset[str]:
        """Modules in memory (/proc/modules)."""
        return frozenset(same(line.split()[0]) for line in _lines(self.root / "proc/modules") if line.strip())

    @cached_property
    def built_in(self) -> frozenset[str]:
        """Modules that are part of the kernel itself (modules.builtin)."""
        return frozenset(_stem(line) for line in _lines(self.folder / "modules.builtin") if line.strip())

    @cached_property
    def present(self) -> frozenset[str]:
        """Modules that can be loaded (modules.dep)."""
        return frozenset(_stem(line.partition(":")[0]) for line in _lines(self.folder / "modules.dep") if ":" in line)

    def has(self, module: str) -> bool:
        """Whether this kernel knows the module at all: loaded, built in or on disk."""
        name = same(module)
        return name in self.loaded or name in self.built_in or name in self.present

    def block(self, module: str) -> Block | None:
        """The line that keeps the module from loading: `blacklist`, or an `install` that runs nothing."""
        name = same(module)
        for folder in _SHEETS:
            for path in sorted((self.root / folder).glob("*.conf")):
                for number, line in enumerate(_lines(path), start=1):
                    words = line.split()
                    barred = len(words) >= 2 and words[0] == "blacklist" and same(words[1]) == name
                    sent = len(words) >= 3 and words[0] == "install" and same(words[1]) == name and words[2] in _REFUSALS
                    if barred or sent:
                        return Block(str(Path("/") / path.relative_to(self.root)), number, line.strip())
        return None


def _release(root: Path) -> str:
    told = _lines(root / "proc/sys/kernel/osrelease")
    return told[0].strip() if told else os.uname().release


def _stem(path: str) -> str:
    return same(re.sub(r"\.ko(\.\w+)?$", "", path.strip().rpartition("/")[2]))


def _lines(path: Path) -> list[str]:
    try:
        return path.read_text(encoding="utf-8", errors="replace").splitlines()
    except OSError:
        return []
