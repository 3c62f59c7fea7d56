"""May I open it: owner, group, mode, membership, whether a new login is needed, and which process holds it."""

import os
import stat
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

Process = tuple[int, str]


@dataclass(frozen=True)
class Me:
    """Who asks: user, the groups of this login, and those that the group file gives (a new login would have them)."""

    uid: int
    name: str
    groups: frozenset[int]
    listed: frozenset[int]
    users: Mapping[int, str] = field(default_factory=dict)
    group_names: Mapping[int, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Access:
    """What permission says of a node. `group` and `user` by name; `remedy` is a command, empty where none is needed."""

    there: bool
    allowed: bool
    owner: str = ""
    group: str = ""
    mode: int = 0
    new_login: bool = False
    remedy: str = ""

    @property
    def story(self) -> str:
        """The state in words."""
        if not self.there:
            return "the node is gone"
        if self.allowed:
            return "you may open it"
        if self.new_login:
            return f"you are in the group {self.group}, but this login is older than that: log out and in again"
        return f"it belongs to {self.owner} and the group {self.group} (mode {self.mode:04o}); you are in neither"


@dataclass(frozen=True)
class Holder:
    """A process that has the port open."""

    pid: int
    program: str


def names(root: Path, file: str) -> dict[int, tuple[str, list[str]]]:
    """Ids of `etc/passwd` or `etc/group`: name and members."""
    found: dict[int, tuple[str, list[str]]] = {}
    try:
        lines = (root / file).read_text(encoding="utf-8", errors="replace").splitlines()
    except OSError:
        return found
    for line in lines:
        cells = line.split(":")
        if len(cells) >= 4 and cells[2].isdecimal():
            found[int(cells[2])] = (cells[0], [m for m in cells[3].split(",") if m])
    return found


def who_am_i(root: Path = Path("/")) -> Me:
    """The user of this process, with the groups of its login and of the group file under `root`."""
    uid = os.geteuid()
    users, known = names(root, "etc/passwd"), names(root, "etc/group")
    name = users.get(uid, (str(uid), []))[0]
    groups = frozenset((os.getegid(), *os.getgroups()))
    listed = frozenset(gid for gid, (_, members) in known.items() if name in members)
    called = {gid: group for gid, (group, _) in known.items()}
    return Me(uid, name, groups, groups | listed, {i: user for i, (user, _) in users.items()}, called)


def allowed(mode: int, owner: int, group: int, me: Me) -> bool:
    """Whether read and write are permitted: the first class that fits decides, root may always (POSIX 4.5)."""
    if me.uid == 0:
        return True
    if me.uid == owner:
        return mode & 0o600 == 0o600
    if group in me.groups:
        return mode & 0o060 == 0o060
    return mode & 0o006 == 0o006


def look(root: Path, address: str, me: Me) -> Access:
    """What permission says of a port's node."""
    try:
        state = (root / address.lstrip("/")).stat()
    except OSError:
        return Access(there=False, allowed=False)
    mode = stat.S_IMODE(state.st_mode)
    owner = me.users.get(state.st_uid, str(state.st_uid))
    group = me.group_names.get(state.st_gid, str(state.st_gid))
    if allowed(mode, state.st_uid, state.st_gid, me):
        return Access(True, True, owner, group, mode)
    joined = state.st_gid in me.listed and mode & 0o060 == 0o060
    if joined:
        return Access(True, False, owner, group, mode, new_login=True, remedy=f"newgrp {group}")
    if mode & 0o060 == 0o060 and group != "root":
        return Access(True, False, owner, group, mode, remedy=f"sudo usermod -a -G {group} {me.name}")
    return Access(True, False, owner, group, mode, remedy=f"sudo setfacl -m u:{me.name}:rw {address}")


def holders(root: Path = Path("/")) -> dict[str, Holder]:
    """Which process has which /dev node open, as far as we may look (/proc/PID/fd). This process is left out."""
    found: dict[str, Holder] = {}
    try:
        pids = [p.name for p in (root / "proc").iterdir() if p.name.isdecimal() and int(p.name) != os.getpid()]
    except OSError:
        return found
    for pid in pids:
        for _, target in open_files(root / "proc" / pid / "fd"):
            if target.startswith(("/dev/tty", "/dev/rfcomm", "/dev/pts/")):
                found.setdefault(target, Holder(int(pid), program(root, pid)))
    return found


def open_files(folder: Path) -> list[tuple[str, str]]:
    """Number and goal of each descriptor of a process; empty where we may not look, or it has ended."""
    found = []
    try:
        for link in folder.iterdir():
            found.append((link.name, str(link.readlink())))
    except OSError:
        return found
    return found


def program(root: Path, pid: str) -> str:
    """What a process calls itself."""
    try:
        return (root / "proc" / pid / "comm").read_text(encoding="utf-8", errors="replace").strip()
    except OSError:
        return "?"
