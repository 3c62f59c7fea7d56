"""The space of a search as a picture: rates across, ways of asking down; what is excluded, what is left, where we are."""

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen

from humble_courier.app.talk.search_space import SpaceCell
from humble_courier.domain.facts import State
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.marks import draw_state
from humble_courier.ui.widgets.pieces import Pieces

ROW = 27  # pixels


@dataclass(frozen=True)
class _Field:
    left: float
    top: float
    width: float
    height: float


class SpaceView(Pieces):
    """Discs: the larger, the more belief is left there. A cross is excluded, a ring is being asked, a tick was found."""

    def __init__(self) -> None:
        super().__init__()
        self._cells: tuple[SpaceCell, ...] = ()
        self._theme = Theme()

    def show_cells(self, cells: tuple[SpaceCell, ...], told: str, theme: Theme) -> None:
        """Show the space; `told` says it in words."""
        self._cells, self._theme = cells, theme
        self.tell(told, [f"{cell.rate} {cell.row}: {_state(cell)}" for cell in cells])
        rows = len({cell.row for cell in cells})
        self.setMinimumHeight(theme.px(44 + ROW * rows))
        self.update()

    def sizeHint(self) -> QSize:
        """A wide field."""
        return QSize(self._theme.px(700), self.minimumHeight())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the field."""
        if not self._cells:
            return
        t = self._theme
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rates = sorted({cell.rate for cell in self._cells})
        rows = list(dict.fromkeys(cell.row for cell in self._cells))
        left, top = t.px(150), t.px(40)
        field = _Field(left, top, (self.width() - left - t.px(28)) / len(rates), t.px(ROW))
        painter.setFont(t.font(11))
        painter.setPen(t.color("quiet"))
        for i, rate in enumerate(rates):
            painter.save()
            painter.translate(field.left + (i + 0.5) * field.width, top - t.px(4))
            painter.rotate(-40)
            painter.drawText(QPointF(0, 0), str(rate))
            painter.restore()
        for j, row in enumerate(rows):
            box = QRectF(0, top + j * field.height, left - t.px(10), field.height)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, row)
        most = max(cell.prior for cell in self._cells) or 1.0
        for cell in self._cells:
            x = field.left + (rates.index(cell.rate) + 0.5) * field.width
            self._cell(painter, QPointF(x, top + (rows.index(cell.row) + 0.5) * field.height), cell, most)
        painter.end()

    def _cell(self, painter: QPainter, middle: QPointF, cell: SpaceCell, most: float) -> None:
        t = self._theme
        if cell.found:
            draw_state(painter, middle, t.px(18), State.PROVEN, t)
            return
        radius = max(1.5, t.px(11) * (cell.prior / most) ** 0.3)
        painter.setPen(Qt.PenStyle.NoPen)
        if cell.left > 0:
            painter.setBrush(t.color("hairline"))
            painter.drawEllipse(middle, radius, radius)
            painter.setBrush(t.color("action"))
            share = radius * (cell.left / cell.prior) ** 0.5
            painter.drawEllipse(middle, share, share)
        else:
            painter.setPen(QPen(t.color("unknown"), 1.5))
            reach = max(3.0, radius * 0.6)
            painter.drawLine(middle + QPointF(-reach, -reach), middle + QPointF(reach, reach))
            painter.drawLine(middle + QPointF(-reach, reach), middle + QPointF(reach, -reach))
        if cell.now:
            painter.setPen(QPen(t.color("ink"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(middle, t.px(13), t.px(13))


def _state(cell: SpaceCell) -> str:
    if cell.found or cell.now:
        return "found" if cell.found else "asked now"
    return f"{cell.left:.1%} of the belief is left" if cell.left > 0 else "excluded"
