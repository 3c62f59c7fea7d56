"""Connectors to choose from, each drawn as the eye meets it, with its name below; one is chosen."""

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QButtonGroup, QVBoxLayout, QWidget

from humble_courier.catalog.entries import ShapeEntry
from humble_courier.domain.hardware import Connector, Gender
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import PlainButton
from humble_courier.ui.widgets.faces import Face, draw_face
from humble_courier.ui.widgets.flow import FlowRow

WIDE, HIGH = 92, 78


class FaceTile(PlainButton):
    """One connector; its name is its text, drawn below the face."""

    def __init__(self, name: str, shape: ShapeEntry, theme: Theme) -> None:
        super().__init__("")
        self._face = Face(Connector(shape.family, shape.contacts, Gender.SOCKET), shape, numbered=False)
        self._name, self._theme = name, theme
        self.setCheckable(True)
        self.setProperty("role", "tile")
        self.setAccessibleName(f"{name}: {shape.name}")
        self.setToolTip(f"{shape.name}: {shape.mark}")
        self.show_theme(theme)

    def show_theme(self, theme: Theme) -> None:
        """Another palette or size of type."""
        self._theme = theme
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        """Room for a small picture and a name."""
        return QSize(self._theme.px(WIDE), self._theme.px(HIGH))

    def minimumSizeHint(self) -> QSize:
        """The same: a picture does not shrink."""
        return self.sizeHint()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Frame of the style, then the face and its name."""
        super().paintEvent(event)
        theme, foot = self._theme, self._theme.px(22)
        with QPainter(self) as painter:
            room = QRectF(self.rect()).adjusted(theme.px(10), theme.px(9), -theme.px(10), -foot)
            width = min(room.width(), room.height() / self._face.ratio())
            height = width * self._face.ratio()
            box = QRectF(room.center().x() - width / 2, room.center().y() - height / 2, width, height)
            draw_face(painter, box, self._face, theme)
            painter.setFont(theme.font(11, bold=self.isChecked()))
            painter.setPen(theme.color("ink"))
            below = QRectF(2, self.height() - foot, self.width() - 4, foot - 2)
            painter.drawText(below, Qt.AlignmentFlag.AlignCenter, self._name)


class FaceTiles(QWidget):
    """All tiles; `chosen` gives the place of the one that was touched."""

    chosen = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self._group = QButtonGroup(self)
        self.tiles: list[FaceTile] = []
        self._row: FlowRow | None = None
        self._names: list[str] = []

    def show_faces(self, faces: Sequence[tuple[str, ShapeEntry]], theme: Theme) -> None:
        """Offer these, each with its name; made anew only where they are others."""
        names = [name for name, _ in faces]
        if names == self._names:
            for tile in self.tiles:
                tile.show_theme(theme)
            return
        self._names = names
        self.tiles = [FaceTile(name, shape, theme) for name, shape in faces]
        for number, tile in enumerate(self.tiles):
            self._group.addButton(tile, number)
            tile.clicked.connect(partial(self.chosen.emit, number))
        self._lay_out()

    def clear_choice(self) -> None:
        """None is touched any more."""
        self._group.setExclusive(False)
        for tile in self.tiles:
            tile.setChecked(False)
        self._group.setExclusive(True)

    def _lay_out(self) -> None:
        layout = self.layout()
        if layout is None:
            layout = QVBoxLayout(self)
            layout.setContentsMargins(0, 0, 0, 0)
        if self._row is not None:
            self._row.deleteLater()
        self._row = FlowRow(list(self.tiles))
        layout.addWidget(self._row)
