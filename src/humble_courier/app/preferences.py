"""What a person prefers, kept as one small file beside the other settings of that person's programs (XDG configuration).

A file that cannot be read is told and left as it is; until it is mended or changed, everything is as usual.
"""

from pathlib import Path
from typing import Annotated, Literal

import msgspec

from humble_courier.app.files import unwritable, write_whole
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput

APP, FILE = "humble-courier", "preferences.json"
SMALLEST, LARGEST = 90, 200  # percent of the text: what the interface promises


class Preferences(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, omit_defaults=True):
    """`text`: percent. `data`: folder of the records, empty for the usual one. `records`: those of the
    team, as postgresql://NAME@SERVER/DATABASE. `region`: whose radio bands count.

    `cautions`: sentences of the site that stand before the first word to any device. `line_end`: tried first where nothing
    is known. `naming`: what a name that stays follows where an adapter has both. `laptop`: for which the driver plan is
    made at first. `walked`: the walk through the window was gone or skipped.
    """

    text: Annotated[int, msgspec.Meta(ge=SMALLEST, le=LARGEST)] = 100
    colours: Literal["as the system", "light", "dark", "outdoor"] = "as the system"
    data: str = ""
    records: str = ""
    region: str = ""
    cautions: tuple[str, ...] = ()
    line_end: Literal["cr", "lf", "crlf"] = "cr"
    naming: Literal["serial", "socket"] = "serial"
    laptop: Literal["other", "linux"] = "other"
    walked: bool = False

    @property
    def first_end(self) -> Terminator:
        """The end of a line that is tried first."""
        return Terminator(self.line_end)


def preferences_file() -> Path:
    """Where they are kept."""
    from platformdirs import user_config_path

    return user_config_path(APP, appauthor=False) / FILE


def read_preferences(path: Path) -> Preferences:
    """As they are kept; the usual ones where there is no file. Raises BadInput for a file that cannot be read."""
    try:
        return msgspec.json.decode(path.read_bytes(), type=Preferences)
    except FileNotFoundError:
        return Preferences()
    except (OSError, msgspec.MsgspecError, UnicodeDecodeError) as error:
        raise BadInput(f"{error}. Mend this file or remove it, then start again", file=str(path)) from None


class KeptPreferences:
    """Those of the person who works here. Without a path nothing is kept. `problem`: why they are the usual ones."""

    def __init__(self, path: Path | None = None) -> None:
        self._path, self.now, self.problem = path, Preferences(), ""
        if path is not None:
            try:
                self.now = read_preferences(path)
            except BadInput as error:
                self.problem = str(error)

    @property
    def lasts(self) -> bool:
        """Whether what is preferred is there at the next start."""
        return self._path is not None

    def change(self, **changed: object) -> None:
        """Prefer something else from now on. Raises BadInput for what cannot be, MachineRefused where it cannot be kept."""
        values = {**msgspec.structs.asdict(self.now), **changed}
        try:
            now = msgspec.convert(values, Preferences)
        except msgspec.ValidationError as error:
            raise BadInput(f"that cannot be preferred: {error}") from None
        if now == self.now:
            return
        if self._path is not None:
            with unwritable(self._path.parent, "Set XDG_CONFIG_HOME to a folder that can be written"):
                self._path.parent.mkdir(parents=True, exist_ok=True)
            write_whole(self._path, msgspec.json.format(msgspec.json.encode(now)) + b"\n")
            self._path.chmod(0o600)  # the name of a team's records may hold a password
        self.now, self.problem = now, ""
