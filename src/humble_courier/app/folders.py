"""Where records live: the XDG data directory, a folder of its own for the demo, or the one that was asked for."""

from pathlib import Path

APP = "humble-courier"


def data_folder(chosen: Path | None = None, demo: bool = False) -> Path:
    """The folder of the records. Demo data has its own and never mixes with real records."""
    if chosen is not None:
        return chosen
    from platformdirs import user_data_path

    return user_data_path(APP + "-demo" if demo else APP, appauthor=False)
