"""Ports that programs make: the ptys of this machine that are no terminals, with the program that serves each."""

import re
from collections.abc import Iterator, Mapping
from pathlib import Path

from humble_courier.host.access import Holder, open_files, program
from humble_courier.host.kinds import HostPort, PortKind

_PTY_MAJORS = range(136, 144)  # UNIX98_PTY_SLAVE_MAJOR, include/uapi/linux/major.h (from memory)
_TTY_NR = 4  # place in /proc/PID/stat after the closing bracket of the name: proc(5), field 7 (from memory)


def list_ptys(root: Path, held: Mapping[str, Holder]) -> list[HostPort]:
    """Ptys that nobody sits at: a pty that is some process's own terminal is a terminal, not a port."""
    try:
        numbers = sorted(int(entry.name) for entry in (root / "dev/pts").iterdir() if entry.name.isdecimal())
    except OSError:
        return []
    if not numbers:
        return []
    terminals, served = _terminals(root), _served(root)
    found = [n for n in numbers if n not in terminals]
    return [
        HostPort(address=f"/dev/pts/{n}", kind=PortKind.PTY, holder=_other(held.get(f"/dev/pts/{n}"), served.get(n)),
                 served=served.get(n))
        for n in found
    ]  # fmt: skip


def _other(holder: Holder | None, server: Holder | None) -> Holder | None:
    """Who holds the pty beside the program that serves it (many keep both ends open)."""
    return None if holder == server else holder


def _pids(root: Path) -> Iterator[str]:
    try:
        yield from (entry.name for entry in (root / "proc").iterdir() if entry.name.isdecimal())
    except OSError:
        return


def _terminals(root: Path) -> set[int]:
    """Numbers of the ptys that are the controlling terminal of a process."""
    found = set()
    for pid in _pids(root):
        try:
            stat = (root / "proc" / pid / "stat").read_text(encoding="utf-8", errors="replace")
        except OSError:
            continue
        fields = stat.rpartition(")")[2].split()
        if len(fields) > _TTY_NR and fields[_TTY_NR].isdecimal():
            device = int(fields[_TTY_NR])
            if device >> 8 & 0xFFF in _PTY_MAJORS:
                found.add((device & 0xFF) | (device >> 12 & 0xFFF00))
    return found


def _served(root: Path) -> dict[int, Holder]:
    """Which process holds the other end of a pty: `tty-index` in its fdinfo (drivers/tty/tty_io.c, from memory)."""
    found: dict[int, Holder] = {}
    for pid in _pids(root):
        for name, target in open_files(root / "proc" / pid / "fd"):
            if target not in ("/dev/ptmx", "/dev/pts/ptmx"):
                continue
            try:
                told = (root / "proc" / pid / "fdinfo" / name).read_text(encoding="utf-8", errors="replace")
            except OSError:
                continue
            number = re.search(r"^tty-index:\s*(\d+)", told, re.MULTILINE)
            if number:
                found[int(number[1])] = Holder(int(pid), program(root, pid))
    return found
