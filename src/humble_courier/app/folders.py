"""Where records live: the folder asked for or preferred, else the XDG data directory; the demo has one of its own."""

from dataclasses import dataclass
from pathlib import Path

APP = "humble-courier"


def data_folder(chosen: Path | None = None, demo: bool = False) -> Path:
    """The folder of the records. Demo data has its own and never mixes with real records.

    Raises BadInput where the preferences, which may name another folder, cannot be read.
    """
    if chosen is not None:
        return chosen
    from platformdirs import user_data_path

    from humble_courier.app.preferences import preferences_file, read_preferences

    preferred = "" if demo else read_preferences(preferences_file()).data
    return Path(preferred).expanduser() if preferred else user_data_path(APP + "-demo" if demo else APP, appauthor=False)


@dataclass(frozen=True)
class RecordsAt:
    """Where records are: a folder of this computer, or with a `url` a database on a server, logs and files in the folder."""

    folder: Path
    url: str = ""
