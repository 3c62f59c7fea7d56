"""In step with a team: the records of this computer and those on a server take in what is new on the other side.

Theory of operation. Work always goes on in the local records, so no act ever waits for a network, and without the server
nothing is missing. Rows are only added: each side is asked for the links of which something came since the last time (by the
numbers of its rows), and takes them in by the rule of a merge. What the server had is marked as seen as of before it was
asked, so that what another laptop writes meanwhile comes the next time. Pictures and files follow by content.
"""

from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec

from humble_courier.app.contents import Contents, is_content
from humble_courier.app.preferences import preferences_file, read_preferences
from humble_courier.errors import BadInput

if TYPE_CHECKING:
    from humble_courier.records.store import Store


@dataclass(frozen=True)
class InStep:
    """What came of it: pieces taken from the team and given to it, files either way, links changed on both sides."""

    taken: int
    given: int
    files: int
    both: tuple[str, ...] = ()

    @property
    def told(self) -> str:
        """A sentence."""
        files = f", {self.files} files" if self.files else ""
        both = f"; changed on both sides, the newest holds: {', '.join(self.both)}" if self.both else ""
        return f"In step with the team: {self.taken} pieces came, {self.given} went{files}{both}"


def preferred_team() -> str:
    """The team that is preferred. Raises BadInput where none is."""
    url = read_preferences(preferences_file()).records
    if not url:
        raise BadInput("no team is named: records sync --with postgresql://NAME@SERVER/DATABASE, or name it under Choices")
    return url


def in_step(folder: Path, url: str) -> InStep:
    """Bring the records of a folder and those of a team in step. Raises BadInput and MachineRefused; both stay whole."""
    from humble_courier.records.store import Store

    team = Store(folder, url)  # first: without a server nothing is done
    try:
        ours = Store(folder)
        try:
            return exchange(ours, team)
        finally:
            ours.close()
    finally:
        team.close()


def exchange(ours: "Store", team: "Store") -> InStep:
    """The same for open records."""
    from humble_courier.records.store import IN_STEP, Marks

    keys = [f"{IN_STEP}{side}:{team.identity()}" for side in ("ours", "theirs")]
    seen = [ours.struct(key, Marks) or Marks() for key in keys]
    now = team.marks()
    came, went = team.news(seen[1]), ours.news(seen[0])
    taken, given = ours.take(came), team.take(went)
    files = _files(ours, team)
    for key, marks in zip(keys, (ours.marks(), now), strict=True):
        ours.remember(key, msgspec.json.encode(marks).decode())
    return InStep(taken.taken, given.taken, files, tuple(one.ours.name for one in taken.conflicts))


def _files(ours: "Store", team: "Store") -> int:
    contents, theirs = Contents(ours.path.parent), team.contents()
    here = {path.name for path in contents.folder.glob("*") if is_content(path.name)} if contents.folder.is_dir() else set()
    for id_ in sorted(theirs - here):
        data = team.content(id_)
        if data is not None and is_content(id_):
            contents.put(data, id_[64:])
    for id_ in sorted(here - theirs):
        team.add_content(id_, contents.path(id_).read_bytes())
    return len(theirs ^ here)
