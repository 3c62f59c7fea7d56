"""Pictures and files of a link as tiles: a small picture or the kind of the file, its name, since when."""

from collections.abc import Callable, Sequence
from datetime import datetime
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImageReader, QPixmap
from PyQt6.QtWidgets import QFrame, QVBoxLayout, QWidget

from humble_courier.app.link.kept_files import KeptFile
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import PlainLabel, button, clear, label
from humble_courier.ui.widgets.flow import FlowRow

TILE = (168, 96)  # pixels of a preview at the usual size of type
MOST_PIXELS_MB = 256  # that a picture may take while it is made small


class FilesView(QWidget):
    """`wanted` asks for a file to keep, `opened` and `removed` are about one that is kept."""

    wanted = pyqtSignal()
    opened = pyqtSignal(object)
    removed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 10, 0, 0)
        column.addWidget(label("Pictures and files of this device", "title"))
        self.tiles = QVBoxLayout()
        column.addLayout(self.tiles)
        hint = "Its plate, its switches, a page of its manual: choose it, or drop it here. A copy is kept."
        column.addWidget(label(hint, "small", wrap=True))
        self.keep = button("Keep a picture or a file", "", self.wanted.emit, "Ctrl+O")
        column.addWidget(self.keep, 0, Qt.AlignmentFlag.AlignLeft)
        self._shown: object = None

    def show_files(self, files: Sequence[KeptFile], where: Callable[[str], Path], theme: Theme) -> None:
        """Show them. `where`: the path of a content."""
        if self._shown == (list(files), theme):
            return
        self._shown = (list(files), theme)
        clear(self.tiles)
        if files:
            self.tiles.addWidget(FlowRow([self._tile(one, where(one.content), theme) for one in files]))

    def _tile(self, one: KeptFile, path: Path, theme: Theme) -> QFrame:
        frame = QFrame()
        frame.setProperty("role", "card")
        column = QVBoxLayout(frame)
        column.setContentsMargins(8, 8, 8, 8)
        size = QSize(theme.px(TILE[0]), theme.px(TILE[1]))
        picture = small_picture(path, size) if one.is_picture else None
        shown = PlainLabel("" if picture is not None else _told_in_place(one, path))
        if picture is not None:
            shown.setPixmap(picture)
        shown.setAlignment(Qt.AlignmentFlag.AlignCenter)
        shown.setMinimumSize(size)
        shown.setAccessibleName(one.name)
        column.addWidget(shown)
        name = label(one.name, "title", wrap=True)
        name.setMaximumWidth(size.width())
        column.addWidget(name)
        column.addWidget(label(f"{datetime.fromtimestamp(one.at):%Y-%m-%d}, {told_size(one.size)}", "small"))
        out = button("Take out", "", partial(self.removed.emit, one))
        column.addWidget(FlowRow([button("Open", "", partial(self.opened.emit, one)), out]))
        frame.setFixedWidth(size.width() + 18)
        return frame


def _told_in_place(one: KeptFile, path: Path) -> str:
    if not path.is_file():
        return "its copy is not here:\ntake in the records\nwith their files"
    return f"{path.suffix.lstrip('.').upper() or 'a'} file"


def small_picture(path: Path, size: QSize) -> QPixmap | None:
    """A picture made small; None for one that cannot be read, or would take too much room while it is."""
    reader = QImageReader(str(path))
    reader.setAutoTransform(True)
    reader.setAllocationLimit(MOST_PIXELS_MB)
    whole = reader.size()
    if whole.isValid():
        reader.setScaledSize(whole.scaled(size, Qt.AspectRatioMode.KeepAspectRatio))
    image = reader.read()
    return None if image.isNull() else QPixmap.fromImage(image)


def told_size(size: int) -> str:
    """Bytes as people say them."""
    for unit, worth in (("MB", 1 << 20), ("kB", 1 << 10)):
        if size >= worth:
            return f"{size / worth:.1f} {unit}"
    return f"{size} bytes"
