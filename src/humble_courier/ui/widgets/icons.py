"""Small drawings that the style sheet needs as files: made once a run for the colours in use."""

import tempfile
from pathlib import Path

_ARROW = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="12" height="8">'
    '<path d="M1 1.5 L6 6.5 L11 1.5" fill="none" stroke="{}" stroke-width="2"/></svg>'
)

_TICK = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="16" height="16">'
    '<path d="M3.5 8.5 L7 12 L13 4.5" fill="none" stroke="{}" stroke-width="2.5"/></svg>'
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
        return self._drawn("arrow", _ARROW, color)

    def tick(self, color: str) -> str:
        """Path of a tick in a colour."""
        return self._drawn("tick", _TICK, color)

    def _drawn(self, name: str, drawing: str, color: str) -> str:
        path = Path(self._folder.name) / f"{name}-{color.lstrip('#')}.svg"
        try:
            if not path.exists():
                path.write_text(drawing.format(color), encoding="ascii")
        except OSError:  # a full disk: the arrow is missed, the window is not
            return ""
        return path.as_posix()
