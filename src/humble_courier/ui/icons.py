"""Small drawings that the style sheet needs as files: made once a run for the colours in use."""

import tempfile
from pathlib import Path

_ARROW = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="12" height="8">'
    '<path d="M1 1.5 L6 6.5 L11 1.5" fill="none" stroke="{}" stroke-width="2"/></svg>'
)


class Icons:
    """Files for the life of one window."""

    def __init__(self) -> None:
        self._folder = tempfile.TemporaryDirectory(prefix="humble-courier-")

    def close(self) -> None:
        """Take the files away."""
        self._folder.cleanup()

    def arrow(self, color: str) -> str:
        """Path of a downward arrow in a colour."""
        path = Path(self._folder.name) / f"arrow-{color.lstrip('#')}.svg"
        if not path.exists():
            path.write_text(_ARROW.format(color), encoding="ascii")
        return path.as_posix()
