"""Files that are dropped on a widget."""

from pathlib import Path

from PyQt6.QtGui import QDragEnterEvent, QDropEvent


def welcome(event: QDragEnterEvent | None) -> None:
    """Files are welcome; anything else is not."""
    if event is not None and files_of(event):
        event.acceptProposedAction()


def files_of(event: QDropEvent | None) -> list[Path]:
    """The files of this computer that are dropped."""
    data = event.mimeData() if event is not None else None
    return [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()] if data is not None else []
