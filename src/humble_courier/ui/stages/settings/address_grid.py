"""Addresses or points as a grid, with who has which."""

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QFontMetrics, QHelpEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QToolTip

from humble_courier.app.settings.address_rows import Cell, Grid, Use
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.pieces import Pieces

LEGEND = 20  # pixels of a row of signs
LEAST = 22  # pixels of a cell, in which its number can be read
WORDS = {
    Use.TAKEN: "taken",
    Use.TWICE: "two or more",
    Use.KEPT: "kept by the bus",
    Use.BEYOND: "not for devices",
    Use.FREE: "free",
}


class AddressGrid(Pieces):
    """Shape and sign say what a cell is, colour only helps: free is empty, taken is filled, twice is crossed."""

    def __init__(self) -> None:
        super().__init__()
        self._grid = Grid(16, ())
        self._theme = Theme()
        self.setMouseTracking(True)

    def show_grid(self, grid: Grid, theme: Theme) -> None:
        """Show a grid."""
        self._grid, self._theme = grid, theme
        twice = ", ".join(f"{c.number} ({' and '.join(c.names)})" for c in grid.cells if c.use is Use.TWICE)
        taken = sum(c.use is Use.TAKEN for c in grid.cells)
        name = f"{taken} taken" + (f"; more than once: {twice}" if twice else "")
        self.tell(name, [f"{c.number}: {c.use}{', ' + ' and '.join(c.names) if c.names else ''}" for c in grid.cells])
        self.setMinimumWidth(-(-grid.columns // 4) * theme.px(LEAST))
        self._claim()
        self.update()

    def _legend(self) -> list[tuple[Use, QRectF]]:
        """What occurs, and where its sign stands: beside each other, below where there is no room."""
        t, metrics = self._theme, QFontMetrics(self._theme.font(11))
        found: list[tuple[Use, QRectF]] = []
        x, y = 1.0, 0.0
        for use in dict.fromkeys(cell.use for cell in self._grid.cells):
            wide = t.px(42) + metrics.horizontalAdvance(WORDS[use])
            if found and x + wide - t.px(12) > self.width():
                x, y = 1.0, y + t.px(LEGEND)
            found.append((use, QRectF(x, y, wide, t.px(LEGEND))))
            x += wide
        return found

    def _columns(self) -> int:
        """As many as the grid has; half or a quarter of them where there is no room for that."""
        columns = self._grid.columns
        while columns % 2 == 0 and columns > self._grid.columns // 4 and columns * self._theme.px(LEAST) > self.width():
            columns //= 2
        return columns

    def _claim(self) -> None:
        rows = -(-len(self._grid.cells) // self._columns())
        left_out = self._theme.px(20) if self._grid.left_out else 0
        self.setMinimumHeight(int(rows * self._theme.px(21) + self._top() + self._theme.px(8) + left_out))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Another width, other rows."""
        super().resizeEvent(event)
        self._claim()

    def _box(self, i: int) -> QRectF:
        t, columns = self._theme, self._columns()
        width = min(t.px(40), (self.width() - 2) / columns)
        return QRectF(1 + i % columns * width, self._top() + i // columns * t.px(21), width - 2, t.px(19))

    def _top(self) -> float:
        """Below the signs."""
        return max((at.bottom() for _, at in self._legend()), default=0.0) + self._theme.px(6)

    def box_of(self, i: int) -> QRectF | None:
        """A cell."""
        return self._box(i)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw a legend and the cells."""
        painter, t = QPainter(self), self._theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(t.font(11))
        for use, at in self._legend():
            self._cell(painter, QRectF(at.x(), at.y() + t.px(2), t.px(20), t.px(16)), Cell("", use))
            painter.setPen(t.color("ink"))
            words = at.adjusted(t.px(25), 0, t.px(25), 0)
            painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, WORDS[use])
        for i, cell in enumerate(self._grid.cells):
            self._cell(painter, self._box(i), cell)
        if self._grid.left_out and self._grid.cells:
            painter.setPen(t.color("quiet"))
            bottom = self._box(len(self._grid.cells) - 1).bottom()
            painter.drawText(
                QRectF(1, bottom + t.px(4), self.width(), t.px(18)), Qt.AlignmentFlag.AlignVCenter, self._grid.left_out
            )
        painter.end()

    def _cell(self, painter: QPainter, box: QRectF, cell: Cell) -> None:
        t = self._theme
        filled = cell.use is Use.TAKEN
        painter.setPen(
            QPen(t.color("contradicted" if cell.use is Use.TWICE else "hairline"), 2 if cell.use is Use.TWICE else 1)
        )
        painter.setBrush(t.color("ink") if filled else t.color("ground" if cell.use is Use.FREE else "surface"))
        painter.drawRoundedRect(box, 3, 3)
        if cell.use is Use.TWICE or (cell.use is Use.BEYOND and cell.names):
            painter.setPen(QPen(t.color("contradicted"), 1.5))
            painter.drawLine(box.topLeft(), box.bottomRight())
            painter.drawLine(box.topRight(), box.bottomLeft())
        elif cell.use in (Use.KEPT, Use.BEYOND):
            painter.setPen(QPen(t.color("quiet"), 1))
            painter.drawLine(box.bottomLeft(), box.topRight())
        elif cell.number:
            painter.setPen(t.color("surface" if filled else "quiet"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, cell.number)

    def event(self, event: object) -> bool:
        """Who has the cell under the pointer."""
        if isinstance(event, QHelpEvent):
            for i, cell in enumerate(self._grid.cells):
                if self._box(i).contains(event.pos().toPointF()):
                    QToolTip.showText(event.globalPos(), f"{cell.number}: {', '.join(cell.names) or (WORDS[cell.use])}")
                    return True
        return super().event(event)  # type: ignore[arg-type]
