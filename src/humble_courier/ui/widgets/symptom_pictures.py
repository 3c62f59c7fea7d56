"""What people see when a link does not work, as small pictures to be touched."""

from functools import partial

from PyQt6.QtCore import QByteArray, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QIcon, QPainter, QPixmap
from PyQt6.QtSvg import QSvgRenderer
from PyQt6.QtWidgets import QHBoxLayout, QToolButton, QWidget

from humble_courier.app.diagnose.symptoms import Pictured
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import clear
from humble_courier.ui.widgets.flow import FlowRow

WIDE, HIGH = 45, 30  # pixels at 100 %
SHARP = 2  # times as many pixels as are shown, for dense screens
_LAMP = '<path d="M20 24 V18 A7 7 0 1 1 34 18 V24 Z M22 28 H32"/>'
_RAYS = '<path d="M27 1 V4 M12 6 L15 8 M42 6 L39 8 M9 16 H13 M41 16 H45"/>'
_ADAPTER = '<rect x="14" y="12" width="26" height="14" rx="3"/><path d="M2 16 H14 M2 22 H14 M40 16 H52 M40 22 H52"/>'
# Strokes of each picture on a field of 54 by 36; `{ink}` stands for the colour of the signs in it.
DRAWINGS = {
    "lamp-dark": f'{_LAMP}<path d="M10 32 L44 3"/>',
    "lamp-lit": f"{_LAMP}{_RAYS}",
    "adapter-dark": f'{_ADAPTER}<circle cx="27" cy="19" r="3"/>',
    "adapter-lit": f'{_ADAPTER}<circle cx="27" cy="19" r="3" fill="{{ink}}"/><path d="M27 3 V7 M18 5 L20 8 M36 5 L34 8"/>',
    "garbled": '<rect x="4" y="8" width="46" height="20" rx="3"/>'
    '<path d="M10 13 L16 23 M16 13 L10 23 M21 14 H27 V22 H21 Z M32 14 L35 23 L38 14 M43 13 V18 M43 22 V23"/>',
    "echo": '<path d="M6 12 H40 A6 6 0 0 1 40 25 H14 M20 19 L14 25 L20 31"/>',
    "breaks-off": '<path d="M4 12 H34 L31 15 L36 18 L32 22 L35 25 H4 M41 18 H42 M46 18 H47 M51 18 H52"/>',
    "loose": '<path d="M2 18 H10 M10 10 H20 V26 H10 Z M20 14 H25 M20 22 H25"/>'
    '<path d="M38 8 L50 11 L46 29 L34 26 Z M30 8 L33 10 M29 28 L32 26"/>',
    "shaken": '<path d="M2 18 C10 6 16 30 24 18 S40 6 50 18"/>'
    '<path d="M12 6 L9 3 M12 6 L15 3 M40 31 L37 34 M40 31 L43 34"/>',
    "programs": '<rect x="4" y="4" width="28" height="20" rx="2"/><path d="M4 9 H32"/>'
    '<rect x="22" y="13" width="28" height="20" rx="2"/><path d="M22 18 H50"/>',
}


class SymptomPictures(QWidget):
    """`meant` gives a check and its outcome."""

    meant = pyqtSignal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(0, 0, 0, 0)
        self.keys: list[QToolButton] = []
        self._shown: object = None

    def show_pictures(self, pictured: list[Pictured], theme: Theme) -> None:
        """Show these, in as many rows as the width wants."""
        if self._shown == (pictured, theme):
            return
        self._shown = (list(pictured), theme)
        clear(self._row)
        self.keys = [self._key(one, theme) for one in pictured]
        widest = max((key.sizeHint().width() for key in self.keys), default=0)
        for key in self.keys:
            key.setFixedWidth(widest)
        self._row.addWidget(FlowRow(list(self.keys)))

    def _key(self, one: Pictured, theme: Theme) -> QToolButton:
        key = QToolButton()
        key.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
        key.setIcon(picture(one.shows, theme))
        key.setIconSize(QSize(theme.px(WIDE), theme.px(HIGH)))
        key.setText(one.says)
        key.setAccessibleName(f"I see: {one.says}")
        key.setToolTip(one.told)
        key.setProperty("role", "picture")
        key.clicked.connect(partial(self.meant.emit, one.check, one.outcome))
        return key


def picture(shows: str, theme: Theme) -> QIcon:
    """A drawing in the colour of the type. `shows`: one of `DRAWINGS`."""
    ink = theme.color("ink").name()
    drawing = (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 54 36"><g fill="none" stroke="{ink}" stroke-width="2" '
        f'stroke-linejoin="round" stroke-linecap="round">{DRAWINGS[shows].format(ink=ink)}</g></svg>'
    )
    made = QPixmap(SHARP * theme.px(WIDE), SHARP * theme.px(HIGH))
    made.fill(Qt.GlobalColor.transparent)
    painter = QPainter(made)
    QSvgRenderer(QByteArray(drawing.encode())).render(painter)
    painter.end()
    return QIcon(made)
