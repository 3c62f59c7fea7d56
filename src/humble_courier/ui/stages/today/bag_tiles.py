"""The bag as its pieces: each a tile with both its ends drawn; one that is touched tells what it serves."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QAbstractButton, QVBoxLayout, QWidget

from humble_courier.app.today.kept import Where
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import clear
from humble_courier.ui.widgets.end_glyph import draw_end
from humble_courier.ui.widgets.fitting import draw_fitting
from humble_courier.ui.widgets.flow import FlowRow

WIDE, HIGH = 176, 82  # pixels at 100 %


@dataclass(frozen=True)
class BagTile:
    """`ends`: the family of each end's connector and whether it is a socket; `lone`: something is lost without it."""

    id: str
    name: str
    said: str
    where: Where
    ends: tuple[tuple[str, bool], ...]
    lone: bool


class PieceTile(QAbstractButton):
    """One kind of piece."""

    def __init__(self, tile: BagTile, theme: Theme, lights: bool) -> None:
        super().__init__()
        self.tile, self._theme, self._lights = tile, theme, lights
        self.setFixedSize(theme.px(WIDE), theme.px(HIGH))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        alone = "; without it something cannot be served" if tile.lone else ""
        self.setToolTip(f"{tile.name}\n{tile.said}")
        self.setAccessibleName(f"{tile.name}, {tile.where.value}: {tile.said}{alone}")

    def sizeHint(self) -> QSize:
        """Fixed."""
        return self.minimumSize()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw it."""
        t, painter, tile = self._theme, QPainter(self), self.tile
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(t.color("hairline" if self._lights else "surface"))
        pen = painter.pen()
        pen.setColor(t.color("action" if self._lights or self.hasFocus() else "edge"))
        pen.setWidthF(2 if self._lights or self.hasFocus() else 1)
        painter.setPen(pen)
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)
        middle, left, right = t.px(16), t.px(22), self.width() - t.px(22)
        pen.setColor(t.color("ink"))
        pen.setWidthF(1.4)
        painter.setPen(pen)
        painter.drawLine(QPointF(left + t.px(10), middle), QPointF(right - t.px(10), middle))
        for (family, socket), x in zip(tile.ends, (left, right), strict=False):
            draw_end(painter, QPointF(x, middle), family, socket, t)
        box = QRectF(t.px(10), t.px(27), self.width() - t.px(20), t.px(33))
        self._words(painter, box, tile.name, 12, bold=True)
        below = QRectF(box.left(), box.bottom(), box.width(), t.px(18))
        painter.setPen(t.color("contradicted" if tile.where is Where.FAILED else "quiet"))
        if tile.where is not Where.HOME:
            _mark(painter, QRectF(below.left(), below.center().y() - t.px(5), t.px(10), t.px(10)), tile.where)
            below.adjust(t.px(15), 0, 0, 0)
        self._words(painter, below, tile.said, 11)
        painter.end()

    def _words(self, painter: QPainter, box: QRectF, text: str, size: int, bold: bool = False) -> None:
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        draw_fitting(painter, box, text, self._theme, tuple(range(size, 5, -1)), bold, left)


def _mark(painter: QPainter, box: QRectF, where: Where) -> None:
    """Where it is, as a shape beside the word: a full box, an empty one, an arrow home, a triangle."""
    painter.setBrush(painter.pen().color() if where in (Where.PACKED, Where.FAILED) else Qt.BrushStyle.NoBrush)
    if where is Where.FAILED:
        painter.drawPolygon(QPolygonF([box.bottomLeft(), QPointF(box.center().x(), box.top()), box.bottomRight()]))
    elif where is Where.BACK:
        middle = box.center().y()
        painter.drawLine(QPointF(box.left(), middle), QPointF(box.right(), middle))
        painter.drawPolyline(QPolygonF([
            QPointF(box.center().x(), box.top()), QPointF(box.left(), middle), QPointF(box.center().x(), box.bottom()),
        ]))  # fmt: skip
    else:
        painter.drawRect(box)


class BagTiles(QWidget):
    """`touched` gives the id of a part."""

    touched = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self.tiles: list[PieceTile] = []
        self._shown: object = None

    def show_bag(self, tiles: Sequence[BagTile], lit: str, theme: Theme) -> None:
        """Show these pieces; the one that is `lit` was touched."""
        if self._shown == (list(tiles), lit, theme):
            return
        self._shown = (list(tiles), lit, theme)
        clear(self._column)
        self.tiles = [PieceTile(tile, theme, tile.id == lit) for tile in tiles]
        for made in self.tiles:
            made.clicked.connect(partial(self.touched.emit, made.tile.id))
        self._column.addWidget(FlowRow(list(self.tiles)))
